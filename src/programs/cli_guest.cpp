#include "programs/cli_guest.h"

#include "benchmark/run_json.h"
#include "probe/guest_remote.h"
#include "probe/guest_server.h"
#include "probe/qr_code.h"
#include "programs/cli_options.h"
#include "programs/interrupt.h"
#include "quantity/parse.h"

#include <algorithm>
#include <iostream>
#include <nlohmann/json.hpp>
#include <thread>

namespace metrodos::programs {
namespace {

constexpr std::chrono::hours longestCode{24};

quantity::Result<probe::GuestSettings> settingsOf(const Arguments& a) {
    probe::GuestSettings out;
    if (!a.guestListen.empty()) out.listen = a.guestListen;
    const auto lifetime = quantity::parseDuration(a.guestFor);
    if (!lifetime) return tl::unexpected(lifetime.error());
    if (*lifetime < std::chrono::seconds(1) || *lifetime > longestCode)
        return quantity::problem("a code lasts from 1 s to 24 h", "--for", "choose a time between, like 1 h");
    out.lifetime = std::chrono::duration_cast<std::chrono::seconds>(*lifetime);
    return out;
}

// Of this process, or of the agent at --at.
quantity::Result<std::unique_ptr<probe::GuestEnd>> open(const Arguments& a) {
    if (a.guestAt.empty()) {
        const auto settings = settingsOf(a);
        if (!settings) return tl::unexpected(settings.error());
        return probe::GuestServer::start(*settings);
    }
    const auto key = probe::Key::load(a.keyFile);
    if (!key) return tl::unexpected(key.error());
    const auto connect = [at = a.guestAt, key = *key] { return probe::EndpointLink::connect(at, key); };
    if (const auto reached = connect(); !reached) return tl::unexpected(reached.error());
    auto remote = std::make_unique<probe::RemoteGuest>(a.guestAt, connect);
    for (int i = 0; i < 500 && remote->state().urls.empty() && remote->state().problem.empty(); ++i)
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    if (const probe::GuestState now = remote->state(); now.urls.empty())
        return quantity::problem(now.problem.empty() ? "the agent tells of no guest" : now.problem, a.guestAt,
                                 "start it with --guest");
    return remote;
}

void showReady(const probe::GuestState& guest, bool asJson) {
    const std::string url = guest.urls.empty() ? std::string() : guest.urls.front();
    if (asJson) {
        std::cout << nlohmann::json{{"ready", true},
                                    {"url", url},
                                    {"code", guest.code},
                                    {"expires_s", guest.expiresIn.count()}}
                         .dump()
                  << std::endl;
        return;
    }
    std::cout << "Open one of these on the device; the code ends in "
              << std::chrono::duration_cast<std::chrono::minutes>(guest.expiresIn).count() << " min:\n";
    for (const std::string& one : guest.urls)
        std::cout << "  " << one << '\n';
    if (const auto code = probe::encodeQr(url)) std::cout << probe::terminalText(*code);
    std::cout << std::flush;
}

} // namespace

int guest(const Arguments& a) {
    const auto steps = stepsOf(a.run);
    if (!steps) return fail(steps.error());
    const auto guest = open(a);
    if (!guest) return fail(guest.error());
    showReady((*guest)->state(), a.run.json);
    const Interrupt interrupt;
    const auto waitForDevice = [&] {
        while ((*guest)->state().expiresIn.count() > 0 && !interrupt.token().stop_requested()) {
            const probe::GuestState now = (*guest)->state();
            if (now.isPresent && !now.medium.empty()) return true;
            std::this_thread::sleep_for(std::chrono::milliseconds(50));
        }
        return false;
    };
    std::vector<benchmark::Run> runs;
    for (const Step& step : *steps) {
        if (!waitForDevice()) {
            if (!runs.empty() || interrupt.token().stop_requested()) break;
            return fail({"no device has opened the address", (*guest)->state().code,
                         "make a new code and open it there"});
        }
        std::vector<probe::GuestLeg> legs;
        for (const benchmark::RunConfig& config : step)
            legs.push_back({config, {}});
        const auto done = (*guest)->runAll(legs, interrupt.token());
        if (!done) return fail(done.error());
        runs.insert(runs.end(), done->begin(), done->end());
        if (a.run.json) {
            const auto rule = house::summaryRule(a.run.summary).value_or(benchmark::Rule::trimmed);
            std::cout << benchmark::measurementDocument(*done, rule).dump() << std::endl; // a line each
        } else {
            printMeasurement(*done, a.run);
            std::cout << std::flush;
        }
        if (std::any_of(done->begin(), done->end(), [](const auto& run) { return !run.complete; })) break;
    }
    const auto saved = saveRuns(runs, a.run);
    return saved ? 0 : fail(saved.error());
}

} // namespace metrodos::programs
