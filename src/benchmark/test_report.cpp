#include "benchmark/test_report.h"

namespace metrodos::benchmark {

namespace fields = quantity::fields;

void writeHead(nlohmann::json& document, const char* format, const ReportHead& head) {
    document["format"] = format;
    document["version"] = 1;
    document["simulated"] = head.simulated;
    if (!head.startedAt.empty()) document["started_at"] = head.startedAt;
    if (!head.about.empty()) document["about"] = head.about;
    if (!head.route.empty()) document["route"] = head.route;
}

ReportHead readHead(const nlohmann::json& document, const char* format) {
    if (fields::neededText(document, "format", 40) != format) throw quantity::BadField{"format"};
    return {fields::flag(document, "simulated").value_or(false), fields::text(document, "started_at", 40),
            fields::text(document, "about", 400), fields::text(document, "route", 64)};
}

} // namespace metrodos::benchmark
