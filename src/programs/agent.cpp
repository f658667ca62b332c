// metrodos-agent: makes this machine an endpoint.
#include "probe/agent.h"
#include "probe/endpoint_link.h"
#include "probe/invitation.h"
#include "probe/pair_store.h"
#include "programs/no_core.h"
#include "programs/shutdown.h"
#include "quantity/text.h"
// The static agent has no announcing and no codes, which want libraries of the system.
#ifndef METRODOS_STATIC
#include "probe/discovery.h"
#include "probe/qr_code.h"
#endif

#include <CLI/CLI.hpp>
#include <cstdlib>
#include <iostream>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace {

using namespace metrodos;
using quantity::Result;

int fail(const quantity::Problem& problem) {
    std::cerr << "metrodos-agent: " << problem.sentence() << '\n';
    return 1;
}

std::string machineName() {
    std::array<char, 256> name{};
    ::gethostname(name.data(), name.size() - 1);
    return name.data();
}

struct Options {
    std::string listen;
    std::string keyFile;
    std::string name = machineName();
    std::vector<std::string> allow;
    std::string folder; // of file copies
    std::string pairs;
    std::string schedules;
    bool meets = false;
    bool takesGuests = false;
    bool silent = false;
    bool showsCode = false;
    bool asksHealth = false;
};

void addOptions(CLI::App& app, Options& o) {
    app.add_option("--listen", o.listen, "ADDR[:PORT] to wait on; port 0 takes a free one")->required();
    app.add_option(
        "--key-file", o.keyFile,
        "the key, as made by metrodos-cli key new; without it the agent uses the keys that it has made "
        "at meetings, and waits for a first one where it has none");
    app.add_option(
        "--schedules", o.schedules,
        "folder in which schedules that it was given, with the keys of their peers, and their runs are "
        "kept over a restart; usually that of the service, or none");
    app.add_option(
           "--folder", o.folder,
           "folder in which whoever commands this agent may have one file at a time made, to copy it from "
           "machine to machine; it is removed afterwards. Without it none is made")
        ->check(CLI::ExistingDirectory);
    app.add_flag("--meet", o.meets, "wait for a meeting although there are keys");
    app.add_option(
        "--pairs", o.pairs,
        "folder of the keys that single controllers have, a file each; a key whose file is removed opens "
        "nothing any more; usually in the user's configuration, or the service's state");
    app.add_option("--name", o.name, "what the endpoint is called")
        ->check([](const std::string& text) {
            return text.size() <= 200 ? std::string() : std::string("the name is longer than 200 bytes");
        })
        ->transform([](const std::string& text) { return quantity::oneLine(text); });
    app.add_option("--allow", o.allow,
                   "CIDR of peers to allow besides loopback, private and link-local ones, like 100.64.0.0/10 "
                   "for an overlay network or 2001:db8::/32");
    app.add_flag(
        "--guest", o.takesGuests,
        "let a device with nothing but a browser measure against this machine: shows an address and a "
        "code, good for an hour; whoever has the key can have a new one");
#ifndef METRODOS_STATIC
    app.add_flag("--code", o.showsCode,
                 "show address and key as a code that the window can read; whoever sees it has the key");
#endif
    app.add_flag("--silent", o.silent, "do not announce this endpoint on the network");
    app.add_flag("--health", o.asksHealth,
                 "ask the agent that waits at --listen with --key-file whether it serves, and end");
}

// Shows for a terminal what the window reads or is told.
void showCode(const probe::Invitation& invitation) {
#ifndef METRODOS_STATIC
    if (const auto code = probe::encodeQr(invitation.text())) std::cerr << probe::terminalText(*code);
#else
    (void)invitation;
#endif
}

// `reached`: where others reach the agent, known when it listens.
probe::MeetingDesk deskOf(const std::shared_ptr<std::string>& reached,
                          const std::shared_ptr<probe::AgentKeys>& keys) {
    probe::MeetingDesk out;
    out.show = [reached](const probe::MeetingCode& code) {
        if (!reached->empty()) showCode({*reached, std::nullopt, code});
        std::cerr << "Type these words on the page Machines of Metrodos; they are good for ten minutes:\n  "
                  << code.words() << '\n';
        if (!reached->empty()) std::cerr << "at the address " << *reached << '\n';
        std::cerr << std::flush;
    };
    out.met = [](const std::string& words, const std::string& controller) {
        std::cerr << controller << " is here. It should show the same four words:\n  " << words << std::endl;
    };
    out.keep = [keys](const probe::Key& key, const std::string& controller) {
        auto kept = keys->keep({key, probe::Right::command, controller});
        std::cerr << (kept ? controller + " has a key of this machine from now on." : kept.error().sentence())
                  << std::endl;
        return kept;
    };
    return out;
}

// What the service manager gives it to keep things in; empty: it was not started by one.
std::filesystem::path stateFolder() {
    const char* state = std::getenv("STATE_DIRECTORY"); // NOLINT(concurrency-mt-unsafe): before any thread
    return state != nullptr && *state == '/' ? std::filesystem::path(state) : std::filesystem::path();
}

std::filesystem::path keyFolder(const Options& o) {
    if (!o.pairs.empty()) return o.pairs;
    const std::filesystem::path state = stateFolder();
    return state.empty() ? probe::PairStore::usualFolder() : state / "keys";
}

// The keys of this agent, and its meeting where it waits for one.
Result<void> addKeys(probe::AgentSettings& settings, const Options& o,
                     const std::shared_ptr<std::string>& reached) {
    const probe::KeyPlaces places{o.keyFile, keyFolder(o)};
    if (places.folder.empty() && (o.keyFile.empty() || o.meets))
        return quantity::problem("there is no place for the keys made at meetings", "",
                                 "name a folder with --pairs, or give a key with --key-file");
    const auto keys = probe::AgentKeys::open(places);
    if (!keys) return tl::unexpected(keys.error());
    settings.kept = *keys;
    settings.keys = (*keys)->ring();
    if (o.meets || (o.keyFile.empty() && (*keys)->ownKeys() == 0))
        settings.meeting = std::make_shared<probe::Meeting>(settings.keys, deskOf(reached, *keys));
    return {};
}

Result<probe::GuestState> addGuests(probe::AgentSettings& settings) {
    const auto here = probe::resolve(settings.listen);
    if (!here) return tl::unexpected(here.error());
    probe::GuestSettings guests;
    guests.listen = probe::numericAddress(here->host(), probe::guestPort).value_or(*here).text();
    guests.allowed = settings.allowed;
    settings.guest = std::make_shared<probe::GuestDoor>(guests);
    const auto server = settings.guest->open();
    if (!server) return tl::unexpected(server.error());
    return (*server)->state();
}

// Without a folder, what it was given is gone when it ends.
Result<std::shared_ptr<probe::ScheduleKeeper>> keeperOf(const Options& o,
                                                        const std::vector<probe::AddressRange>& allowed) {
    probe::KeeperSettings settings;
    settings.mayReach = [allowed](const probe::Address& peer) { return probe::mayReach(peer, allowed); };
    settings.folder = o.schedules;
    if (const auto state = stateFolder(); o.schedules.empty() && !state.empty())
        settings.folder = state / "schedules";
    settings.own = [name = o.name, allowed] { return probe::EndpointLink::here(name, allowed); };
    return probe::ScheduleKeeper::start(std::move(settings)).map([](auto keeper) {
        return std::shared_ptr<probe::ScheduleKeeper>(std::move(keeper));
    });
}

// What a container's health check wants to know.
int health(const Options& o) {
    const auto key = probe::Key::load(o.keyFile);
    if (!key) return fail(key.error());
    const auto address = probe::resolve(o.listen);
    if (!address) return fail(address.error());
    const bool isAny = address->host() == "0.0.0.0" || address->host() == "::";
    const auto own =
        isAny ? probe::numericAddress(address->host() == "::" ? "::1" : "127.0.0.1", address->port())
              : address;
    if (!own) return fail(own.error());
    const auto link = probe::EndpointLink::connect(own->text(), *key);
    return link ? 0 : fail(link.error());
}

} // namespace

int main(int argc, char** argv) {
    const sigset_t signals = programs::blockEndingSignals();
    programs::leaveNoCore();
    probe::ignoreBrokenPipes();
    CLI::App app{
        "Makes this machine an endpoint of Metrodos: it takes part in runs for those who have the key."};
    Options o;
    addOptions(app, o);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }
    if (o.asksHealth) return health(o);

    probe::AgentSettings settings;
    settings.listen = o.listen;
    settings.name = o.name;
    const auto reached = std::make_shared<std::string>(); // by others; empty: nobody can
    if (const auto added = addKeys(settings, o, reached); !added) return fail(added.error());
    for (const std::string& range : o.allow) {
        const auto parsed = probe::AddressRange::parse(range);
        if (!parsed) return fail(parsed.error());
        settings.allowed.push_back(*parsed);
    }
    std::optional<probe::GuestState> guest;
    if (o.takesGuests) {
        const auto added = addGuests(settings);
        if (!added) return fail(added.error());
        guest = *added;
    }
    const auto keeper = keeperOf(o, settings.allowed);
    if (!keeper) return fail(keeper.error());
    settings.schedules = *keeper;
    const auto agent = probe::Agent::start(settings, [&](const probe::PeerFilter& filter) {
        return probe::makePerformer(o.name, filter, false, o.folder);
    });
    if (!agent) return fail(agent.error());
    const probe::Address address = (*agent)->address();
    *reached = probe::reachableAddress(address.host(), address.port()).value_or("");
#ifndef METRODOS_STATIC
    // Nobody else can reach an agent on loopback.
    std::optional<probe::Announcement> announcement;
    if (!o.silent && !address.isLoopback()) announcement.emplace(o.name, address.port());
#endif
    if (o.showsCode && !o.keyFile.empty()) {
        const auto key = probe::Key::load(o.keyFile);
        if (!key) return fail(key.error());
        showCode({*reached, *key, std::nullopt});
        std::cerr << (reached->empty() ? "no address that others reach" : *reached) << '\n';
    }
    nlohmann::json ready{
        {"ready", true}, {"host", address.host()}, {"port", address.port()}, {"name", o.name}};
    if (settings.meeting) ready["meeting"] = true;
    if (guest) {
        std::cerr << "A device with a browser opens one of these:\n";
        for (const std::string& url : guest->urls)
            std::cerr << "  " << url << '\n';
        ready["guest"] = {
            {"urls", guest->urls}, {"code", guest->code}, {"expires_s", guest->expiresIn.count()}};
    }
    std::cout << ready.dump() << std::endl;
    if (settings.meeting) settings.meeting->open();
    programs::waitForEnd(signals);
    return 0;
}
