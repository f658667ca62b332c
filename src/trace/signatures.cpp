#include "trace/signatures.h"

#include "benchmark/run_measures.h"
#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "benchmark/tolerances.h"
#include "quantity/format.h"
#include "trace/tolerances.h"

#include <algorithm>
#include <cmath>

namespace metrodos::trace {
namespace {

using benchmark::Direction;
using benchmark::Run;
using capacity::ElementPrediction;
using quantity::plain;

bool isFlat(const Run& run) {
    const auto spread = benchmark::secondsSpread(run);
    return spread && *spread < steadyBelow;
}

class Reader {
  public:
    Reader(const capacity::RoutePrediction& prediction, const catalog::Catalog& catalog,
           const std::vector<Run>& runs)
        : m_prediction(prediction)
        , m_catalog(catalog)
        , m_runs(runs) {}

    std::vector<Reading> all() {
        for (const Run& run : m_runs) {
            if (run.samples.size() < 5) continue;
            if (isFlat(run) && newestOfItsKind(run)) flatAtARate(run);
            aboveWhatIsPossible(run);
            theHostItself(run);
        }
        for (const Direction d : {Direction::forward, Direction::backward}) {
            farBelowEveryCeiling(d);
            streamsAgainstOne(d);
        }
        // The same reading of several runs is one reading.
        std::vector<Reading> once;
        for (Reading& r : m_readings)
            if (std::none_of(once.begin(), once.end(),
                             [&](const Reading& o) { return o.text == r.text && o.element == r.element; }))
                once.push_back(std::move(r));
        return once;
    }

  private:
    void say(const std::string& element, const std::string& text) { m_readings.push_back({element, text}); }
    void warn(const std::string& text) { say("", text); }

    // Ten flat runs say the same as the newest of them.
    [[nodiscard]] bool newestOfItsKind(const Run& run) const {
        return std::none_of(m_runs.begin() + (&run - m_runs.data()) + 1, m_runs.end(), [&](const Run& later) {
            return later.config.direction == run.config.direction && isFlat(later);
        });
    }

    void flatAtARate(const Run& run) {
        const capacity::Framing framing = capacity::framingOf(m_prediction.route);
        for (const catalog::Phy& phy : m_catalog.phys) {
            const BitRate net = capacity::goodput(phy.rate, framing);
            if (std::fabs(run.goodput.bps() / net.bps() - 1) > nearRate) continue;
            const std::string text =
                "flat at " + plain(run.goodput) + ": a " + phy.label + " link carries " + plain(net);
            bool found = false;
            for (const ElementPrediction& e : m_prediction.elements)
                if (e.element.kind == house::ElementKind::port &&
                    std::fabs(e.forward.p50.bps() / m_prediction.copyShare / net.bps() - 1) < 1e-6) {
                    say(e.element.id, text);
                    found = true;
                }
            if (!found)
                warn(text +
                     ", but no port of this route is known as one; read the negotiated rate at every port, "
                     "since two pairs or a bad crimp show like this");
            return;
        }
        for (const ElementPrediction& e : m_prediction.elements)
            if (e.element.kind == house::ElementKind::bus && run.goodput >= e.forward.p10 * (1 - nearRate) &&
                run.goodput <= e.forward.p90 * (1 + nearRate))
                say(e.element.id, std::string(benchmark::name(run.config.direction)) + " flat at " +
                                      plain(run.goodput) + ", where this socket carries " +
                                      plain(e.forward.p10) + " to " + plain(e.forward.p90));
    }

    void aboveWhatIsPossible(const Run& run) {
        if (const auto why = impossibility(m_prediction, run)) warn(*why);
    }

    // The machine at an end, behind its disks where files are copied.
    [[nodiscard]] std::string endOf(bool from) const {
        const auto& all = m_prediction.elements;
        const std::size_t disks = from ? (all.front().element.kind == house::ElementKind::storage ? 1 : 0)
                                       : (all.back().element.kind == house::ElementKind::storage ? 1 : 0);
        return (from ? all[disks] : all[all.size() - 1 - disks]).element.id;
    }

    void theHostItself(const Run& run) {
        const bool forward = run.config.direction == Direction::forward;
        const std::string sender = endOf(forward);
        const std::string receiver = endOf(!forward);
        if (run.cpuSender && *run.cpuSender >= benchmark::fullCore)
            say(sender, "one core was full while it sent");
        if (run.cpuReceiver && *run.cpuReceiver >= benchmark::fullCore)
            say(receiver, "one core was full while it received");
        if (run.senderLimited && run.senderLimited->receiverWindow > heldFrom)
            say(receiver, "its receive window was closed " +
                              quantity::significant(run.senderLimited->receiverWindow * 100, 2) +
                              " % of the time with " + std::to_string(run.config.streams) +
                              (run.config.streams == 1 ? " stream" : " streams"));
        if (run.senderLimited && run.senderLimited->sendBuffer > heldFrom)
            say(sender, "its send buffer ran empty");
    }

    void farBelowEveryCeiling(Direction d) {
        const auto summary = benchmark::capacitySummary(m_runs, d, benchmark::Rule::median);
        if (!summary) return;
        const BitRate measured = summary->goodput;
        const BitRate lowest = d == Direction::forward ? m_prediction.forward.p10 : m_prediction.backward.p10;
        if (measured.bps() < lowest.bps() * farBelow)
            m_readings.push_back({"",
                                  std::string("far below every ceiling ") +
                                      (d == Direction::forward ? "forward" : "backward") + ": " +
                                      plain(measured) + " where at least " + plain(lowest) + " was expected",
                                  true});
    }

    void streamsAgainstOne(Direction d) {
        std::vector<Run> one;
        std::vector<Run> many;
        for (const Run& run : m_runs)
            if (run.config.direction == d) (run.config.streams == 1 ? one : many).push_back(run);
        const auto single = benchmark::summarise(one, d, benchmark::Rule::median);
        const auto several = benchmark::summarise(many, d, benchmark::Rule::median);
        if (!single || !several || several->goodput.bps() < single->goodput.bps() * manyOverOne) return;
        const std::string rates = "several streams carry " + plain(several->goodput) + ", one carries " +
                                  plain(single->goodput) + ": ";
        // Only what was seen is claimed: a closed window, or segments that were lost.
        bool window = false;
        double loss = 0;
        std::optional<double> bound;
        for (const Run& run : one) {
            window = window || (run.senderLimited && run.senderLimited->receiverWindow > heldFrom);
            if (const auto share = benchmark::resentShare(run); share && *share > loss) {
                loss = *share;
                bound = mathisBound(run, *share);
            }
        }
        if (window)
            warn(rates + "one stream is held by its window over the delay, not by the medium");
        else if (loss > lossFrom)
            warn(rates + "segments are lost on the way (" + quantity::significant(loss * 100, 2) +
                 " % were sent again" +
                 (bound ? ", with which one stream carries about " + plain(BitRate::bitsPerSecond(*bound))
                        : "") +
                 "): cable, crimp, noise, or a switch with too small a buffer");
        else
            warn(rates + "one stream does not fill the way, and its figures do not say why");
    }

    static std::optional<double> mathisBound(const Run& run, double p) {
        const auto& rtt = run.rttLoadedUs ? run.rttLoadedUs : run.rttIdleUs;
        if (!rtt || p <= 0) return std::nullopt;
        return lossBound(rtt->p50) / std::sqrt(p);
    }

    const capacity::RoutePrediction& m_prediction;
    const catalog::Catalog& m_catalog;
    const std::vector<Run>& m_runs;
    std::vector<Reading> m_readings;
};

} // namespace

std::optional<std::string> impossibility(const capacity::RoutePrediction& prediction, const Run& run) {
    if (run.config.arrangement.setup != house::Setup::place)
        return std::nullopt; // nothing of the house was in the way
    for (const ElementPrediction& e : prediction.elements) {
        if (e.element.kind != house::ElementKind::port || e.forward.p10 != e.forward.p90) continue;
        // A port carries the same whatever a file protocol would make of it.
        const BitRate carries = e.forward.p90 * (1 / prediction.copyShare);
        if (run.goodput.bps() > carries.bps() * impossible)
            return "a run of " + plain(run.goodput) + " is more than " + e.element.label + " can carry (" +
                   plain(carries) + "): it went another way, or the survey is wrong there";
    }
    return std::nullopt;
}

std::vector<Reading> readSignatures(const capacity::RoutePrediction& prediction,
                                    const catalog::Catalog& catalog, const std::vector<Run>& runs) {
    return Reader(prediction, catalog, runs).all();
}

} // namespace metrodos::trace
