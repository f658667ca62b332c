// Answers that are kept as files, of houses that ship with the program. They prove nothing of an answer being
// right, which is for tests with figures worked out by hand; they notice that one has changed which nobody
// meant to change, wherever in the layer the cause may lie. METRODOS_KEEP=1 writes them anew, and the test
// fails; what changed in the files is then read and explained like any other change.
#pragma once

#include "job/document.h"
#include "job/open.h"
#include "support/paths.h"
#include "support/runs.h"

#include <QByteArray>
#include <QCryptographicHash>
#include <QFile>
#include <QString>
#include <algorithm>
#include <array>
#include <cmath>
#include <ctime>
#include <functional>
#include <nlohmann/json.hpp>
#include <utility>
#include <vector>

namespace metrodos::testing {

/// Appliances run by the clock on the wall, which shows UTC here wherever the test runs.
inline const bool wallShowsUtc = [] {
    qputenv("TZ", "UTC");
    ::tzset();
    return true;
}();

inline house::House houseIn(const std::string& path) {
    auto document = job::readJob(path);
    if (!document) qFatal("%s", document.error().sentence().c_str());
    return std::move(document->house);
}

/// Every shipped house, by the name of its file.
inline std::vector<std::pair<std::string, house::House>> shippedHouses() {
    std::vector<std::pair<std::string, house::House>> out;
    for (const std::string name : {"quarry-house", "library/elm-row", "library/fen-barn",
                                   "library/harbour-loft", "library/mill-end", "library/signal-house"}) {
        out.emplace_back(name.substr(name.rfind('/') + 1), houseIn(dataPath("demo/" + name + ".json")));
    }
    return out;
}

/// A house with every field that a job can hold.
inline house::House fullHouse() {
    return houseIn(sourcePath("tests/houses/full-house.json"));
}

/// With a part of its classes, lengths and links not known.
inline house::House lessKnown(house::House h, int which) {
    int n = which;
    for (house::Device& d : h.devices) {
        if (n++ % 3 == 0) d.deviceClass.clear();
        for (house::Port& p : d.ports)
            if (n++ % 2 == 0) p.phy.clear();
    }
    for (house::Connection& c : h.connections) {
        if (n++ % 3 == 0) c.situation.clear();
        if (n % 4 == 0) c.length.reset();
        if (n % 5 == 0) c.linkedAt = quantity::BitRate::megabits(n % 2 == 0 ? 100 : 1000);
        c.halfDuplex = n % 10 == 0;
    }
    for (house::CoaxPart& p : h.coaxParts) {
        if (n++ % 3 == 0) p.kind = house::CoaxPartKind::amplifier;
        p.rated = p.bypass = n % 2 == 0;
        p.terminated = n % 4 == 1;
    }
    h.coaxUse.cableInternetTop = quantity::Frequency::megahertz(700.0 + 150 * which);
    return h;
}

/// The shipped ones, the full one, and two of which less is known.
inline std::vector<std::pair<std::string, house::House>> variedHouses() {
    auto out = shippedHouses();
    out.emplace_back("full-house", fullHouse());
    out.emplace_back("less-known", lessKnown(fullHouse(), 1));
    out.emplace_back("hardly-known", lessKnown(out.front().second, 2));
    return out;
}

/// Short for what is too long to be kept: another digest is another text.
inline std::string digestOf(const nlohmann::json& whole) {
    const auto text = QByteArray::fromStdString(whole.dump());
    return QCryptographicHash::hash(text, QCryptographicHash::Sha1).toHex().left(12).toStdString();
}

/// A form with one value out of place: every `step`-th once, a number by turns negative, huge or a text, a
/// text by turns of nothing that is there, too long, empty or null, with what `judge` says of the form.
inline nlohmann::json spoilt(const nlohmann::json& whole, int step,
                             const std::function<std::string(const nlohmann::json&)>& judge) {
    using nlohmann::json;
    const std::array<json, 3> numbers{json(-1), json(1e9), json("many")};
    const std::array<json, 4> texts{json("nowhere"), json(std::string(300, 'x')), json(""), json()};
    const json flat = whole.flatten();
    json out;
    std::size_t n = 0;
    std::size_t turn = 0;
    for (const auto& [pointer, value] : flat.items()) {
        if (n++ % static_cast<std::size_t>(step) != 0) continue;
        json broken = whole;
        broken[json::json_pointer(pointer)] =
            value.is_number() ? numbers[turn % numbers.size()] : texts[turn % texts.size()];
        ++turn;
        out[pointer] = judge(broken);
    }
    return out;
}

/// Three runs of each direction over every route, on two days; some fast and even, some slow and uneven.
inline benchmark::RouteRuns visited(const house::House& house) {
    constexpr std::array<double, 6> mbps{281, 94, 912, 61, 2100, 388};
    constexpr std::array<double, 3> variation{0.002, 0.12, 0.03};
    benchmark::RouteRuns out;
    for (const house::Route& route : house.routes)
        for (int n = 0; n < 6; ++n) {
            const std::size_t at = out.size() / 6 * 5 + static_cast<std::size_t>(n % 2);
            const auto way = n % 2 == 0 ? benchmark::Direction::forward : benchmark::Direction::backward;
            benchmark::Run run =
                steadyRun(way, mbps[at % mbps.size()] * (1 + 0.01 * n), 4, variation[at % variation.size()],
                          route.id + "-" + std::to_string(n));
            run.startedAt =
                std::string(n < 2 ? "2026-03-02" : "2026-05-04") + "T1" + std::to_string(n) + ":00:00Z";
            run.rttIdleUs = benchmark::Percentiles{800, 1100};
            run.rttLoadedUs = benchmark::Percentiles{4000.0 + 900 * n, 9000};
            run.retransmits = static_cast<std::uint64_t>(40 * (at % 3));
            run.senderLimited = benchmark::SenderLimited{0.1, 0.05};
            run.cpuSender = at % 4 == 3 ? 0.95 : 0.2;
            run.cpuReceiver = 0.3;
            if (n == 4) run.conditions.othersActive = true;
            out.push_back({route.id, std::move(run)});
        }
    return out;
}

/// The first place at which they differ, as a JSON pointer with both values; empty: nowhere. Numbers are
/// alike within `tolerance` of the larger one, and of 1 where both are smaller.
inline QString difference(const nlohmann::json& is, const nlohmann::json& was, double tolerance,
                          const std::string& at = {}) {
    const auto told = [&] {
        return QString::fromStdString((at.empty() ? "the whole" : at) + ": " + is.dump().substr(0, 300) +
                                      ", kept as " + was.dump().substr(0, 300));
    };
    if (is.is_number() && was.is_number()) {
        const auto a = is.get<double>();
        const auto b = was.get<double>();
        return std::fabs(a - b) <= tolerance * std::max({1.0, std::fabs(a), std::fabs(b)}) ? QString()
                                                                                           : told();
    }
    if (is.type() != was.type() || is.size() != was.size()) return told();
    if (is.is_array()) {
        for (std::size_t i = 0; i < is.size(); ++i)
            if (QString d = difference(is[i], was[i], tolerance, at + "/" + std::to_string(i)); !d.isEmpty())
                return d;
        return {};
    }
    if (is.is_object()) {
        for (const auto& [key, value] : is.items()) {
            if (!was.contains(key)) return told();
            if (QString d = difference(value, was.at(key), tolerance, at + "/" + key); !d.isEmpty()) return d;
        }
        return {};
    }
    return is == was ? QString() : told();
}

/// A line for each member of the whole and of its members: a change shows where it is.
inline std::string keptForm(const nlohmann::json& whole, int levels = 2) {
    if (levels == 0 || !whole.is_structured() || whole.empty()) return whole.dump();
    std::string out;
    for (const auto& [key, value] : whole.items())
        out += (out.empty() ? "" : ",\n") +
               (whole.is_object() ? nlohmann::json(key).dump() + ": " : std::string()) +
               keptForm(value, levels - 1);
    return (whole.is_object() ? "{\n" : "[\n") + out + (whole.is_object() ? "\n}" : "\n]");
}

/// The same against tests/kept/NAME.json.
inline QString differsFromKept(const std::string& name, const nlohmann::json& answer,
                               double tolerance = 1e-6) {
    QFile file(QString::fromStdString(sourcePath("tests/kept/" + name + ".json")));
    if (qEnvironmentVariableIsSet("METRODOS_KEEP")) {
        const QByteArray text = QByteArray::fromStdString(keptForm(answer)) + '\n';
        const bool written = file.open(QIODevice::WriteOnly) && file.write(text) == text.size();
        // Never a pass: what was just written proves nothing.
        return (written ? QStringLiteral(
                              "%1 was written anew; read its difference and run again without METRODOS_KEEP")
                        : QStringLiteral("%1 could not be written"))
            .arg(file.fileName());
    }
    if (!file.open(QIODevice::ReadOnly)) return QStringLiteral("%1 is missing").arg(file.fileName());
    return difference(answer, nlohmann::json::parse(file.readAll().toStdString()), tolerance);
}

inline nlohmann::json jsonIn(const std::string& path) {
    QFile file(QString::fromStdString(sourcePath(path)));
    if (!file.open(QIODevice::ReadOnly)) qFatal("%s is missing", path.c_str());
    return nlohmann::json::parse(file.readAll().toStdString());
}

/// What is asked: the keys of a member of what is kept, so that a question more is a line in that file.
inline std::vector<std::string> keptKeys(const std::string& name, const std::string& member) {
    std::vector<std::string> out;
    const auto kept = jsonIn("tests/kept/" + name + ".json");
    for (const auto& [key, answer] : kept.at(member).items())
        out.push_back(key);
    return out;
}

/// Text by its lines, so that a difference names one of them.
inline nlohmann::json linesOf(const std::string& text) {
    nlohmann::json out = nlohmann::json::array();
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        out.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

} // namespace metrodos::testing

#define QVERIFY_KEPT(...)                                                                                    \
    do {                                                                                                     \
        const QString differs = metrodos::testing::differsFromKept(__VA_ARGS__);                             \
        QVERIFY2(differs.isEmpty(), qPrintable(differs));                                                    \
    } while (false)
