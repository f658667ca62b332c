#include "report/proof.h"

#include "quantity/format.h"
#include "quantity/moment.h"
#include "quantity/text.h"

#include <algorithm>

namespace metrodos::report {

std::string dayOf(const benchmark::RouteRun& r) {
    const auto at = quantity::utcSeconds(r.run.startedAt);
    return at ? quantity::localTime(*at).dateText() : std::string();
}

std::vector<int> Proof::numbersOf(const std::vector<const benchmark::RouteRun*>& runs) {
    std::vector<int> out;
    for (const benchmark::RouteRun* r : runs) {
        const auto [known, isNew] = m_numbers.try_emplace(r->run.id, static_cast<int>(m_named.size()) + 1);
        if (isNew) m_named.push_back(r);
        out.push_back(known->second);
    }
    return out;
}

std::vector<int> Proof::numbersOf(const benchmark::RouteRuns& runs, const house::Id& route,
                                  const std::vector<std::string>& leftOut) {
    std::vector<const benchmark::RouteRun*> out;
    for (const auto direction : {benchmark::Direction::forward, benchmark::Direction::backward})
        for (const benchmark::RouteRun& r : runs)
            if (r.route == route && r.run.config.direction == direction &&
                std::find(leftOut.begin(), leftOut.end(), r.run.id) == leftOut.end())
                out.push_back(&r);
    return numbersOf(out);
}

std::vector<ProofRun> Proof::list() const {
    constexpr std::size_t many = 6;
    std::vector<ProofRun> out;
    const auto alike = [&](std::size_t a, std::size_t b) {
        return dayOf(*m_named[a]) == dayOf(*m_named[b]) && howWords(*m_named[a]) == howWords(*m_named[b]);
    };
    for (std::size_t from = 0, to = 0; from < m_named.size(); from = to) {
        for (to = from + 1; to < m_named.size() && alike(from, to);)
            ++to;
        if (to - from > many) {
            out.push_back({m_named[from]->run.id, groupWords(from, to), static_cast<int>(to - from)});
            continue;
        }
        for (std::size_t i = from; i < to; ++i)
            out.push_back({m_named[i]->run.id, runWords(*m_named[i])});
    }
    return out;
}

// Which way, and how.
std::string Proof::howWords(const benchmark::RouteRun& r) const {
    const benchmark::Run& run = r.run;
    const house::Route* route = m_house.route(r.route);
    return (route == nullptr ? r.route : route->label) + ", " + name(run.config.direction) + ", " +
           (run.config.protocol == benchmark::Protocol::tcp ? "TCP, " : "UDP, ") +
           quantity::counted(run.config.streams, "stream") + ", " + quantity::significant(run.seconds, 3) +
           " s" + (run.simulated ? ", simulated" : "") + (run.complete ? "" : ", cut off");
}

std::string Proof::runWords(const benchmark::RouteRun& r) const {
    return r.run.startedAt + ", " + howWords(r) + ", " + quantity::plainBoth(r.run.goodput);
}

std::string Proof::groupWords(std::size_t from, std::size_t to) const {
    quantity::BitRate low = m_named[from]->run.goodput;
    quantity::BitRate high = low;
    for (std::size_t i = from; i < to; ++i) {
        low = std::min(low, m_named[i]->run.goodput);
        high = std::max(high, m_named[i]->run.goodput);
    }
    return quantity::counted(static_cast<long long>(to - from), "run") + " of " + dayOf(*m_named[from]) +
           ", " + howWords(*m_named[from]) + ", from " + quantity::plainBoth(low) + " to " +
           quantity::plainBoth(high);
}

} // namespace metrodos::report
