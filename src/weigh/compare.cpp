#include "weigh/compare.h"

#include "quantity/format.h"

#include <cmath>

namespace metrodos::weigh {
namespace {

std::string labelOf(const Options& options, std::size_t spot, int way) {
    return way < 0 ? "" : options.spots[spot].way(way).label;
}

int carried(const Plan& plan) {
    int out = 0;
    for (const SpotResult& s : plan.spots)
        out += s.carried ? 1 : 0;
    return out;
}

} // namespace

std::string verdictOf(const Plan& plan) {
    // Of some hundred drawn houses nothing is certain.
    const auto percent = [](double share) {
        return share > 0.995  ? std::string("over 99 %")
               : share < 0.01 ? std::string("under 1 %")
                              : quantity::significant(share * 100, 2) + " %";
    };
    if (plan.carriesAll)
        return percent(plan.soundShare) + " likely to be enough with everything in use; " +
               percent(plan.carriedShare) + " before the faults that fitting brings to light are put right";
    if (plan.wiringCarriesAll)
        return "The service brings less than is wanted; the wiring is predicted to carry all that it brings";
    return plan.limits.empty() ? std::string("Not every need is carried")
                               : "Not every need is carried: " + plan.limits.back().because;
}

std::string amount(const Prices& prices, Money money) {
    return amount(prices.currency(), money);
}

std::string amount(const std::string& currency, Money money) {
    std::string out = quantity::plain(money);
    const std::string sign = "¤";
    out.replace(out.find(sign), sign.size(), currency);
    return out;
}

std::string countText(double count) {
    return count == std::floor(count) ? std::to_string(static_cast<long long>(count))
                                      : quantity::significant(count, 3);
}

std::string workTime(double minutes) {
    const auto whole = std::lround(minutes);
    const std::string rest = std::to_string(whole % 60) + " min";
    return whole < 60 ? rest : std::to_string(whole / 60) + " h" + (whole % 60 == 0 ? "" : " " + rest);
}

Comparison compare(const Options& options, const Prices& prices, const Plan& a, const Plan& b) {
    Comparison out;
    out.costA = a.cost;
    out.costB = b.cost;
    for (std::size_t i = 0; i < a.spots.size() && i < b.spots.size(); ++i)
        if (a.spots[i].wayId != b.spots[i].wayId || a.spots[i].deviceClass != b.spots[i].deviceClass ||
            a.spots[i].carried != b.spots[i].carried)
            out.spots.push_back({a.spots[i].spot, options.spots[i].label, labelOf(options, i, a.spots[i].way),
                                 labelOf(options, i, b.spots[i].way), a.spots[i].wayId, b.spots[i].wayId,
                                 a.spots[i].deviceClass, b.spots[i].deviceClass, a.spots[i].p10,
                                 b.spots[i].p10, a.spots[i].carried, b.spots[i].carried});
    if (out.spots.empty()) {
        out.buys = "Both are the same plan.";
        return out;
    }
    const auto more = [](double difference, const std::string& much, const char* up, const char* down) {
        return much + (difference > 0 ? up : down);
    };
    std::vector<std::string> words;
    if (const auto d = b.cost.hundredths - a.cost.hundredths; d != 0)
        words.push_back("costs " +
                        more(static_cast<double>(d), amount(prices, Money{std::abs(d)}), " more", " less"));
    if (const double d = b.minutes - a.minutes; std::fabs(d) >= 1)
        words.push_back("takes " + more(d, workTime(std::fabs(d)), " longer", " less"));
    if (const int d = b.holes - a.holes; d != 0)
        words.push_back("needs " + more(d, std::to_string(std::abs(d)), " more holes", " holes fewer"));
    if (const int d = carried(b) - carried(a); d != 0)
        words.push_back("carries " + more(d, std::to_string(std::abs(d)), " more needs", " needs fewer"));
    if (a.headroom > 0 && std::fabs(b.headroom / a.headroom - 1) > 0.05)
        words.push_back("its tightest need has " + quantity::significant(b.headroom, 2) +
                        " times what it takes, not " + quantity::significant(a.headroom, 2));
    if (const double d = b.years - a.years; std::fabs(d) >= 1)
        words.push_back("lasts " +
                        more(d, quantity::significant(std::fabs(d), 2) + " years", " longer", " less"));
    out.buys = "The second";
    for (std::size_t i = 0; i < words.size(); ++i)
        out.buys += (i == 0 ? " " : i + 1 == words.size() ? " and " : ", ") + words[i];
    if (words.empty()) out.buys += " comes to the same";
    out.buys += ".";
    return out;
}

} // namespace metrodos::weigh
