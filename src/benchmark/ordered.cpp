#include "benchmark/ordered.h"

#include "benchmark/run_measures.h"
#include "quantity/format.h"

namespace metrodos::benchmark {

std::vector<std::string> orderedOtherwise(const RunConfig& c) {
    std::vector<std::string> out;
    if (c.rate && c.protocol == Protocol::tcp) out.push_back("paced at " + quantity::plain(*c.rate));
    if (!c.congestion.empty()) out.push_back("congestion control " + c.congestion);
    if (c.windowBytes > 0) out.push_back("window of " + bytesText(static_cast<double>(c.windowBytes)));
    if (c.segmentBytes > 0)
        out.push_back(std::string(c.protocol == Protocol::tcp ? "segments" : "datagrams") + " of " +
                      std::to_string(c.segmentBytes) + " bytes");
    if (c.dscp > 0) out.push_back("DSCP " + std::to_string(c.dscp));
    if (c.ipVersion != 0) out.push_back("over IPv" + std::to_string(c.ipVersion));
    if (!c.bind.empty()) out.push_back("from " + c.bind);
    if (c.maxBytes > 0) out.push_back("no more than " + bytesText(static_cast<double>(c.maxBytes)));
    if (c.warmup) out.push_back("warm-up of " + quantity::significant(*c.warmup, 2) + " s as ordered");
    return out;
}

} // namespace metrodos::benchmark
