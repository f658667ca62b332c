#include "programs/cli_export.h"

#include "catalog/check.h"
#include "job/csv.h"
#include "job/pseudonyms.h"
#include "job/runs_csv.h"
#include "job/store.h"
#include "programs/cli_weigh.h"
#include "quantity/moment.h"
#include "report/data_package.h"
#include "report/section.h"
#include "report/svg.h"

#include <fstream>
#include <iostream>
#include <nlohmann/json.hpp>

namespace metrodos::programs {
namespace {

using quantity::Result;

Result<report::HandOverSettings> lookOf(const Arguments& a) {
    report::HandOverSettings out;
    out.date = quantity::utcNow().substr(0, 10);
    out.firm.name = a.firm;
    if (!a.colour.empty()) {
        if (!report::isColour(a.colour))
            return quantity::problem("this is no colour", a.colour, "write it like #1d6a85");
        out.firm.colour = a.colour;
    }
    if (!a.logo.empty()) {
        std::ifstream stream(a.logo, std::ios::binary);
        if (!stream) return quantity::problem("the logo cannot be read", a.logo, "check its name and rights");
        std::string bytes(report::maxLogoBytes + 1, '\0');
        stream.read(bytes.data(), static_cast<std::streamsize>(bytes.size()));
        bytes.resize(static_cast<std::size_t>(stream.gcount()));
        auto logo = report::checkedLogo(std::move(bytes));
        if (!logo) return tl::unexpected(logo.error());
        out.firm.logo = std::move(*logo);
    }
    return out;
}

report::Paper paperOf(const Arguments& a) {
    return a.paper == "letter" ? report::Paper::letter : report::Paper::a4;
}

// A document, and the same as the job keeps it.
struct Made {
    report::Document document;
    job::KeptDocument kept;
};

Result<Made> offerOf(const Arguments& a, const catalog::Catalog& catalog, const job::Document& job,
                     const report::HandOverSettings& settings) {
    const auto request = requestOf(a, catalog, job);
    if (!request) return tl::unexpected(request.error());
    const auto weighed = weigh::weigh(request->options, request->prices, request->objective);
    if (!weighed) return tl::unexpected(weighed.error());
    for (const weigh::Plan& plan : weighed->plans) {
        if (plan.id != weighed->best.at(request->objective)) continue;
        const report::Offered offered{request->options, request->prices, plan,
                                      report::othersOf(*weighed, plan)};
        const auto document =
            report::arranged(report::offerDocument(job, catalog, settings, offered), job.house);
        return Made{document, report::keptForm(document, "offer", quantity::utcNow(), &offered)};
    }
    return quantity::problem("there is no plan to be offered", a.job, "ask weigh what is missing");
}

Result<Made> documentOf(const Arguments& a, const catalog::Catalog& catalog, const job::Document& job,
                        const report::HandOverSettings& settings) {
    if (a.forWhom == "offer") return offerOf(a, catalog, job, settings);
    const auto document =
        report::arranged(a.forWhom == "technician" ? report::technicianDocument(job, catalog, settings)
                                                   : report::clientDocument(job, catalog, settings),
                         job.house);
    return Made{document, report::keptForm(document, a.forWhom, quantity::utcNow())};
}

Result<void> keep(const Arguments& a, const job::KeptDocument& document) {
    auto store = job::Store::open(a.job);
    if (!store) return tl::unexpected(store.error());
    const auto report = job::reportOf(document);
    if (!report) return tl::unexpected(report.error());
    const auto kept = store->addReport(*report);
    if (!kept) return tl::unexpected(kept.error());
    return {};
}

Result<std::string> drawingOf(const Arguments& a, const catalog::Catalog& catalog, const job::Document& job) {
    if (a.drawing == "section") return report::toSvg(report::drawSection(job.house));
    std::string names = "section";
    for (const report::NamedDrawing& drawing : report::drawingsOf(report::clientDocument(job, catalog, {}))) {
        if (drawing.name == a.drawing) return drawing.svg;
        if (drawing.name != "section") names += ", " + drawing.name;
    }
    return quantity::problem("this job has no drawing of this name", a.drawing, "choose one of " + names);
}

// The bytes of the file, by its ending.
Result<std::string> bytesOf(const Arguments& a, const catalog::Catalog& catalog, const job::Document& job) {
    const std::string ending = std::filesystem::path(a.to).extension().string();
    if (ending == ".json")
        return job::toJson(job).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
    if (ending == ".csv")
        return a.table == "runs"      ? job::runsToCsv(job)
               : a.table == "samples" ? job::samplesToCsv(job)
                                      : job::toCsv(job.house);
    if (const auto faults = catalog::check(job.house, catalog); !faults.empty())
        return tl::unexpected(faults.front());
    if (ending == ".svg") return drawingOf(a, catalog, job);
    if (ending == ".png") {
        const auto svg = drawingOf(a, catalog, job);
        return svg ? report::toPng(*svg) : svg;
    }
    const auto settings = lookOf(a);
    if (!settings) return tl::unexpected(settings.error());
    if (ending == ".zip") return report::dataPackage(job, catalog, *settings, a.isPrivate, paperOf(a));
    if (ending != ".html" && ending != ".pdf" && ending != ".md")
        return tl::unexpected(unknownForm(a.to, ".json, .csv, .svg, .png, .zip, .html, .pdf and .md"));
    const auto made = documentOf(a, catalog, job, *settings);
    if (!made) return tl::unexpected(made.error());
    auto bytes = report::written(made->document, ending, paperOf(a));
    if (bytes && a.keep)
        if (const auto kept = keep(a, made->kept); !kept) return tl::unexpected(kept.error());
    return bytes;
}

} // namespace

int exportJob(const Arguments& a, const catalog::Catalog& catalog) {
    if (a.keep && a.isPrivate)
        return fail(
            {"a document without names is not kept in the job", "--keep", "leave one of the two out"});
    if (a.isPrivate && (!a.firm.empty() || !a.logo.empty()))
        return fail(
            {"a document without names has no firm and no logo", "--private", "leave one of the two out"});
    if (a.keep && !a.job.ends_with(".metrodos"))
        return fail({"only a job file keeps documents", a.job, "import it as a .metrodos first"});
    auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    if (a.isPrivate) {
        job::Document without = job::withoutNames(*document);
        for (const job::PrivacyLine& line : job::privacyOf(*document, without))
            std::cerr << (line.isIn ? "in:  " : "out: ") << line.what << (line.how.empty() ? "" : " (")
                      << line.how << (line.how.empty() ? "" : ")") << '\n';
        document = std::move(without);
    }
    const auto bytes = bytesOf(a, catalog, *document);
    if (!bytes) return fail(bytes.error());
    const auto written = job::writeText(a.to, *bytes);
    return written ? 0 : fail(written.error());
}

} // namespace metrodos::programs
