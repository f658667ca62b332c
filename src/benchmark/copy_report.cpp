#include "benchmark/copy_report.h"

#include "benchmark/run_parts.h"
#include "benchmark/tolerances.h"
#include "quantity/format.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;

constexpr const char* copyFormat = "metrodos-copy";
constexpr double maxCopySeconds = 40.0 * 86400;

json toJson(const CopyPass& p) {
    return {{"bps", p.rate.bps()},
            {"bytes_per_second", p.rate.bps() / 8},
            {"seconds", p.seconds},
            {"bps_by_tenth", p.bpsByTenth},
            {"cached_at_start", fields::orNull(p.cachedAtStart)}};
}

CopyPass readPass(const json& value) {
    return {BitRate::bitsPerSecond(fields::neededNumber(value, "bps", 0, maxBps)),
            fields::neededNumber(value, "seconds", 0, maxCopySeconds),
            fields::numbers(value, "bps_by_tenth", 10, 0, maxBps),
            fields::number(value, "cached_at_start", 0, 1)};
}

CopyPass neededPass(const json& document, const char* key) {
    const json* value = fields::find(document, key);
    if (value == nullptr) throw quantity::BadField{key};
    return readPass(*value);
}

} // namespace

json toJson(const CopyReport& r) {
    json out{{"bytes", r.bytes},
             {"write", toJson(r.write)},
             {"cold_read", r.cold ? toJson(*r.cold) : json(nullptr)},
             {"warm_read", toJson(r.warm)}};
    if (!r.folder.empty()) out["folder"] = r.folder;
    if (r.network) out["network_bps"] = r.network->bps();
    writeHead(out, copyFormat, r.head);
    return out;
}

quantity::Result<CopyReport> readCopyReport(const json& document) {
    return readingReport([&] {
        CopyReport r;
        r.head = readHead(document, copyFormat);
        r.bytes = fields::neededCount(document, "bytes");
        r.write = neededPass(document, "write");
        if (fields::find(document, "cold_read") != nullptr) r.cold = neededPass(document, "cold_read");
        r.warm = neededPass(document, "warm_read");
        r.folder = fields::text(document, "folder", 4096);
        if (const auto bps = fields::number(document, "network_bps", 0, maxBps))
            r.network = BitRate::bitsPerSecond(*bps);
        return r;
    });
}

std::vector<std::string> sentences(const CopyReport& r) {
    std::vector<std::string> out;
    out.push_back(
        "Writes " + plainBoth(r.write.rate) +
        (r.cold ? ", reads " + plainBoth(r.cold->rate) + "."
                : "; reading cold could not be taken here, since this machine keeps the file in memory."));
    if (!r.network) {
        out.push_back(
            "Run the route as well: only beside the bare network does this say what the disk takes.");
        return out;
    }
    const double best = std::max(r.write.rate.bps(), r.cold ? r.cold->rate.bps() : 0);
    const double network = r.network->bps();
    out.push_back("The network alone gave " + plain(*r.network) +
                  (best > copyAboveNetwork * network
                       ? ", which is less: this folder does not lie at the other end of this route."
                   : best < copyBelowNetwork * network ? ": the disk or the file protocol takes the rest."
                                                       : ": the disk and the file protocol take little."));
    return out;
}

} // namespace metrodos::benchmark
