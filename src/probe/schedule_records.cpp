#include "probe/schedule_records.h"

#include "probe/kernel_time.h"
#include "probe/private_file.h"
#include "quantity/fields.h"

#include <algorithm>
#include <ctime>
#include <fstream>

namespace metrodos::probe {
namespace {

namespace fs = std::filesystem;
namespace fields = quantity::fields;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr double maxSeconds = 1e11;
constexpr const char* extension = ".json";

std::string dumped(const json& value) {
    return value.dump(-1, ' ', false, json::error_handler_t::replace);
}

// What a record of this agent's own is at most, with what stands around the run.
constexpr std::uintmax_t maxFile = maxRecordBytes + 10'000;

json readFile(const fs::path& file) {
    std::error_code none;
    if (fs::file_size(file, none) > maxFile || none) return {};
    std::ifstream stream(file);
    return json::parse(stream, nullptr, false);
}

} // namespace

Uptime uptimeNow() {
    Uptime out;
    std::ifstream("/proc/sys/kernel/random/boot_id") >> out.boot;
    out.boot.resize(std::min<std::size_t>(out.boot.size(), 64));
    out.seconds = secondsOf(CLOCK_BOOTTIME);
    return out;
}

json toJson(const ScheduleRecord& r) {
    return {{"number", r.number},
            {"slot_s", r.slot},
            {"at_s", r.at},
            {"boot", r.uptime.boot},
            {"uptime_s", r.uptime.seconds},
            {"peer_ahead_s", r.peerAhead},
            {"run", r.run},
            {"problem", fields::orNull(r.problem)}};
}

ScheduleRecord readRecord(const json& value) {
    ScheduleRecord r;
    r.number = static_cast<std::int64_t>(fields::neededNumber(value, "number", 1, 1e12));
    r.slot = static_cast<std::int64_t>(fields::neededNumber(value, "slot_s", 0, maxSeconds));
    r.at = fields::neededNumber(value, "at_s", 0, maxSeconds);
    r.uptime = {fields::text(value, "boot", 64), fields::neededNumber(value, "uptime_s", 0, maxSeconds)};
    r.peerAhead = fields::number(value, "peer_ahead_s", -maxSeconds, maxSeconds).value_or(0);
    if (const json* run = fields::find(value, "run")) r.run = *run;
    r.problem = fields::text(value, "problem", 2000);
    if (r.run.is_null() == r.problem.empty()) throw quantity::BadField{"run"};
    return r;
}

Result<ScheduleRecords> ScheduleRecords::open(fs::path folder) {
    ScheduleRecords out;
    out.m_folder = std::move(folder);
    if (out.m_folder.empty()) return out;
    std::error_code failed;
    fs::create_directories(out.m_folder, failed);
    if (!failed) fs::permissions(out.m_folder, fs::perms::owner_all, failed);
    if (failed)
        return problem("the folder for schedules cannot be made: " + failed.message(), out.m_folder.string(),
                       "give another with --schedules");
    for (const fs::directory_entry& entry : fs::directory_iterator(out.m_folder, failed)) {
        const auto record = fields::ifSound([&] { return readRecord(readFile(entry.path())); });
        if (!record || out.fileOf(record->number) != entry.path()) continue;
        json body = toJson(*record);
        const std::size_t bytes = dumped(body).size();
        out.m_records.push_back({record->number, bytes, std::move(body)});
        out.m_bytes += bytes;
        out.m_next = std::max(out.m_next, record->number + 1);
        out.m_lastSlot = std::max(out.m_lastSlot, record->slot);
    }
    std::ranges::sort(out.m_records, {}, &Kept::number);
    return out;
}

fs::path ScheduleRecords::fileOf(std::int64_t number) const {
    return m_folder / ("record-" + std::to_string(number) + extension);
}

void ScheduleRecords::dropOldest() {
    std::error_code none;
    if (!m_folder.empty()) fs::remove(fileOf(m_records.front().number), none);
    m_bytes -= m_records.front().bytes;
    m_records.pop_front();
}

Result<void> ScheduleRecords::add(ScheduleRecord record) {
    record.number = m_next++;
    m_lastSlot = std::max(m_lastSlot, record.slot);
    json body = toJson(record);
    std::string text = dumped(body);
    if (text.size() > maxRecordBytes && body.at("run").is_object()) {
        body.at("run").erase("samples");
        text = dumped(body);
    }
    m_bytes += text.size();
    m_records.push_back({record.number, text.size(), std::move(body)});
    while (m_records.size() > maxRecords || (m_bytes > maxStoreBytes && m_records.size() > 1))
        dropOldest();
    return m_folder.empty() ? Result<void>() : writePrivately(fileOf(record.number), text);
}

std::vector<json> ScheduleRecords::after(std::int64_t number, std::size_t maxBytes) const {
    std::vector<json> out;
    std::size_t bytes = 0;
    for (const Kept& kept : m_records) {
        if (kept.number <= number) continue;
        if (!out.empty() && bytes + kept.bytes > maxBytes) break;
        bytes += kept.bytes;
        out.push_back(kept.body);
    }
    return out;
}

std::string ScheduleRecords::lastProblem() const {
    if (m_records.empty() || !m_records.back().body.at("problem").is_string()) return {};
    return m_records.back().body.at("problem").get<std::string>();
}

} // namespace metrodos::probe
