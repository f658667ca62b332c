#include "job/kept_document.h"

#include "job/json_text.h"

#include <cmath>
#include <nlohmann/json.hpp>

namespace metrodos::job {
namespace {

using nlohmann::json;
using quantity::BitRate;
using quantity::Money;

// Figures of a file are taken only within these bounds.
constexpr double mostRate = 1e15;
constexpr double mostHundredths = 1e15;
constexpr double mostCount = 1e9;

double number(const json& object, const char* key, double most) {
    const auto it = object.find(key);
    if (it == object.end() || !it->is_number()) return 0;
    const double value = it->get<double>();
    return std::isfinite(value) && value >= 0 && value <= most ? value : 0;
}

std::string text(const json& object, const char* key) {
    const auto it = object.find(key);
    return it != object.end() && it->is_string() ? it->get<std::string>() : std::string();
}

Money money(const json& object, const char* key) {
    Money out;
    out.hundredths = std::llround(number(object, key, mostHundredths));
    return out;
}

BitRate rate(const json& object, const char* key) {
    return BitRate::bitsPerSecond(number(object, key, mostRate));
}

} // namespace

quantity::Result<Report> reportOf(const KeptDocument& d) {
    if (d.text.size() > maxKeptText)
        return quantity::problem("the document is longer than 2 MB", "", "leave chapters out");
    json out{{"format", "metrodos-document"},
             {"version", 1},
             {"for", d.reader},
             {"started_at", d.at},
             {"title", d.title},
             {"digest", d.digest},
             {"text", d.text}};
    if (d.cost) {
        out["currency"] = d.currency;
        out["cost_hundredths"] = d.cost->hundredths;
    }
    for (const KeptDocument::Part& p : d.parts)
        out["parts"].push_back({{"item", p.item},
                                {"label", p.label},
                                {"unit", p.unit},
                                {"count", p.count},
                                {"price_hundredths", p.price.hundredths},
                                {"total_hundredths", p.total.hundredths}});
    for (const KeptDocument::Promise& p : d.promises)
        out["promises"].push_back({{"spot", p.spot},
                                   {"label", p.label},
                                   {"way", p.way},
                                   {"least_bps", p.least.bps()},
                                   {"middle_bps", p.middle.bps()},
                                   {"need_bps", p.need.bps()},
                                   {"down", p.isDown},
                                   {"chance", p.chance}});
    auto report = reportOf(out);
    if (!report) return quantity::problem("the document is too large to be kept", "", "leave chapters out");
    return *report;
}

std::optional<KeptDocument> readKept(const Report& report) {
    if (report.kind != "document") return std::nullopt;
    const json body = readJson(report.body);
    if (!body.is_object() || text(body, "started_at").empty()) return std::nullopt;
    KeptDocument d;
    d.reader = text(body, "for");
    d.at = text(body, "started_at");
    d.title = text(body, "title");
    d.digest = text(body, "digest");
    d.text = text(body, "text");
    d.currency = text(body, "currency");
    if (body.contains("cost_hundredths")) d.cost = money(body, "cost_hundredths");
    const auto objects = [&](const char* key, const auto& take) {
        const auto it = body.find(key);
        if (it == body.end() || !it->is_array()) return;
        for (const json& item : *it)
            if (item.is_object()) take(item);
    };
    objects("parts", [&](const json& p) {
        d.parts.push_back({text(p, "item"), text(p, "label"), text(p, "unit"), number(p, "count", mostCount),
                           money(p, "price_hundredths"), money(p, "total_hundredths")});
    });
    objects("promises", [&](const json& p) {
        d.promises.push_back({text(p, "spot"), text(p, "label"), text(p, "way"), rate(p, "least_bps"),
                              rate(p, "middle_bps"), rate(p, "need_bps"),
                              p.value("down", json(true)) != json(false), number(p, "chance", 1)});
    });
    return d;
}

std::vector<KeptDocument> keptOf(const std::vector<Report>& reports) {
    std::vector<KeptDocument> out;
    for (const Report& r : reports)
        if (auto d = readKept(r)) out.push_back(std::move(*d));
    return out;
}

} // namespace metrodos::job
