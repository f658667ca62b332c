#include "benchmark/run_sheet.h"

#include "benchmark/ordered.h"
#include "benchmark/remarks.h"
#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "quantity/format.h"
#include "quantity/text.h"

#include <algorithm>

namespace metrodos::benchmark {
namespace {

using quantity::plainMicroseconds;
using quantity::significant;

std::string shareOf(double share) {
    return significant(share * 100, share < 0.1 ? 2 : 3) + " %";
}

// Collects the figures of one group.
class Group {
  public:
    explicit Group(std::string name)
        : m_group{std::move(name), {}} {}
    void add(std::string name, std::string figure, std::string meaning = {}) {
        if (!figure.empty())
            m_group.figures.push_back({std::move(name), std::move(figure), std::move(meaning)});
    }
    /// The one of this name that figuresOf has; nothing where it was not taken.
    void take(const std::vector<NamedFigure>& figures, std::string_view name) {
        const auto it = std::find_if(figures.begin(), figures.end(),
                                     [&](const NamedFigure& f) { return f.name == name; });
        if (it != figures.end()) m_group.figures.push_back(*it);
    }
    void into(std::vector<SheetGroup>& sheet) && {
        if (!m_group.figures.empty()) sheet.push_back(std::move(m_group));
    }

  private:
    SheetGroup m_group;
};

std::string percentiles(const std::optional<Percentiles>& p) {
    if (!p) return {};
    std::string out = plainMicroseconds(p->p50) + " · " + plainMicroseconds(p->p95);
    if (p->p99) out += " · " + plainMicroseconds(*p->p99);
    if (p->max) out += " · " + plainMicroseconds(*p->max);
    return out;
}

using Figures = std::vector<NamedFigure>;

void addRate(std::vector<SheetGroup>& sheet, const Run& run, const Figures& figures) {
    Group group("Rate");
    group.add("goodput", quantity::plainBoth(run.goodput), "payload that arrived, warm-up left out");
    const std::vector<double> seconds = wholeSeconds(run);
    if (seconds.size() >= 2) {
        const auto [least, most] = std::minmax_element(seconds.begin(), seconds.end());
        group.add("slowest · fastest",
                  quantity::plain(BitRate::bitsPerSecond(*least)) + " · " +
                      quantity::plain(BitRate::bitsPerSecond(*most)),
                  "of the whole seconds after the warm-up");
    }
    if (const auto spread = secondsSpread(run))
        group.add("spread", shareOf(*spread), "standard deviation ÷ mean of the whole seconds");
    group.add("moved", bytesText(payloadBytes(run)) + " in " + significant(run.seconds, 3) + " s");
    if (run.warmupSeconds > 0) group.add("warm-up", significant(run.warmupSeconds, 2) + " s left out");
    group.take(figures, "transfer time ratio");
    std::move(group).into(sheet);
}

void addDelay(std::vector<SheetGroup>& sheet, const Run& run, const Figures& figures) {
    Group group("Delay");
    const std::string four = "half, 95 %, 99 % of the round trips are no longer, and the longest";
    group.add("idle", percentiles(run.rttIdleUs), four);
    group.add("loaded", percentiles(run.rttLoadedUs), four);
    if (run.rttIdleUs && run.rttLoadedUs)
        group.add("queueing delay",
                  plainMicroseconds(std::max(0.0, run.rttLoadedUs->p50 - run.rttIdleUs->p50)),
                  "what the load adds to the median");
    for (const char* name : {"queue", "buffer delay", "loaded round trips a minute", "spike", "spikes"})
        group.take(figures, name);
    if (run.rttLoadedUs && run.spikes.empty())
        group.add("spikes", "none", "round trips far above the others");
    if (run.delayLost) group.add("probes lost", std::to_string(*run.delayLost));
    std::move(group).into(sheet);
}

void addSender(std::vector<SheetGroup>& sheet, const Run& run, const Figures& figures) {
    Group group("Sender");
    if (run.retransmits) {
        const auto share = resentShare(run);
        group.add("sent again",
                  std::to_string(*run.retransmits) + (share ? " · " + shareOf(*share) : std::string()),
                  "segments, and their share");
    }
    group.take(figures, "TCP efficiency");
    std::vector<double> windows;
    for (const Sample& s : run.samples)
        if (s.windowBytes && s.t > run.warmupSeconds) windows.push_back(*s.windowBytes);
    if (!windows.empty()) {
        const auto needed = bandwidthDelayBytes(run);
        group.add("window",
                  bytesText(quantile(windows, 0.5)) +
                      (needed ? " · " + bytesText(*needed) + " needed" : std::string()),
                  "median of the congestion windows together, and bandwidth × idle delay");
    }
    if (run.senderLimited)
        group.add("held by",
                  "network " + shareOf(run.senderLimited->network) + ", receive window " +
                      shareOf(run.senderLimited->receiverWindow) + ", send buffer " +
                      shareOf(run.senderLimited->sendBuffer),
                  "shares of the time that the sender was busy");
    group.add("in a sentence", heldBack(run).sentence);
    std::move(group).into(sheet);
}

void addDatagrams(std::vector<SheetGroup>& sheet, const Run& run) {
    if (!run.datagrams) return;
    const DatagramCount& d = *run.datagrams;
    Group group("Datagrams");
    group.add("sent", std::to_string(d.sent) +
                          (d.unsent > 0 ? " · " + std::to_string(d.unsent) + " not in time" : ""));
    group.add("lost", shareOf(d.lossRatio()));
    group.add("reordered", std::to_string(d.reordered), "came after a later one (RFC 4737)");
    group.add("twice", std::to_string(d.duplicates));
    group.add("dropped there", std::to_string(d.dropped),
              "at its own full socket: the host, not the network");
    group.add("jitter", plainMicroseconds(d.jitterUs), "interarrival jitter (RFC 3550, 6.4.1)");
    group.add("variation", percentiles(d.variationUs), "one-way delay above the least of the run (RFC 3393)");
    std::move(group).into(sheet);
}

void addStreams(std::vector<SheetGroup>& sheet, const Run& run) {
    std::vector<double> sums;
    double seconds = 0;
    double last = 0;
    for (const Sample& s : run.samples) {
        const double length = s.t - last;
        last = s.t;
        if (s.streamBps.empty() || s.t <= run.warmupSeconds) continue;
        sums.resize(std::max(sums.size(), s.streamBps.size()));
        for (std::size_t i = 0; i < s.streamBps.size(); ++i)
            sums[i] += s.streamBps[i] * length;
        seconds += length;
    }
    Group group("Streams");
    for (std::size_t i = 0; i < sums.size() && seconds > 0; ++i)
        group.add("stream " + std::to_string(i + 1),
                  quantity::plain(BitRate::bitsPerSecond(sums[i] / seconds)));
    std::move(group).into(sheet);
}

void addMachines(std::vector<SheetGroup>& sheet, const Run& run) {
    Group group("Machines");
    const auto core = [](const std::optional<double>& busy, const std::optional<double>& own) {
        if (!busy) return std::string();
        return shareOf(*busy) + (own ? " · " + significant(*own, 2) + " cores by itself" : std::string());
    };
    const char* meaning = "of the busiest core; and what the endpoint took of all cores";
    group.add("sender", core(run.cpuSender, run.cpuProcessSender), meaning);
    group.add("receiver", core(run.cpuReceiver, run.cpuProcessReceiver), meaning);
    group.add("way out", crossing(run, run.interfaceSender));
    group.add("way in", crossing(run, run.interfaceReceiver));
    std::move(group).into(sheet);
}

void addConditions(std::vector<SheetGroup>& sheet, const Run& run) {
    Group group("Order and conditions");
    std::string order;
    for (const std::string& one : orderedOtherwise(run.config))
        order += (order.empty() ? "" : ", ") + one;
    group.add("ordered", order.empty() ? "as usual" : order);
    if (run.conditions.othersActive)
        group.add("others", *run.conditions.othersActive ? "used the network" : "did not use the network");
    std::string appliances;
    for (const std::string& a : run.conditions.appliances)
        appliances += (appliances.empty() ? "" : ", ") + a;
    group.add("appliances", appliances);
    group.add("changed", run.conditions.changed);
    if (run.conditions.radioUp)
        group.add("radio", *run.conditions.radioUp ? "up at one of the machines" : "up at neither machine");
    if (run.conditions.hour) group.add("hour", std::to_string(*run.conditions.hour) + " o'clock");
    group.add("redirected to", run.redirectedTo);
    std::move(group).into(sheet);
}

} // namespace

std::string crossing(const Run& run, const std::optional<InterfaceCount>& count) {
    if (!count || count->name.empty()) return {};
    constexpr double enough = 0.9; // the counter and the samples do not begin at the same moment
    const double payload = payloadBytes(run);
    std::string out = count->name + ": ";
    out += static_cast<double>(count->bytes) >= enough * payload
               ? "all bytes crossed it"
               : "it saw " + bytesText(static_cast<double>(count->bytes)) + " of " + bytesText(payload);
    if (count->radio == true) out += ", by radio";
    if (count->errors)
        out += *count->errors == 0 ? ", no errors" : ", " + std::to_string(*count->errors) + " errors";
    return out;
}

std::vector<SheetGroup> sheetOf(const Run& run, std::optional<BitRate> attainable) {
    const Figures figures = figuresOf(run, attainable);
    std::vector<SheetGroup> out;
    addRate(out, run, figures);
    addDelay(out, run, figures);
    if (run.config.protocol == Protocol::tcp) addSender(out, run, figures);
    addDatagrams(out, run);
    addStreams(out, run);
    addMachines(out, run);
    addConditions(out, run);
    return out;
}

std::vector<SheetPair> beside(const std::vector<SheetGroup>& first, const std::vector<SheetGroup>& second) {
    std::vector<SheetPair> out;
    const auto at = [&](const std::string& group, const std::string& name) {
        return std::find_if(out.begin(), out.end(),
                            [&](const SheetPair& p) { return p.group == group && p.name == name; });
    };
    for (const SheetGroup& g : first)
        for (const NamedFigure& f : g.figures)
            out.push_back({g.name, f.name, f.figure, "", f.meaning});
    for (const SheetGroup& g : second)
        for (const NamedFigure& f : g.figures) {
            const auto known = at(g.name, f.name);
            if (known != out.end()) {
                known->second = f.figure;
                continue;
            }
            // Behind the last of its group.
            const auto last =
                std::find_if(out.rbegin(), out.rend(), [&](const SheetPair& p) { return p.group == g.name; });
            out.insert(last == out.rend() ? out.end() : last.base(),
                       {g.name, f.name, "", f.figure, f.meaning});
        }
    return out;
}

} // namespace metrodos::benchmark
