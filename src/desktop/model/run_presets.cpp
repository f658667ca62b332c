#include "desktop/model/run_presets.h"

#include "benchmark/run_json.h"
#include "benchmark/run_parts.h"
#include "desktop/model/config_file.h"
#include "quantity/fields.h"
#include "quantity/text.h"

#include <QFile>
#include <QSaveFile>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace metrodos::desktop {
namespace {

namespace fields = quantity::fields;
using benchmark::RunConfig;
using nlohmann::json;

constexpr const char* presetFormat = "metrodos-run-presets";
constexpr qint64 maxPresetFile = 64 * 1024;
constexpr std::size_t maxPresetName = 60; // bytes

json written(const RunPreset& preset) {
    const RunConfig& c = preset.config;
    return {{"name", preset.name.toStdString()},
            {"protocol", benchmark::name(c.protocol)},
            {"rate_bps", benchmark::toJson(c.rate)},
            {"congestion_control", c.congestion},
            {"window_bytes", c.windowBytes},
            {"segment_bytes", c.segmentBytes},
            {"dscp", c.dscp},
            {"ip_version", c.ipVersion},
            {"bind", c.bind},
            {"maximum_bytes", c.maxBytes},
            {"warmup_s", fields::orNull(c.warmup)}};
}

RunPreset read(const json& value) {
    RunPreset out;
    out.name = QString::fromStdString(fields::neededText(value, "name", maxPresetName));
    if (out.name.isEmpty()) throw quantity::BadField{"name"};
    RunConfig& c = out.config;
    c.protocol = fields::word(value, "protocol", &benchmark::protocol);
    if (const auto bps = fields::number(value, "rate_bps", benchmark::minPace, benchmark::maxPace))
        c.rate = quantity::BitRate::bitsPerSecond(*bps);
    c.congestion = fields::text(value, "congestion_control", 15);
    c.windowBytes = static_cast<std::uint64_t>(
        fields::number(value, "window_bytes", 0, benchmark::maxWindow).value_or(0));
    c.segmentBytes =
        static_cast<int>(fields::number(value, "segment_bytes", 0, benchmark::maxSegment).value_or(0));
    c.dscp = static_cast<int>(fields::number(value, "dscp", 0, 63).value_or(0));
    c.ipVersion = static_cast<int>(fields::number(value, "ip_version", 0, 6).value_or(0));
    c.bind = fields::text(value, "bind", 64);
    c.maxBytes = static_cast<std::uint64_t>(fields::number(value, "maximum_bytes", 0, 1e18).value_or(0));
    c.warmup = fields::number(value, "warmup_s", 0, benchmark::maxRun);
    return out;
}

} // namespace

std::filesystem::path RunPresets::usualFile() {
    return configFile("METRODOS_PRESETS", QStringLiteral("run-presets.json"));
}

std::vector<RunPreset> RunPresets::load() const {
    QFile file(QString::fromStdString(m_file.string()));
    if (!file.open(QIODevice::ReadOnly)) return {};
    const QByteArray text = file.read(maxPresetFile);
    const json document = json::parse(text.begin(), text.end(), nullptr, false);
    std::vector<RunPreset> out;
    const auto list = fields::ifSound([&]() -> const json* {
        return document.is_object() && document.value("format", json()) == presetFormat
                   ? fields::list(document, "presets", most)
                   : nullptr;
    });
    if (!list || *list == nullptr) return out;
    for (const json& one : **list)
        if (auto preset = fields::ifSound([&] { return read(one); })) out.push_back(std::move(*preset));
    return out;
}

quantity::Result<void> RunPresets::write(const std::vector<RunPreset>& presets) const {
    json list = json::array();
    for (const RunPreset& p : presets)
        list.push_back(written(p));
    const std::string text =
        json{{"format", presetFormat}, {"version", 1}, {"presets", std::move(list)}}.dump(2) + "\n";
    std::error_code none;
    std::filesystem::create_directories(m_file.parent_path(), none);
    QSaveFile file(QString::fromStdString(m_file.string()));
    if (!file.open(QIODevice::WriteOnly) ||
        file.write(text.data(), static_cast<qint64>(text.size())) != static_cast<qint64>(text.size()) ||
        !file.commit())
        return quantity::problem("the named orders cannot be kept", m_file.string(),
                                 "check the folder and its free space");
    return {};
}

quantity::Result<void> RunPresets::keep(const RunPreset& preset) const {
    RunPreset kept = preset;
    kept.name = QString::fromStdString(
        quantity::cutTo(quantity::oneLine(preset.name.trimmed().toStdString()), maxPresetName));
    if (kept.name.isEmpty()) return quantity::problem("the order has no name", "", "type one first");
    auto all = load();
    std::erase_if(all, [&](const RunPreset& p) { return p.name == kept.name; });
    if (all.size() >= most)
        return quantity::problem("there are " + std::to_string(most) + " named orders already", "",
                                 "delete one that is not used any more");
    all.push_back(std::move(kept));
    std::sort(all.begin(), all.end(), [](const RunPreset& a, const RunPreset& b) { return a.name < b.name; });
    return write(all);
}

quantity::Result<void> RunPresets::drop(const QString& name) const {
    auto all = load();
    std::erase_if(all, [&](const RunPreset& p) { return p.name == name; });
    return write(all);
}

} // namespace metrodos::desktop
