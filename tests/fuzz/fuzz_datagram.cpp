// What anybody can send to the UDP ports of a run: openings, and then the input cut into datagrams of a flow.
#include "benchmark/datagrams.h"
#include "probe/datagram_format.h"

#include <cstdlib>

using namespace metrodos;
using namespace metrodos::probe;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::span<const std::uint8_t> all(data, size);
    if (const auto opening = readOpening(all)) {
        // What was read is written as it came.
        const auto again = write(*opening);
        if (opening->kind != OpeningKind::hello &&
            !std::equal(again.begin(), again.end(), all.begin(), all.end()))
            std::abort();
    }
    benchmark::DatagramStatistics statistics;
    std::uint64_t heads = 0;
    std::uint64_t taken = 0;
    std::int64_t clock = 0;
    for (std::size_t at = 0; at + flowHeadBytes <= size; at += flowHeadBytes) {
        const auto head = readHead(all.subspan(at, flowHeadBytes));
        if (!head) continue;
        ++heads;
        if (statistics.take(head->number, head->sentNs, clock += 1000)) ++taken;
    }
    const benchmark::DatagramCount count = statistics.count();
    // What is taken is the first of its number; a second is counted apart, and what lies far off is not
    // counted at all.
    if (count.received != taken || taken + count.duplicates > heads || taken > count.sent) std::abort();
    (void)statistics.takeLoss();
    return 0;
}
