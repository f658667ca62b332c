#include "report/plan_report.h"

#include "quantity/format.h"
#include "weigh/compare.h"

namespace metrodos::report {
namespace {

using quantity::plain;
using quantity::significant;

// What would be taken for marks of the form; a bar would end a cell.
std::string safe(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '|' || c == '*' || c == '_' || c == '`' || c == '<' || c == '[' || c == '#' || c == '\\')
            out += '\\';
        out += c == '\n' || c == '\r' ? ' ' : c;
    }
    return out;
}

std::string row(const std::vector<std::string>& cells) {
    std::string out = "|";
    for (const std::string& cell : cells)
        out += " " + cell + " |";
    return out + "\n";
}

std::string needText(const weigh::Need& need) {
    if (!need.any()) return "none";
    return plain(need.down) + " there, " + plain(need.up) + " back" + (need.steady ? ", steadily" : "");
}

} // namespace

std::string planMarkdown(const std::string& title, const weigh::Options& options, const weigh::Prices& prices,
                         const weigh::Plan& plan, const std::vector<fit::Step>& steps) {
    std::string out = "# " + safe(title) + ": plan\n\n";
    out += safe(plan.label) + ": **" + safe(weigh::amount(prices, plan.cost)) + "**, " +
           weigh::workTime(std::max(plan.minutes, 1.0)) + " of own work, " +
           (plan.holes == 0 ? "no holes" : std::to_string(plan.holes) + " holes") + ". " +
           safe(weigh::verdictOf(plan)) +
           ". All figures are predictions, but for those that are called measured.\n\n";
    for (const std::string& note : plan.notes)
        out += "- " + safe(note) + ".\n";
    out += "\n## What goes where\n\n" +
           row({"spot", "need", "way", "at least", "middle", "needs could grow"}) +
           row({"---", "---", "---", "---", "---", "---"});
    for (std::size_t i = 0; i < plan.spots.size(); ++i) {
        const weigh::SpotResult& s = plan.spots[i];
        const weigh::SpotOptions& spot = options.spots[i];
        if (s.way < 0) {
            out += row({safe(spot.label), needText(spot.need), "none", "–", "–", "–"});
            continue;
        }
        const weigh::SpotWay& way = spot.way(s.way);
        const std::string measured = way.measuredDown ? ", measured " + plain(*way.measuredDown) : "";
        out += row({safe(spot.label) + (spot.isPeer ? " (others draw from it)" : ""), needText(spot.need),
                    safe(way.label) + (!s.carried ? " (falls short)"
                                       : !s.isFed ? " (the service brings less)"
                                                  : ""),
                    plain(s.p10), plain(s.p50) + measured,
                    !spot.need.any()    ? "–"
                    : s.headroom >= 100 ? "100 times and more"
                                        : significant(s.headroom, 3) + " times" +
                                              (s.houseHeadroom > s.headroom * 1.01
                                                   ? ", the house alone " + significant(s.houseHeadroom, 3)
                                                   : "")});
    }
    out += "\n## Parts\n\n" + row({"part", "count", "unit", "in the van", "each", "to pay"}) +
           row({"---", "---:", "---", "---:", "---:", "---:"});
    for (const weigh::PartLine& p : plan.parts)
        out += row({safe(p.label), weigh::countText(p.count), p.unit, std::to_string(p.fromStock),
                    safe(weigh::amount(prices, p.unitPrice)), safe(weigh::amount(prices, p.total))});
    out += row({"**together**", "", "", "", "", "**" + safe(weigh::amount(prices, plan.cost)) + "**"});
    if (!steps.empty()) out += "\n## To do\n\n";
    for (std::size_t i = 0; i < steps.size(); ++i)
        out += std::to_string(i + 1) + ". " + safe(steps[i].what) +
               (steps[i].why.empty() ? "" : ": " + safe(steps[i].why)) + ".\n";
    return out +
           "\nGuidance, not certification: fixed wiring is a licensed electrician's under local code.\n";
}

} // namespace metrodos::report
