#include "probe/schedule_keeper.h"

#include "benchmark/run_json.h"
#include "benchmark/schedule.h"
#include "house/house.h"
#include "probe/conduct.h"
#include "probe/guarded.h"
#include "probe/key_ring.h"
#include "probe/peer_clock.h"
#include "probe/private_file.h"
#include "quantity/fields.h"

#include <chrono>
#include <fstream>

namespace metrodos::probe {
namespace {

namespace fs = std::filesystem;
namespace fields = quantity::fields;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::chrono::seconds lookEvery{1};
constexpr const char* assignmentFile = "assignment";

} // namespace

json toJson(const Assignment& a) {
    return {{"id", a.schedule.id},           {"label", a.schedule.label},
            {"from", a.schedule.from},       {"every_minutes", a.schedule.everyMinutes},
            {"hours", a.schedule.hours},     {"seconds", a.schedule.seconds},
            {"streams", a.schedule.streams}, {"peer", a.peer},
            {"peer_key", a.peerKey.text()}};
}

Assignment readAssignment(const json& value) {
    Assignment a;
    house::Schedule& s = a.schedule;
    s.id = fields::neededText(value, "id", 64);
    if (!house::isId(s.id)) throw quantity::BadField{"id"};
    s.label = fields::text(value, "label", 800);
    s.from = fields::neededText(value, "from", 32);
    s.everyMinutes = static_cast<int>(fields::neededNumber(value, "every_minutes", 1, 1440));
    s.hours = static_cast<int>(fields::neededNumber(value, "hours", 1, 744));
    s.seconds = fields::neededNumber(value, "seconds", 1, 60);
    s.streams = static_cast<int>(fields::neededNumber(value, "streams", 1, 32));
    if (!benchmark::slotAt(s, 0)) throw quantity::BadField{"from"};
    if (benchmark::dutyOf(s) > house::maxDuty) throw quantity::BadField{"every_minutes"};
    a.peer = fields::neededText(value, "peer", 300);
    const auto key = Key::parse(fields::neededText(value, "peer_key", 64));
    if (!key) throw quantity::BadField{"peer_key"};
    a.peerKey = *key;
    return a;
}

Result<std::unique_ptr<ScheduleKeeper>> ScheduleKeeper::start(KeeperSettings settings) {
    std::unique_ptr<ScheduleKeeper> out(new ScheduleKeeper(std::move(settings)));
    if (const auto loaded = out->load(); !loaded) return tl::unexpected(loaded.error());
    out->m_thread = std::jthread(guarded([raw = out.get()](const std::stop_token& stop) {
        while (!stop.stop_requested())
            try {
                raw->work(stop);
            } catch (const std::exception& failure) {
                spdlog::warn("a scheduled run could not be made: {}", failure.what());
                std::this_thread::sleep_for(lookEvery); // no room now; the next is due all the same
            }
    }));
    return out;
}

ScheduleKeeper::~ScheduleKeeper() = default;

Result<void> ScheduleKeeper::load() {
    if (m_settings.folder.empty()) return {};
    std::error_code failed;
    fs::create_directories(m_settings.folder, failed);
    if (failed)
        return problem("the folder for schedules cannot be made: " + failed.message(),
                       m_settings.folder.string(), "give another with --schedules");
    for (const fs::directory_entry& entry : fs::directory_iterator(m_settings.folder, failed)) {
        std::ifstream stream(entry.path() / assignmentFile);
        if (!stream) continue;
        const json value = json::parse(stream, nullptr, false);
        const auto assignment = fields::ifSound([&] { return readAssignment(value); });
        if (!assignment || folderOf(assignment->schedule.id) != entry.path() ||
            m_kept.size() == maxAssignments)
            continue;
        auto records = ScheduleRecords::open(entry.path());
        if (!records) return tl::unexpected(records.error());
        const std::int64_t tried = records->lastSlot();
        m_kept.emplace(assignment->schedule.id, Kept{*assignment, std::move(*records), tried});
    }
    return {};
}

fs::path ScheduleKeeper::folderOf(const std::string& id) const {
    return m_settings.folder.empty() ? fs::path() : m_settings.folder / id;
}

std::int64_t ScheduleKeeper::now() const {
    return m_settings.now ? m_settings.now() : static_cast<std::int64_t>(std::time(nullptr));
}

double ScheduleKeeper::wallClock() const {
    if (m_settings.now) return static_cast<double>(m_settings.now());
    return wallSeconds();
}

void ScheduleKeeper::wake() {
    const std::lock_guard lock(m_mutex);
    m_woken = true;
    m_changed.notify_all();
}

Result<void> ScheduleKeeper::take(const Assignment& assignment) {
    const std::lock_guard lock(m_mutex);
    const std::string& id = assignment.schedule.id;
    const auto known = m_kept.find(id);
    if (known == m_kept.end() && m_kept.size() == maxAssignments)
        return problem("this agent has " + std::to_string(maxAssignments) + " schedules already", "",
                       "take one of them back first");
    if (known == m_kept.end()) {
        auto records = ScheduleRecords::open(folderOf(id));
        if (!records) return tl::unexpected(records.error());
        m_kept.emplace(id, Kept{assignment, std::move(*records)});
    } else {
        known->second.assignment = assignment;
    }
    if (!m_settings.folder.empty())
        if (auto written = writePrivately(folderOf(id) / assignmentFile, toJson(assignment).dump()); !written)
            return written;
    m_woken = true;
    m_changed.notify_all();
    return {};
}

Result<void> ScheduleKeeper::drop(const std::string& id) {
    const std::lock_guard lock(m_mutex);
    if (m_kept.erase(id) == 0)
        return problem("this agent has no such schedule", "", "give it to the agent first");
    std::error_code failed;
    if (const fs::path folder = folderOf(id); !folder.empty()) fs::remove_all(folder, failed);
    if (failed) return problem("its records could not be removed: " + failed.message());
    return {};
}

std::vector<ScheduleKeeper::State> ScheduleKeeper::states() const {
    const std::lock_guard lock(m_mutex);
    std::vector<State> out;
    for (const auto& [id, kept] : m_kept)
        out.push_back({kept.assignment.schedule, kept.assignment.peer,
                       credentialOf(kept.assignment.peerKey).identity, kept.records.size(),
                       kept.records.newest(), kept.records.lastProblem()});
    return out;
}

Result<std::vector<json>> ScheduleKeeper::records(const std::string& id, std::int64_t after,
                                                  std::size_t maxBytes) const {
    const std::lock_guard lock(m_mutex);
    const auto kept = m_kept.find(id);
    if (kept == m_kept.end())
        return problem("this agent has no such schedule", "", "give it to the agent first");
    return kept->second.records.after(after, maxBytes);
}

// What is due now and was not tried; what waited too long for other runs is noted as missed.
std::optional<ScheduleKeeper::Due> ScheduleKeeper::nextDue() {
    const std::lock_guard lock(m_mutex);
    const std::int64_t at = now();
    for (auto& [id, kept] : m_kept) {
        const auto slot = benchmark::slotDue(kept.assignment.schedule, at);
        if (kept.waiting != 0 && slot != kept.waiting) {
            ScheduleRecord missed;
            missed.slot = kept.waiting;
            missed.at = static_cast<double>(kept.waiting);
            missed.uptime = m_settings.uptime();
            missed.problem = "this machine was busy with other runs.";
            (void)kept.records.add(missed);
            kept.tried = kept.waiting;
            kept.waiting = 0;
        }
        if (!slot || *slot <= kept.tried) continue;
        if (m_busy.load() > 0) {
            kept.waiting = *slot;
            continue;
        }
        kept.waiting = 0;
        kept.tried = *slot;
        return Due{id, *slot, kept.assignment};
    }
    return std::nullopt;
}

void ScheduleKeeper::work(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
        while (const auto due = nextDue()) {
            perform(*due, stop);
            if (stop.stop_requested()) return;
        }
        std::unique_lock lock(m_mutex);
        m_changed.wait_for(lock, stop, lookEvery, [this] { return std::exchange(m_woken, false); });
    }
}

void ScheduleKeeper::keep(const std::string& id, ScheduleRecord record) {
    const std::lock_guard lock(m_mutex);
    // It may have been taken back meanwhile.
    if (const auto kept = m_kept.find(id); kept != m_kept.end())
        (void)kept->second.records.add(std::move(record));
}

void ScheduleKeeper::perform(const Due& due, const std::stop_token& stop) {
    for (const benchmark::RunConfig& config : benchmark::configsOf(due.assignment.schedule)) {
        ScheduleRecord record;
        record.slot = due.slot;
        record.at = wallClock();
        record.uptime = m_settings.uptime();
        const auto run = [&]() -> Result<benchmark::Run> {
            const auto address = resolve(due.assignment.peer);
            if (!address) return tl::unexpected(address.error());
            if (!(m_settings.mayReach ? m_settings.mayReach(*address) : address->isNearby()))
                return problem("the other machine is not on this network", due.assignment.peer,
                               "allow its address with --allow where the agent starts");
            auto own = m_settings.own();
            if (!own) return tl::unexpected(own.error());
            auto peer = EndpointLink::connect(due.assignment.peer, due.assignment.peerKey);
            if (!peer) return tl::unexpected(peer.error());
            record.peerAhead = clockAhead(*peer).value_or(0);
            return conduct(*own, *peer, config, {}, stop);
        }();
        if (stop.stop_requested()) return;
        if (run)
            record.run = benchmark::toJson(*run);
        else
            record.problem = run.error().sentence();
        keep(due.id, std::move(record));
        if (!run) return; // the way back would say the same
    }
}

} // namespace metrodos::probe
