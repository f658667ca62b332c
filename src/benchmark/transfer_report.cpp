#include "benchmark/transfer_report.h"

#include "benchmark/run_parts.h"
#include "benchmark/tolerances.h"
#include "quantity/format.h"

#include <algorithm>
#include <array>

namespace metrodos::benchmark {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;

constexpr const char* transferFormat = "metrodos-transfer";
constexpr double maxTransferSeconds = 40.0 * 86400;
constexpr std::size_t maxPasses = 6; // one of each kind

template <typename Enum, std::size_t Count>
Enum wordOf(const json& value, const char* key, const std::array<Enum, Count>& all) {
    const std::string word = fields::neededText(value, key, 16);
    for (const Enum one : all)
        if (name(one) == word) return one;
    throw quantity::BadField{key};
}
constexpr std::array sources{TransferSource::memory, TransferSource::coldDisk, TransferSource::warmDisk};
constexpr std::array sinks{TransferSink::memory, TransferSink::disk};

// Two rates of one way that differ by less are one and the same limit.
constexpr double sameLimit = 0.9;

} // namespace

std::string_view name(TransferSource source) {
    switch (source) {
    case TransferSource::memory:
        return "memory";
    case TransferSource::coldDisk:
        return "cold_disk";
    case TransferSource::warmDisk:
        return "warm_disk";
    }
    return "";
}

std::string_view name(TransferSink sink) {
    return sink == TransferSink::memory ? "memory" : "disk";
}

json toJson(const TransferReport& r) {
    json passes = json::array();
    for (const TransferPass& p : r.passes)
        passes.push_back({{"source", name(p.source)},
                          {"sink", name(p.sink)},
                          {"bps", p.rate.bps()},
                          {"bytes_per_second", p.rate.bps() / 8},
                          {"seconds", p.seconds},
                          {"sync_s", p.syncSeconds},
                          {"cached_at_start", fields::orNull(p.cachedAtStart)}});
    json out{{"bytes", r.bytes}, {"from", r.from}, {"to", r.to}, {"passes", std::move(passes)}};
    writeHead(out, transferFormat, r.head);
    return out;
}

quantity::Result<TransferReport> readTransferReport(const json& document) {
    return readingReport([&] {
        TransferReport r;
        r.head = readHead(document, transferFormat);
        r.bytes = fields::neededCount(document, "bytes");
        r.from = fields::text(document, "from", 400);
        r.to = fields::text(document, "to", 400);
        const json* passes = fields::list(document, "passes", maxPasses);
        if (passes == nullptr || passes->empty()) throw quantity::BadField{"passes"};
        for (const json& one : *passes)
            r.passes.push_back({wordOf(one, "source", sources), wordOf(one, "sink", sinks),
                                BitRate::bitsPerSecond(fields::neededNumber(one, "bps", 0, maxBps)),
                                fields::neededNumber(one, "seconds", 0, maxTransferSeconds),
                                fields::neededNumber(one, "sync_s", 0, maxTransferSeconds),
                                fields::number(one, "cached_at_start", 0, 1)});
        return r;
    });
}

const TransferPass* passOf(const TransferReport& report, TransferSource source, TransferSink sink) {
    for (const TransferPass& p : report.passes)
        if (p.source == source && p.sink == sink) return &p;
    return nullptr;
}

std::vector<std::string> sentences(const TransferReport& r) {
    const TransferPass* network = passOf(r, TransferSource::memory, TransferSink::memory);
    const TransferPass* reading = passOf(r, TransferSource::coldDisk, TransferSink::memory);
    const TransferPass* warm = passOf(r, TransferSource::warmDisk, TransferSink::memory);
    const TransferPass* writing = passOf(r, TransferSource::memory, TransferSink::disk);
    const TransferPass* whole = passOf(r, TransferSource::coldDisk, TransferSink::disk);
    std::vector<std::string> out;
    if (whole != nullptr) {
        out.push_back("A copy from disk to disk carries " + plainBoth(whole->rate) + ", " +
                      quantity::plain(quantity::ByteCount{r.bytes}) + " in " +
                      quantity::significant(whole->seconds, 3) + " s until it is on the disk.");
        struct Part {
            const TransferPass* pass;
            std::string words;
        };
        std::vector<Part> parts;
        for (const Part& part :
             {Part{network, "the network alone"}, Part{reading, "reading the disk of " + r.from},
              Part{writing, "writing to the disk of " + r.to}})
            if (part.pass != nullptr) parts.push_back(part);
        std::ranges::sort(parts, {}, [](const Part& part) { return part.pass->rate; });
        if (parts.size() == 3) {
            // The slowest decides; where the next is hardly faster, both do.
            const bool isAlone = parts[0].pass->rate.bps() < sameLimit * parts[1].pass->rate.bps();
            std::string text = "What decides is " + parts[0].words + ", " + plainBoth(parts[0].pass->rate);
            text += isAlone ? "; " : ", and " + parts[1].words + ", " + plainBoth(parts[1].pass->rate) + "; ";
            text += isAlone ? parts[1].words + " gives " + plain(parts[1].pass->rate) + ", " : "";
            out.push_back(text + parts[2].words + " gives " + plain(parts[2].pass->rate) + ".");
        }
    } else if (!r.passes.empty()) {
        for (const TransferPass* pass : {network, reading, writing})
            if (pass != nullptr)
                out.push_back((pass == network   ? "From memory to memory "
                               : pass == reading ? "From the disk of " + r.from + " to memory "
                                                 : "From memory to the disk of " + r.to + " ") +
                              plainBoth(pass->rate) + ".");
    }
    constexpr double tooShort = 1; // s: read-ahead and the caches of disks are not filled yet
    if (whole != nullptr && whole->seconds < tooShort)
        out.push_back("A copy that takes less than a second says little of the disks: choose a larger file.");
    for (const TransferPass* pass : {reading, whole})
        if (pass != nullptr && pass->cachedAtStart.value_or(1) >= coldBelow) {
            out.push_back(
                "The memory of " + r.from +
                " could not be emptied of the file, so that reading it may have been faster than the disk.");
            break;
        }
    if (warm != nullptr && reading != nullptr && warm->rate.bps() * sameLimit > reading->rate.bps())
        out.push_back("Read a second time, from memory, it carries " + plainBoth(warm->rate) + ".");
    return out;
}

} // namespace metrodos::benchmark
