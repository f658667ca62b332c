#include "programs/cli_guest.h"

#include "benchmark/run_json.h"
#include "probe/guest_server.h"
#include "probe/qr_code.h"
#include "programs/cli_options.h"
#include "programs/interrupt.h"
#include "quantity/parse.h"

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
    auto page = probe::guestPage();
    if (!page) return tl::unexpected(page.error());
    out.page = std::move(*page);
    return out;
}

void showReady(const probe::GuestServer& server, bool asJson) {
    const auto urls = server.urls();
    const std::string url = urls.empty() ? std::string() : urls.front();
    if (asJson) {
        std::cout << nlohmann::json{{"ready", true},
                                    {"url", url},
                                    {"code", server.code()},
                                    {"expires_s", server.expiresIn().count()}}
                         .dump()
                  << std::endl;
        return;
    }
    std::cout << "Open one of these on the device; the code ends in "
              << std::chrono::duration_cast<std::chrono::minutes>(server.expiresIn()).count() << " min:\n";
    for (const std::string& one : urls)
        std::cout << "  " << one << '\n';
    if (const auto code = probe::encodeQr(url)) std::cout << probe::terminalText(*code);
    std::cout << std::flush;
}

} // namespace

int guest(const Arguments& a) {
    const auto steps = stepsOf(a.run);
    if (!steps) return fail(steps.error());
    for (const Step& step : *steps)
        if (step.size() > 1)
            return fail(
                {"a guest runs in one direction at a time", "--direction", "say forward, backward or both"});
    const auto settings = settingsOf(a);
    if (!settings) return fail(settings.error());
    const auto server = probe::GuestServer::start(*settings);
    if (!server) return fail(server.error());
    showReady(**server, a.run.json);
    const Interrupt interrupt;
    const auto waitForDevice = [&] {
        while ((*server)->expiresIn().count() > 0 && !interrupt.token().stop_requested()) {
            if ((*server)->isPresent() && !(*server)->medium().empty()) return true;
            std::this_thread::sleep_for(std::chrono::milliseconds(50));
        }
        return false;
    };
    std::vector<benchmark::Run> runs;
    for (const Step& step : *steps) {
        if (!waitForDevice()) {
            if (!runs.empty() || interrupt.token().stop_requested()) break;
            return fail(
                {"no device has opened the address", (*server)->code(), "make a new code and open it there"});
        }
        auto run = (*server)->run(step.front(), {}, interrupt.token());
        if (!run) return fail(run.error());
        const bool complete = run->complete;
        runs.push_back(std::move(*run));
        if (a.run.json) {
            const auto rule = house::summaryRule(a.run.summary).value_or(benchmark::Rule::trimmed);
            std::cout << benchmark::measurementDocument({runs.back()}, rule).dump()
                      << std::endl; // a line each
        } else {
            printMeasurement({runs.back()}, a.run);
            std::cout << std::flush;
        }
        if (!complete) break;
    }
    const auto saved = saveRuns(runs, a.run);
    return saved ? 0 : fail(saved.error());
}

} // namespace metrodos::programs
