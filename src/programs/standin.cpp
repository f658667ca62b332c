// metrodos-standin: a simulated house on loopback.
#include "catalog/load.h"
#include "job/open.h"
#include "programs/no_core.h"
#include "programs/shutdown.h"
#include "standin/simulated_adapters.h"
#include "standin/simulated_house.h"
#include "standin/simulated_service.h"

#include <CLI/CLI.hpp>
#include <iostream>
#include <nlohmann/json.hpp>
#include <sys/prctl.h>

namespace {

using namespace metrodos;

int fail(const quantity::Problem& problem) {
    std::cerr << "metrodos-standin: " << problem.sentence() << '\n';
    return 1;
}

} // namespace

int main(int argc, char** argv) {
    const sigset_t signals = programs::blockEndingSignals();
    programs::leaveNoCore();
    probe::ignoreBrokenPipes();
    CLI::App app{"A simulated house on loopback: its endpoints speak the agent's protocol and say that they "
                 "are simulated."};
    std::string file;
    std::string keyFile;
    std::string speed = "realtime";
    std::uint64_t seed = 1;
    bool withParent = false;
    app.add_option("--job", file, "a .metrodos file or its JSON form")->required();
    app.add_option("--key-file", keyFile, "the key, as made by metrodos-cli key new")->required();
    app.add_option("--seed", seed, "the same seed gives the same house");
    app.add_option("--speed", speed, "realtime or fast")->check(CLI::IsMember({"realtime", "fast"}));
    app.add_flag("--end-with-parent", withParent, "end when the program that started this one ends");
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }
    if (withParent) ::prctl(PR_SET_PDEATHSIG, SIGTERM);
    const auto key = probe::Key::load(keyFile);
    if (!key) return fail(key.error());
    const auto catalog = catalog::loadDefault();
    if (!catalog) return fail(catalog.error());
    standin::SimulationSettings settings;
    settings.house = [file] {
        return job::readJob(file).map([](const job::Document& document) { return document.house; });
    };
    settings.catalog = *catalog;
    settings.key = *key;
    settings.seed = seed;
    settings.realTime = speed == "realtime";
    const auto service = standin::SimulatedService::start(settings); // a house need not have one
    const auto adapters = standin::SimulatedAdapters::start(settings);
    if (!adapters) return fail(adapters.error());
    const auto house = standin::SimulatedHouse::start(std::move(settings));
    if (!house) return fail(house.error());
    nlohmann::json endpoints = nlohmann::json::array();
    for (const standin::SimulatedEndpoint& e : (*house)->endpoints())
        endpoints.push_back({{"id", e.id}, {"host", e.host}, {"port", e.port}});
    nlohmann::json ready{{"ready", true}, {"endpoints", endpoints}};
    ready["adapters"] = nlohmann::json::array();
    for (const standin::SimulatedPage& page : (*adapters)->pages())
        ready["adapters"].push_back({{"id", page.adapter}, {"url", page.url}});
    if (service) ready["service"] = (*service)->url();
    std::cout << ready.dump() << std::endl;
    programs::waitForEnd(signals);
    return 0;
}
