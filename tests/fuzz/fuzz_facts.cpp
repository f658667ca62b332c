// What a machine or an adapter says of itself, from whoever says it.
#include "probe/adapter_status.h"
#include "probe/channel.h"
#include "probe/machine.h"

#include <cstdlib>
#include <string_view>

using namespace metrodos;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const auto message = probe::parseMessage({reinterpret_cast<const char*>(data), size});
    if (!message) return 0;
    // What was read of a page reads back the same.
    if (const auto status = probe::adapterStatusOf(*message)) {
        const auto again = probe::adapterStatusOf(probe::toJson(*status));
        if (!again || probe::toJson(*again) != probe::toJson(*status)) std::abort();
    }
    const probe::MachineFacts facts = probe::readFacts(*message);
    if (facts.ports.size() > 64) std::abort();
    for (const std::string& remark : probe::remarks(facts, "10.0.0.2"))
        if (remark.empty() || remark.size() > 2000) std::abort();
    static const catalog::Catalog none;
    for (const probe::PartCeiling& c : probe::partCeilings(facts, none))
        if (!(c.goodput.bps() > 0)) std::abort();
    return 0;
}
