#include "benchmark/search_report.h"

#include "benchmark/run_parts.h"
#include "quantity/format.h"
#include "quantity/text.h"

namespace metrodos::benchmark {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;

constexpr const char* searchFormat = "metrodos-search";
constexpr std::size_t maxTrials = 100;

} // namespace

SearchReport reportOf(const SearchResult& result, const SearchSettings& settings) {
    SearchReport out;
    out.acceptedLoss = settings.acceptedLoss;
    out.best = result.best;
    out.failed = result.failed;
    for (const Run& run : result.trials) {
        const double shortfall = run.datagrams ? run.datagrams->shortfall() : 1;
        out.head.simulated = out.head.simulated || run.simulated;
        out.direction = run.config.direction;
        if (run.config.rate)
            out.trials.push_back(
                {*run.config.rate, run.goodput, shortfall, shortfall <= settings.acceptedLoss});
    }
    if (!result.trials.empty()) out.head.startedAt = result.trials.front().startedAt;
    return out;
}

json toJson(const SearchReport& r) {
    json trials = json::array();
    for (const SearchStep& t : r.trials)
        trials.push_back({{"rate_bps", t.pace.bps()},
                          {"goodput_bps", t.goodput.bps()},
                          {"shortfall", t.shortfall},
                          {"passed", t.passed}});
    json out{{"direction", r.direction ? json(name(*r.direction)) : json(nullptr)},
             {"accepted_loss", r.acceptedLoss},
             {"best_bps", toJson(r.best)},
             {"failed_bps", toJson(r.failed)},
             {"trials", std::move(trials)}};
    writeHead(out, searchFormat, r.head);
    return out;
}

quantity::Result<SearchReport> readSearchReport(const json& document) {
    return readingReport([&] {
        SearchReport r;
        r.head = readHead(document, searchFormat);
        if (fields::find(document, "direction") != nullptr)
            r.direction = fields::word(document, "direction", &direction);
        r.acceptedLoss = fields::neededNumber(document, "accepted_loss", 0, 1);
        r.best = readRate(document, "best_bps");
        r.failed = readRate(document, "failed_bps");
        if (const json* list = fields::list(document, "trials", maxTrials))
            for (const json& t : *list)
                if (const auto pace = readRate(t, "rate_bps"))
                    r.trials.push_back({*pace, readRate(t, "goodput_bps").value_or(BitRate()),
                                        fields::neededNumber(t, "shortfall", 0, 1),
                                        fields::neededFlag(t, "passed")});
        return r;
    });
}

std::vector<std::string> sentences(const SearchReport& r) {
    const std::string loss = quantity::significant(r.acceptedLoss * 100, 2) + " % lost";
    if (!r.best && r.trials.size() < 2)
        return {quantity::counted(static_cast<long long>(r.trials.size()), "trial") + " so far."};
    if (!r.best) return {"No rate that was tried passed with at most " + loss + "."};
    std::vector<std::string> out{plainBoth(*r.best) + " is the loss-free rate: the highest with at most " +
                                 loss + "."};
    out.push_back(r.failed ? plain(*r.failed) + " lost more."
                           : std::string("That is where the search began: the route may carry more."));
    return out;
}

} // namespace metrodos::benchmark
