// How long the documents of a job take: of the demo, and of a house of forty rooms with 480 runs.
#include "catalog/load.h"
#include "job/open.h"
#include "report/data_package.h"
#include "support/paths.h"
#include "support/random_house.h"
#include "support/runs.h"

#include <chrono>
#include <cstdio>

using namespace metrodos;

namespace {

template <class Act>
auto timed(const char* what, double wanted, Act act) {
    const auto begin = std::chrono::steady_clock::now();
    auto out = act();
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
    std::printf("  %s: %.2f s (wanted %.0f)\n", what, took.count(), wanted);
    return out;
}

void add(job::Document& d, std::size_t routes, int runs) {
    int n = 0;
    for (std::size_t r = 0; r < std::min(routes, d.house.routes.size()); ++r)
        for (int i = 0; i < runs; ++i) {
            benchmark::Run run = testing::steadyRun(i % 2 == 0 ? benchmark::Direction::forward
                                                               : benchmark::Direction::backward,
                                                    80 + i, 4, 0.03, "run-" + std::to_string(++n));
            run.startedAt =
                (i < runs / 2 ? "2026-05-04T10:0" : "2026-11-02T10:0") + std::to_string(i % 10) + ":00Z";
            d.runs.push_back({d.house.routes[r].id, run});
        }
}

void measure(const char* name, const job::Document& d, const catalog::Catalog& classes, double wanted) {
    std::printf("%s: %zu rooms, %zu runs\n", name, d.house.rooms.size(), d.runs.size());
    report::HandOverSettings settings{"2026-11-05"};
    settings.verdicts =
        timed("the verdicts on all ways", wanted, [&] { return report::verdictsOf(d, classes); });
    for (const bool isClient : {true, false}) {
        const auto document = timed(isClient ? "the client's record" : "the technician's page", wanted, [&] {
            return isClient ? report::clientDocument(d, classes, settings)
                            : report::technicianDocument(d, classes, settings);
        });
        (void)timed("its PDF", wanted, [&] { return report::toPdf(document).has_value(); });
        (void)timed("its HTML", wanted, [&] { return report::toHtml(document).size(); });
        (void)timed("its Markdown", wanted, [&] { return report::toMarkdown(document).size(); });
    }
    (void)timed("the package of everything", 0,
                [&] { return report::dataPackage(d, classes, settings, false).has_value(); });
}

} // namespace

int main() {
    const auto classes = catalog::loadDefault();
    auto demo = job::readJob(testing::dataPath("demo/quarry-house.json"));
    if (!classes || !demo) return 1;
    add(*demo, 4, 90);
    measure("demo", *demo, *classes, 2);
    job::Document large;
    large.house = testing::RandomHouse(7).make({40, 40, 3});
    large.house.routes = testing::allRoutes(large.house);
    large.house.routes.resize(std::min<std::size_t>(large.house.routes.size(), 40));
    add(large, 40, 12);
    measure("forty rooms", large, *classes, 5);
    return 0;
}
