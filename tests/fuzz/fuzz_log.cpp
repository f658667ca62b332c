// What comes from other people's files about the log: calendars, figures of houses, records of agents,
// filters.
#include "benchmark/run_filter.h"
#include "catalog/experience.h"
#include "job/json_text.h"
#include "job/schedule_ics.h"
#include "probe/schedule_records.h"
#include "quantity/fields.h"
#include "quantity/moment.h"

#include <nlohmann/json.hpp>
#include <string_view>

using namespace metrodos;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    house::House house;
    house.routes.push_back({"r", "R", "a", "b"});
    if (const auto schedules = job::schedulesFromIcs(text, house, "r"); schedules)
        (void)job::schedulesFromIcs(job::schedulesToIcs(*schedules), house, "r");
    (void)benchmark::parseRunFilter(text);
    (void)quantity::utcSeconds(text);
    const nlohmann::json value = job::readJson(std::string(text));
    if (const auto experience = catalog::experienceFromJson(value)) (void)catalog::toJson(*experience);
    if (value.is_object()) (void)quantity::fields::ifSound([&] { return probe::readRecord(value); });
    return 0;
}
