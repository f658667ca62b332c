#include "report/data_package.h"

#include "job/csv.h"
#include "job/photo.h"
#include "job/record_digest.h"
#include "job/runs_csv.h"
#include "job/schema.h"
#include "job/zip_archive.h"
#include "report/run_svg.h"
#include "report/svg.h"

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <tuple>

namespace metrodos::report {
namespace {

using nlohmann::json;

json schemaOf(const std::vector<job::CsvColumn>& columns) {
    json fields = json::array();
    for (const job::CsvColumn& c : columns)
        fields.push_back({{"name", c.name}, {"type", c.type}, {"description", c.what}});
    return {{"fields", fields}, {"missingValues", {""}}};
}

// What goes into the archive, and what the manifest says of it.
class Package {
  public:
    void add(const std::string& path, const char* mediaType, const char* what, std::string body,
             json schema = nullptr) {
        std::string name = path.substr(0, path.rfind('.'));
        std::replace(name.begin(), name.end(), '/', '-');
        json resource{{"name", name + "-" + path.substr(path.rfind('.') + 1)},
                      {"path", path},
                      {"mediatype", mediaType},
                      {"description", what},
                      {"bytes", body.size()},
                      {"hash", "sha256:" + job::digestOf(body)}};
        if (!schema.is_null()) {
            resource["schema"] = std::move(schema);
            resource["profile"] = "tabular-data-resource";
        }
        m_resources.push_back(std::move(resource));
        m_entries.push_back({path, std::move(body)});
    }
    [[nodiscard]] quantity::Result<std::string> zipped(json manifest) {
        manifest["resources"] = std::move(m_resources);
        m_entries.insert(m_entries.begin(), {"datapackage.json", manifest.dump(1) + "\n"});
        return job::zipOf(m_entries);
    }

  private:
    json m_resources = json::array();
    std::vector<job::ZipEntry> m_entries;
};

} // namespace

std::vector<NamedDrawing> drawingsOf(const Document& client) {
    std::vector<NamedDrawing> out;
    std::map<std::string, int> count;
    const auto add = [&](const std::string& kind, std::string svg) {
        const int n = ++count[kind];
        out.push_back({n == 1 ? kind : kind + "-" + std::to_string(n), std::move(svg)});
    };
    for (const Chapter& c : client.chapters)
        for (const Block& block : c.blocks) {
            if (const auto* drawing = std::get_if<Drawing>(&block)) add("section", drawing->svg);
            if (const auto* ranges = std::get_if<Ranges>(&block)) add("ranges", toSvg(*ranges));
            if (const auto* strip = std::get_if<WayStrip>(&block)) add("way", toSvg(*strip));
            if (const auto* week = std::get_if<WeekHours>(&block)) add("week", toSvg(*week));
        }
    return out;
}

quantity::Result<std::string> dataPackage(const job::Document& job, const catalog::Catalog& catalog,
                                          const HandOverSettings& settings, bool isPrivate, Paper paper) {
    Package package;
    package.add("job.json", "application/json", "the whole job, format metrodos-job",
                job::toJson(job).dump(1) + "\n");
    package.add("survey.csv", "text/csv", "rooms, jacks, runs and devices", job::toCsv(job.house));
    package.add("runs.csv", "text/csv", "one row a run", job::runsToCsv(job), schemaOf(job::runColumns()));
    package.add("samples.csv", "text/csv", "one row a tenth of a second of a run", job::samplesToCsv(job),
                schemaOf(job::sampleColumns()));
    HandOverSettings judged = settings;
    if (!judged.verdicts) judged.verdicts = verdictsOf(job, catalog);
    if (judged.records.empty()) judged.records = job::recordDigest(job);
    const Document client = arranged(clientDocument(job, catalog, judged), job.house);
    const Document technician = arranged(technicianDocument(job, catalog, judged), job.house);
    for (const NamedDrawing& drawing : drawingsOf(client)) {
        package.add("drawings/" + drawing.name + ".svg", "image/svg+xml", "a drawing of the record",
                    drawing.svg);
        if (auto png = toPng(drawing.svg))
            package.add("drawings/" + drawing.name + ".png", "image/png", "the same as a picture",
                        std::move(*png));
    }
    // The newest runs as pictures; all are in the tables.
    constexpr std::size_t mostRuns = 60;
    for (std::size_t i = job.runs.size() - std::min(job.runs.size(), mostRuns); i < job.runs.size(); ++i) {
        const benchmark::RouteRun& r = job.runs[i];
        const house::Route* route = job.house.route(r.route);
        package.add("drawings/run-" + std::to_string(i + 1) + ".svg", "image/svg+xml",
                    "a run over its time: row of runs.csv by its number",
                    toSvg(r.run, r.run.startedAt + ", " + (route == nullptr ? r.route : route->label) + ", " +
                                     name(r.run.config.direction)));
    }
    if (std::string schema = job::schemaText(); !schema.empty())
        package.add("job.schema.json", "application/schema+json", "what job.json may hold (JSON Schema)",
                    std::move(schema));
    for (const auto& [document, name, what] :
         {std::tuple(&client, "record", "the client's record"),
          std::tuple(&technician, "technician", "the page for the next technician")})
        for (const auto& [ending, mediaType] :
             {std::pair(".html", "text/html"), std::pair(".pdf", "application/pdf"),
              std::pair(".md", "text/markdown")}) {
            auto text = written(*document, ending, paper);
            if (!text) return text;
            package.add(std::string("documents/") + name + ending, mediaType, what, std::move(*text));
        }
    return package.zipped({{"profile", "data-package"},
                           {"name", "metrodos-job"},
                           {"title", job.house.name},
                           {"created", settings.date},
                           {"private", isPrivate},
                           {"records", "sha256:" + judged.records}});
}

} // namespace metrodos::report
