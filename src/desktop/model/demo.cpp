#include "desktop/model/demo.h"

#include "catalog/load.h"
#include "job/open.h"
#include "job/store.h"
#include "quantity/moment.h"
#include "standin/history.h"

#include <QCoreApplication>
#include <QStandardPaths>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace metrodos::desktop {
namespace {

constexpr std::uint64_t firstSeed = 11;
constexpr std::int64_t day = 24 * 3600;
constexpr int repeats = 5;

std::int64_t at(const char* moment) {
    return quantity::utcSeconds(moment).value_or(0);
}

void append(benchmark::RouteRuns& to, benchmark::RouteRuns more) {
    std::move(more.begin(), more.end(), std::back_inserter(to));
}

// A visit before the service became faster, one after it, and a week of hours in which the saw in the
// workshop disturbs its mains. The first route has no runs: they are made while one looks.
benchmark::RouteRuns pastOfQuarryHouse(const house::House& house, const catalog::Catalog& catalog) {
    const std::vector<house::Id> routes{"workshop-loft", "study-dome", "study-service"};
    benchmark::RouteRuns out;
    house::House before = house;
    if (before.service) before.service->down = quantity::BitRate::megabits(250);
    append(out, standin::runsOf(before, catalog,
                                standin::PastVisit{at("2025-11-14T09:30:00Z"), routes, 3, {}}, "past-a", 1));
    append(out, standin::runsOf(house, catalog, standin::PastVisit{at("2026-05-12T09:10:00Z"), routes, 3, {}},
                                "past-b", 1));
    standin::PastSchedule week{at("2026-09-07T00:00:00Z"), 60, 7 * 24, "workshop-loft", {}, {}, "bandsaw",
                               {{9, 12}, {13, 17}},        {}, true};
    week.disturbed.hidden.push_back({"house-mains", 0.6, 0.55, 1, 0, 0.15, 0, 0, false, true, {}});
    append(out, standin::runsOf(house, catalog, week, "past-week", 1));
    return out;
}

// The class that a thing had before the change that its text tells of.
std::string classBefore(const house::DatedChange& change, const catalog::Catalog& catalog) {
    for (const catalog::DeviceClass& cls : catalog.devices)
        if (change.text.find(" changed from " + cls.label + " to ") != std::string::npos) return cls.id;
    return {};
}

// A visit a week before and one a week after the first exchange, over every route.
benchmark::RouteRuns pastOf(const house::House& house, const catalog::Catalog& catalog, std::uint64_t seed) {
    benchmark::RouteRuns out;
    std::vector<house::Id> routes;
    for (const house::Route& r : house.routes)
        routes.push_back(r.id);
    if (house.changes.empty()) return out;
    const house::DatedChange& change = house.changes.front();
    const std::int64_t changed = at(change.at.c_str());
    house::House before = house;
    if (house::Device* d = before.device(change.thing)) d->deviceClass = classBefore(change, catalog);
    append(out, standin::runsOf(before, catalog, standin::PastVisit{changed - 7 * day, routes, repeats, {}},
                                "past-a", seed));
    append(out, standin::runsOf(house, catalog, standin::PastVisit{changed + 7 * day, routes, repeats, {}},
                                "past-b", seed));
    return out;
}

// Other houses, for the library; what cannot be made is not there.
void makeLibrary(const std::filesystem::path& data, const std::filesystem::path& folder,
                 const catalog::Catalog& catalog) {
    std::error_code none;
    std::filesystem::create_directories(folder, none);
    std::uint64_t seed = firstSeed;
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(data, none))
        files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    for (const std::filesystem::path& source : files) {
        const std::filesystem::path file = folder / (source.stem().string() + ".metrodos");
        auto document = job::readJob(source);
        if (!document || std::filesystem::exists(file, none)) continue;
        document->runs = pastOf(document->house, catalog, ++seed);
        (void)job::Store::create(file, *document);
    }
}

} // namespace

std::filesystem::path demoFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString();
}

quantity::Result<std::filesystem::path> demoJob(const std::filesystem::path& folder) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    const std::filesystem::path file = folder / "quarry-house.metrodos";
    if (std::filesystem::exists(file, error)) return file;
    const auto data = catalog::dataFolder();
    if (!data) return tl::unexpected(data.error());
    auto document = job::readJob(*data / "demo/quarry-house.json");
    if (!document) return tl::unexpected(document.error());
    const auto catalog = catalog::loadDefault();
    if (!catalog) return tl::unexpected(catalog.error());
    makeLibrary(*data / "demo/library", folder / "library", *catalog);
    document->runs = pastOfQuarryHouse(document->house, *catalog);
    document->house.changes.push_back(
        {"c20260120-service",
         "2026-01-20T08:00:00Z",
         "service",
         "the download of “internet service” changed from 250 Mbit/s to 900 Mbit/s",
         std::nullopt,
         {}});
    const auto made = job::Store::create(file, *document);
    if (!made) return tl::unexpected(made.error());
    return file;
}

Standins::Standins(QObject* parent)
    : QObject(parent) {
    connect(&m_process, &QProcess::readyReadStandardOutput, this, [this] {
        if (!m_process.canReadLine() || isReady()) return;
        const auto line = nlohmann::json::parse(m_process.readLine().toStdString(), nullptr, false);
        if (!line.is_object() || !line.contains("endpoints")) return;
        for (const auto& e : line.at("endpoints"))
            m_addresses[e.value("id", "")] = e.value("host", "") + ":" + std::to_string(e.value("port", 0));
        for (const auto& a : line.value("adapters", nlohmann::json::array()))
            m_pages[a.value("id", "")] = a.value("url", "");
        m_service = line.value("service", "");
        Q_EMIT ready();
    });
    connect(&m_process, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart)
            Q_EMIT failed(tr(
                "The simulated house cannot be started; install metrodos-standin beside the application."));
    });
    connect(&m_process, &QProcess::finished, this, [this](int code) {
        m_addresses.clear();
        if (code != 0) Q_EMIT failed(QString::fromUtf8(m_process.readAllStandardError()).trimmed());
    });
}

Standins::~Standins() {
    disconnect(&m_process, nullptr, this, nullptr);
    m_process.terminate();
    if (!m_process.waitForFinished(2000)) m_process.kill();
    m_process.waitForFinished(1000);
}

void Standins::start(const std::filesystem::path& job) {
    m_key = probe::Key::generate();
    const std::string keyFile = m_folder.filePath(QStringLiteral("key")).toStdString();
    if (const auto saved = m_key->save(keyFile); !saved) {
        Q_EMIT failed(QString::fromStdString(saved.error().sentence()));
        return;
    }
    m_process.start(QCoreApplication::applicationDirPath() + QStringLiteral("/metrodos-standin"),
                    {QStringLiteral("--job"), QString::fromStdString(job.string()),
                     QStringLiteral("--key-file"), QString::fromStdString(keyFile),
                     QStringLiteral("--end-with-parent")});
}

std::string Standins::page(const std::string& adapter) const {
    const auto hit = m_pages.find(adapter);
    return hit == m_pages.end() ? std::string() : hit->second;
}

std::string Standins::address(const std::string& endpoint) const {
    const auto hit = m_addresses.find(endpoint);
    return hit == m_addresses.end() ? std::string() : hit->second;
}

} // namespace metrodos::desktop
