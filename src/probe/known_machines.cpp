#include "probe/known_machines.h"

#include "probe/key_ring.h"
#include "probe/run_stamp.h"
#include "quantity/ascii.h"
#include "quantity/fields.h"
#include "quantity/text.h"

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <sys/file.h>

namespace metrodos::probe {
namespace {

namespace fs = std::filesystem;
namespace fields = quantity::fields;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::size_t maxListBytes = 1U << 20U;
constexpr std::size_t maxName = 200; // bytes
constexpr const char* format = "metrodos-machines";

const char* name(MachineKind kind) {
    return kind == MachineKind::agent ? "agent" : "browser";
}
std::optional<MachineKind> kindOf(std::string_view word) {
    for (const MachineKind k : {MachineKind::agent, MachineKind::browser})
        if (word == name(k)) return k;
    return std::nullopt;
}

json toJson(const KnownMachine& m) {
    return {{"id", m.id},
            {"name", m.name},
            {"kind", name(m.kind)},
            {"address", m.address},
            {"seen_at", m.seenAt},
            {"identity", m.identity},
            {"has_own_key", m.hasOwnKey},
            {"paired_at", m.pairedAt},
            {"paired_by", m.pairedBy},
            {"is_revoked", m.isRevoked}};
}

KnownMachine fromJson(const json& value) {
    KnownMachine m;
    const auto line = [&](const char* key, std::size_t bytes) {
        return quantity::oneLine(fields::neededText(value, key, bytes));
    };
    m.id = line("id", 64);
    // It names a file.
    if (m.id.empty() || !std::ranges::all_of(m.id, quantity::ascii::isLetterOrDigit))
        throw quantity::BadField{"id"};
    m.name = line("name", maxName);
    m.kind = fields::word(value, "kind", &kindOf);
    m.address = line("address", 262);
    m.seenAt = line("seen_at", 32);
    m.identity = line("identity", 64);
    m.hasOwnKey = fields::neededFlag(value, "has_own_key");
    m.pairedAt = line("paired_at", 32);
    m.pairedBy = line("paired_by", maxName);
    m.isRevoked = fields::neededFlag(value, "is_revoked");
    return m;
}

// Where it was seen last counts as one with the usual port and without.
bool isAt(const KnownMachine& m, const std::string& address) {
    const std::string port = ":" + std::to_string(defaultPort);
    return m.address == address || m.address + port == address || m.address == address + port;
}

} // namespace

// The list while nobody else writes it.
struct KnownMachines::Locked {
    const KnownMachines& owner;
    Fd lock;
    std::vector<KnownMachine> machines;

    static Result<Locked> open(const KnownMachines& owner) {
        std::error_code failed;
        fs::create_directories(owner.m_folder, failed);
        if (!failed) fs::permissions(owner.m_folder, fs::perms::owner_all, failed);
        const auto file = owner.m_folder / "lock";
        Fd lock(::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600));
        if (failed || !lock || ::flock(lock.get(), LOCK_EX) != 0)
            return problem("the list of machines cannot be written", owner.m_folder.string(),
                           "see to it that you may write to that folder");
        auto machines = owner.load();
        if (!machines) return tl::unexpected(machines.error());
        return Locked{owner, std::move(lock), std::move(*machines)};
    }

    Result<void> save() {
        while (machines.size() > maxKnownMachines) {
            const auto oldest = std::ranges::min_element(machines, {}, &KnownMachine::seenAt);
            std::error_code gone;
            fs::remove(owner.keyFile(oldest->id), gone);
            machines.erase(oldest);
        }
        json list = json::array();
        for (const KnownMachine& m : machines)
            list.push_back(toJson(m));
        const fs::path file = owner.m_folder / "machines.json";
        const fs::path fresh = owner.m_folder / "machines.json.new";
        std::error_code failed;
        {
            std::ofstream stream(fresh, std::ios::binary | std::ios::trunc);
            stream << json{{"format", format}, {"version", 1}, {"machines", list}}.dump(
                          1, ' ', false, json::error_handler_t::replace)
                   << '\n';
            stream.flush();
            if (!stream) failed = std::make_error_code(std::errc::io_error);
        }
        if (!failed) fs::rename(fresh, file, failed); // whole or not at all
        if (failed)
            return problem("the list of machines cannot be written", file.string(),
                           "free some space on the disk");
        return {};
    }
};

fs::path KnownMachines::keyFile(const std::string& id) const {
    return m_folder / (id + ".key");
}

Result<std::vector<KnownMachine>> KnownMachines::load() const {
    const fs::path file = m_folder / "machines.json";
    std::error_code failed;
    if (!fs::exists(file, failed)) return std::vector<KnownMachine>{};
    const auto unreadable = [&] {
        return problem("the list of machines cannot be read", file.string(),
                       "move it away; the machines are then met anew");
    };
    if (fs::file_size(file, failed) > maxListBytes || failed) return unreadable();
    std::ifstream stream(file, std::ios::binary);
    std::ostringstream text;
    text << stream.rdbuf();
    const json document = json::parse(text.str(), nullptr, false);
    if (!document.is_object() || document.value("format", json()) != format) return unreadable();
    const auto machines = fields::ifSound([&] {
        std::vector<KnownMachine> out;
        if (const json* list = fields::list(document, "machines", maxKnownMachines))
            for (const json& one : *list)
                out.push_back(fromJson(one));
        return out;
    });
    if (!machines) return unreadable();
    auto sorted = *machines;
    std::ranges::stable_sort(sorted, {}, &KnownMachine::name);
    return sorted;
}

Result<std::string> KnownMachines::add(const KnownMachine& machine, const Key& key) const {
    auto list = Locked::open(*this);
    if (!list) return tl::unexpected(list.error());
    KnownMachine made = machine;
    made.id = randomLetters(16);
    made.identity = credentialOf(key).identity;
    made.hasOwnKey = true;
    made.isRevoked = false;
    made.seenAt = made.pairedAt = utcNow();
    if (const auto saved = key.save(keyFile(made.id)); !saved) return tl::unexpected(saved.error());
    const std::string id = made.id;
    std::erase_if(list->machines, [&](const KnownMachine& m) { return m.isRevoked && m.name == made.name; });
    list->machines.push_back(std::move(made));
    if (const auto saved = list->save(); !saved) return tl::unexpected(saved.error());
    return id;
}

Result<void> KnownMachines::see(const KnownMachine& machine) const {
    auto list = Locked::open(*this);
    if (!list) return tl::unexpected(list.error());
    // A key of its own tells which it is, whatever it calls itself; many have the shared one.
    const auto with = [&](bool ownKey) {
        return std::find_if(list->machines.begin(), list->machines.end(), [&](const KnownMachine& m) {
            return m.kind == machine.kind && m.identity == machine.identity && m.hasOwnKey == ownKey &&
                   (ownKey || m.name == machine.name);
        });
    };
    auto it = with(true);
    if (it == list->machines.end()) it = with(false);
    if (it == list->machines.end()) {
        KnownMachine made = machine;
        made.id = randomLetters(16);
        made.hasOwnKey = false; // else it would be in the list since it was met
        list->machines.push_back(std::move(made));
        it = std::prev(list->machines.end());
    }
    it->name = quantity::cutTo(quantity::oneLine(machine.name), maxName);
    it->address = machine.address;
    it->seenAt = utcNow();
    return list->save();
}

Result<void> KnownMachines::revoke(const std::string& id) const {
    auto list = Locked::open(*this);
    if (!list) return tl::unexpected(list.error());
    for (KnownMachine& m : list->machines) {
        if (m.id != id) continue;
        std::error_code failed;
        fs::remove(keyFile(id), failed);
        if (failed)
            return problem("the key cannot be deleted", keyFile(id).string(), "delete that file by hand");
        m.isRevoked = true;
    }
    return list->save();
}

Result<void> KnownMachines::drop(const std::string& id) const {
    auto list = Locked::open(*this);
    if (!list) return tl::unexpected(list.error());
    std::error_code gone;
    fs::remove(keyFile(id), gone);
    std::erase_if(list->machines, [&](const KnownMachine& m) { return m.id == id; });
    return list->save();
}

std::vector<Key> KnownMachines::keysFor(const std::string& address) const {
    std::vector<Key> out;
    auto machines = load().value_or(std::vector<KnownMachine>{});
    std::stable_partition(machines.begin(), machines.end(),
                          [&](const KnownMachine& m) { return isAt(m, address); });
    for (const KnownMachine& m : machines)
        if (m.hasOwnKey && !m.isRevoked)
            if (const auto key = Key::load(keyFile(m.id))) out.push_back(*key);
    return out;
}

Result<EndpointLink> connectKnown(const std::string& address, const std::vector<Key>& keys,
                                  const KnownMachines* known, const std::stop_token& stop, int family) {
    std::optional<quantity::Problem> first;
    for (const Key& key : keys) {
        auto link = EndpointLink::connect(address, key, family, stop);
        if (!link && stop.stop_requested()) return link;
        if (!link) {
            if (!first) first = link.error();
            continue;
        }
        if (known != nullptr && !link->simulated()) {
            KnownMachine seen;
            seen.name = link->name();
            seen.address = address;
            seen.identity = link->channel().identity();
            (void)known->see(seen); // a link does not fail for want of a note
        }
        return link;
    }
    if (first) return tl::unexpected(*first);
    return problem(
        "there is no key for this agent", address,
        "meet it with its eight words on the page Machines, or make a key with metrodos-cli key new and "
        "copy it to every machine");
}

} // namespace metrodos::probe
