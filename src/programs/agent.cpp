// metrodos-agent: makes this machine an endpoint.
#include "probe/agent.h"
#include "programs/shutdown.h"
// The static agent has no announcing and no codes, which want libraries of the system.
#ifndef METRODOS_STATIC
#include "probe/discovery.h"
#include "probe/qr_code.h"
#endif

#include <CLI/CLI.hpp>
#include <iostream>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace {

using namespace metrodos;

int fail(const quantity::Problem& problem) {
    std::cerr << "metrodos-agent: " << problem.sentence() << '\n';
    return 1;
}

std::string machineName() {
    std::array<char, 256> name{};
    ::gethostname(name.data(), name.size() - 1);
    return name.data();
}

} // namespace

int main(int argc, char** argv) {
    const sigset_t signals = programs::blockEndingSignals();
    probe::ignoreBrokenPipes();
    CLI::App app{
        "Makes this machine an endpoint of Metrodos: it takes part in runs for those who have the key."};
    std::string listen;
    std::string keyFile;
    std::string name = machineName();
    std::vector<std::string> allow;
    bool silent = false;
    bool showsCode = false;
    bool takesGuests = false;
    app.add_option("--listen", listen, "ADDR[:PORT] to wait on; port 0 takes a free one")->required();
    app.add_option("--key-file", keyFile, "the key, as made by metrodos-cli key new")->required();
    app.add_option("--name", name, "what the endpoint is called")->check([](const std::string& text) {
        return text.size() <= 200 ? std::string() : std::string("the name is longer than 200 bytes");
    });
    app.add_option("--allow", allow, "CIDR of peers to allow besides loopback, private and link-local ones");
    app.add_flag(
        "--guest", takesGuests,
        "let a device with nothing but a browser measure against this machine: shows an address and a "
        "code, good for an hour; whoever has the key can have a new one");
#ifndef METRODOS_STATIC
    app.add_flag("--code", showsCode,
                 "show address and key as a code that the window can read; whoever sees it has the key");
#endif
    app.add_flag("--silent", silent, "do not announce this endpoint on the network");
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }

    probe::AgentSettings settings;
    settings.listen = listen;
    settings.name = name;
    const auto key = probe::Key::load(keyFile);
    if (!key) return fail(key.error());
    settings.key = *key;
    for (const std::string& range : allow) {
        const auto parsed = probe::AddressRange::parse(range);
        if (!parsed) return fail(parsed.error());
        settings.allowed.push_back(*parsed);
    }
    std::optional<probe::GuestState> guest;
    if (takesGuests) {
        probe::GuestSettings invited;
        const auto here = probe::resolve(listen);
        if (!here) return fail(here.error());
        invited.listen = probe::numericAddress(here->host(), probe::guestPort).value_or(*here).text();
        invited.allowed = settings.allowed;
        settings.guest = std::make_shared<probe::GuestDoor>(invited);
        const auto server = settings.guest->open();
        if (!server) return fail(server.error());
        guest = (*server)->state();
    }
    const auto agent = probe::Agent::start(
        settings, [&](const probe::PeerFilter& filter) { return probe::makePerformer(name, filter); });
    if (!agent) return fail(agent.error());
    const probe::Address address = (*agent)->address();
#ifndef METRODOS_STATIC
    // Nobody else can reach an agent on loopback.
    std::optional<probe::Announcement> announcement;
    if (!silent && !address.isLoopback()) announcement.emplace(name, address.port());
    if (showsCode) {
        const auto reachable = probe::reachableAddress(address.host(), address.port());
        const auto code = probe::encodeQr(probe::Invitation{reachable.value_or(""), *key}.text());
        if (!code) return fail(code.error());
        std::cerr << probe::terminalText(*code) << (reachable ? *reachable : "no address that others reach")
                  << '\n';
    }
#else
    (void)showsCode;
    (void)silent;
#endif
    nlohmann::json ready{{"ready", true}, {"host", address.host()}, {"port", address.port()}, {"name", name}};
    if (guest) {
        std::cerr << "A device with a browser opens one of these:\n";
        for (const std::string& url : guest->urls)
            std::cerr << "  " << url << '\n';
        ready["guest"] = {
            {"urls", guest->urls}, {"code", guest->code}, {"expires_s", guest->expiresIn.count()}};
    }
    std::cout << ready.dump() << std::endl;
    programs::waitForEnd(signals);
    return 0;
}
