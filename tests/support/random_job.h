// Random jobs: a random house with routes, runs in every state, reports, and what is written about them.
#pragma once

#include "job/document.h"
#include "job/kept_document.h"
#include "job/photo.h"
#include "support/random_house.h"
#include "support/runs.h"

namespace metrodos::testing {

class RandomJob {
  public:
    explicit RandomJob(std::uint32_t seed)
        : m_houses(seed) {}

    job::Document make() {
        job::Document d;
        d.house = m_houses.make({2 + m_houses.upTo(3), 2 + m_houses.upTo(4), 1 + m_houses.upTo(3)});
        d.house.routes = allRoutes(d.house);
        if (d.house.routes.size() > 6) d.house.routes.resize(6);
        for (std::size_t i = 0; i < d.house.rooms.size(); ++i)
            d.house.rooms[i].label += " " + text();
        const int runs = d.house.routes.empty() ? 0 : m_houses.upTo(5);
        for (int i = 0; i < runs; ++i)
            d.runs.push_back({d.house.routes[pick(d.house.routes.size())].id, run(i)});
        if (m_houses.chance(0.5))
            d.house.chapters = {{"slow", m_houses.chance(0.5), text()}, {"ways", true, ""}};
        if (!d.runs.empty() && m_houses.chance(0.5))
            d.house.setAside = {{d.runs.front().run.id, text(), "2026-05-04T11:00:00Z"}};
        if (!d.house.routes.empty() && m_houses.chance(0.5))
            d.house.changes = {{"c1", "2026-05-04T12:00:00Z", d.house.devices.front().id, text()}};
        if (m_houses.chance(0.5)) {
            job::KeptDocument kept;
            kept.reader = "offer";
            kept.at = "2026-05-04T13:00:00Z";
            kept.title = text();
            kept.text = text() + "\n" + text();
            kept.currency = "Kr";
            kept.cost = quantity::Money::units(12.34);
            kept.parts = {
                {"cat6a", text(), "metre", 2.5, quantity::Money::units(0.9), quantity::Money::units(2.25)}};
            d.reports.push_back(job::reportOf(kept).value());
        }
        if (m_houses.chance(0.3)) {
            const std::string jpeg = "\xff\xd8\xff" + text();
            d.photos.push_back({job::digestOf(jpeg), jpeg});
        }
        return d;
    }

  private:
    std::size_t pick(std::size_t n) { return static_cast<std::size_t>(m_houses.upTo(static_cast<int>(n))); }
    // Signs that some form or other takes for its own among them.
    std::string text() {
        static const char* const pieces[] = {"a", "ä",    "漢", "\"", "'", ",", ";", "<b>", "&amp;", "|", "*",
                                             "_", "=1+1", "\\", "/",  "%", "{", "}", "[1]", "–",     "é"};
        std::string out = "x";
        const int n = 1 + m_houses.upTo(12);
        for (int i = 0; i < n; ++i)
            out += pieces[pick(std::size(pieces))];
        return out;
    }
    benchmark::Run run(int i) {
        benchmark::Run r =
            steadyRun(m_houses.chance(0.5) ? benchmark::Direction::forward : benchmark::Direction::backward,
                      1 + m_houses.upTo(2000), 1 + m_houses.upTo(8), 0.05, "run-" + std::to_string(i));
        r.startedAt = "2026-0" + std::to_string(1 + m_houses.upTo(9)) + "-1" +
                      std::to_string(m_houses.upTo(9)) + "T10:00:0" + std::to_string(i) + "Z";
        r.simulated = m_houses.chance(0.5);
        r.complete = m_houses.chance(0.9);
        if (m_houses.chance(0.5)) r.conditions.othersActive = m_houses.chance(0.5);
        if (m_houses.chance(0.3)) r.conditions.appliances = {text(), text()};
        if (m_houses.chance(0.3)) r.conditions.changed = text();
        if (m_houses.chance(0.5)) r.retransmits = static_cast<std::uint64_t>(m_houses.upTo(1000));
        if (m_houses.chance(0.5)) r.cpuSender = 0.25;
        for (benchmark::Sample& s : r.samples.change()) {
            if (m_houses.chance(0.1)) s.rttUs.reset();
            if (m_houses.chance(0.1)) s.windowBytes = 1e5 / 3;
            if (m_houses.chance(0.1)) s.retransmits = 7;
        }
        return r;
    }
    RandomHouse m_houses;
};

} // namespace metrodos::testing
