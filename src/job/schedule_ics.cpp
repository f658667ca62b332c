#include "job/schedule_ics.h"

#include "benchmark/schedule.h"
#include "quantity/moment.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <algorithm>
#include <cmath>
#include <ctime>
#include <libical/ical.h>
#include <memory>

namespace metrodos::job {
namespace {

using house::Schedule;
using quantity::inQuotes;
using quantity::problem;
using quantity::Result;

struct FreeComponent {
    void operator()(icalcomponent* c) const { icalcomponent_free(c); }
};
using Component = std::unique_ptr<icalcomponent, FreeComponent>;

constexpr const char* routeName = "X-METRODOS-ROUTE";
constexpr const char* secondsName = "X-METRODOS-SECONDS";
constexpr const char* streamsName = "X-METRODOS-STREAMS";

icaltimetype timeOf(std::int64_t seconds) {
    return icaltime_from_timet_with_zone(static_cast<std::time_t>(seconds), 0,
                                         icaltimezone_get_utc_timezone());
}

void addOwn(icalcomponent* event, const char* name, const std::string& value) {
    icalproperty* property = icalproperty_new_x(value.c_str());
    icalproperty_set_x_name(property, name);
    icalcomponent_add_property(event, property);
}

std::string ownOf(icalcomponent* event, const char* name) {
    for (icalproperty* p = icalcomponent_get_first_property(event, ICAL_X_PROPERTY); p != nullptr;
         p = icalcomponent_get_next_property(event, ICAL_X_PROPERTY)) {
        const char* own = icalproperty_get_x_name(p);
        const char* value = icalproperty_get_x(p);
        if (own != nullptr && value != nullptr && std::string_view(own) == name) return value;
    }
    return {};
}

// Minutes from one repetition to the next; nothing for a rule that is not an even beat.
std::optional<double> minutesOf(const icalrecurrencetype& rule) {
    // A list of days or hours makes gaps of several lengths.
    if (rule.by_hour[0] != ICAL_RECURRENCE_ARRAY_MAX || rule.by_minute[0] != ICAL_RECURRENCE_ARRAY_MAX ||
        rule.by_day[0] != ICAL_RECURRENCE_ARRAY_MAX || rule.by_month_day[0] != ICAL_RECURRENCE_ARRAY_MAX ||
        rule.by_month[0] != ICAL_RECURRENCE_ARRAY_MAX || rule.by_set_pos[0] != ICAL_RECURRENCE_ARRAY_MAX)
        return std::nullopt;
    const double interval = std::max<double>(rule.interval, 1);
    switch (rule.freq) {
    case ICAL_MINUTELY_RECURRENCE:
        return interval;
    case ICAL_HOURLY_RECURRENCE:
        return interval * 60;
    case ICAL_DAILY_RECURRENCE:
        return interval * 1440;
    default:
        return std::nullopt;
    }
}

Result<Schedule> scheduleOf(icalcomponent* event, const house::House& house, const house::Id& route) {
    Schedule s;
    const char* summary = icalcomponent_get_summary(event);
    s.label = quantity::cutTo(quantity::oneLine(summary == nullptr ? "" : summary), 200);
    if (s.label.empty()) s.label = "Schedule";
    const auto bad = [&](const std::string& what, const std::string& advice) {
        return problem("the event " + inQuotes(s.label) + " " + what, "", advice);
    };
    const icaltimetype start = icalcomponent_get_dtstart(event);
    icalproperty* repeats = icalcomponent_get_first_property(event, ICAL_RRULE_PROPERTY);
    if (icaltime_is_null_time(start) != 0 || repeats == nullptr)
        return bad("does not repeat", "give it a beginning and let it repeat");
    const std::int64_t first = icaltime_as_timet_with_zone(start, icaltime_get_timezone(start));
    s.from = quantity::utcText(first);
    const icalrecurrencetype rule = icalproperty_get_rrule(repeats);
    const auto minutes = minutesOf(rule);
    if (!minutes || *minutes > 1440)
        return bad("does not repeat evenly, at least once a day",
                   "let it repeat by minutes, by hours or daily");
    s.everyMinutes = static_cast<int>(*minutes);
    double hours = 24;
    if (rule.count > 0)
        hours = rule.count * *minutes / 60;
    else if (icaltime_is_null_time(rule.until) == 0)
        hours =
            (static_cast<double>(icaltime_as_timet_with_zone(rule.until, icaltimezone_get_utc_timezone())) -
             static_cast<double>(first)) /
            3600;
    constexpr double most = 744;
    s.hours = static_cast<int>(std::clamp(std::ceil(hours), 1.0, most));
    const std::string own = ownOf(event, routeName);
    s.route = house.route(own) != nullptr ? own : route;
    if (house.route(s.route) == nullptr) return bad("names no route of this house", "choose a route first");
    if (const auto seconds = quantity::parseWhole(ownOf(event, secondsName), 1, 60))
        s.seconds = static_cast<double>(*seconds);
    if (const auto streams = quantity::parseWhole(ownOf(event, streamsName), 1, 32))
        s.streams = static_cast<int>(*streams);
    if (benchmark::dutyOf(s) > house::maxDuty)
        return bad("would measure more than a quarter of the time", "let it repeat less often");
    return s;
}

} // namespace

std::string schedulesToIcs(const std::vector<Schedule>& schedules) {
    const Component calendar(icalcomponent_new_vcalendar());
    icalcomponent_add_property(calendar.get(), icalproperty_new_version("2.0"));
    icalcomponent_add_property(calendar.get(), icalproperty_new_prodid("-//Metrodos//Schedules//EN"));
    for (const Schedule& s : schedules) {
        const auto first = benchmark::slotAt(s, 0);
        if (!first) continue;
        icalcomponent* event = icalcomponent_new_vevent(); // the calendar's own from now on
        icalcomponent_add_component(calendar.get(), event);
        icalcomponent_set_uid(event, (s.id + "-" + s.from + "@metrodos").c_str());
        icalcomponent_set_dtstamp(event, timeOf(*first));
        icalcomponent_set_dtstart(event, timeOf(*first));
        icalcomponent_set_dtend(event,
                                timeOf(*first + static_cast<std::int64_t>(std::ceil(2 * s.seconds)) + 2));
        icalcomponent_set_summary(event, s.label.c_str());
        icalrecurrencetype rule;
        icalrecurrencetype_clear(&rule);
        rule.freq = ICAL_MINUTELY_RECURRENCE;
        rule.interval = static_cast<short>(s.everyMinutes);
        rule.count = benchmark::slotCount(s);
        icalcomponent_add_property(event, icalproperty_new_rrule(rule));
        addOwn(event, routeName, s.route);
        addOwn(event, secondsName, std::to_string(std::lround(s.seconds)));
        addOwn(event, streamsName, std::to_string(s.streams));
    }
    const std::unique_ptr<char, decltype(&std::free)> text(icalcomponent_as_ical_string_r(calendar.get()),
                                                           &std::free);
    return text ? text.get() : "";
}

Result<std::vector<Schedule>> schedulesFromIcs(std::string_view text, const house::House& house,
                                               const house::Id& route) {
    if (text.size() > maxIcsBytes)
        return problem("the calendar is larger than 1 MB", "", "export only the events that are wanted");
    const Component calendar(icalparser_parse_string(std::string(text).c_str()));
    if (!calendar) return problem("this is no calendar", "", "choose an iCalendar file (.ics)");
    std::vector<Schedule> out;
    house::House with = house;
    icalcomponent* root = calendar.get();
    for (icalcomponent* event = icalcomponent_get_first_component(root, ICAL_VEVENT_COMPONENT);
         event != nullptr; event = icalcomponent_get_next_component(root, ICAL_VEVENT_COMPONENT)) {
        if (out.size() == 16)
            return problem("the calendar has more than 16 events", "", "export fewer of them");
        auto schedule = scheduleOf(event, house, route);
        if (!schedule) return tl::unexpected(schedule.error());
        schedule->id = with.freeId("schedule");
        with.schedules.push_back(*schedule);
        out.push_back(std::move(*schedule));
    }
    if (out.empty()) return problem("the calendar has no events", "", "choose one with events that repeat");
    return out;
}

} // namespace metrodos::job
