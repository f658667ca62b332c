#include "desktop/handover/document_maker.h"

#include "job/log.h"
#include "job/open.h"
#include "job/record_digest.h"
#include "job/runs_csv.h"
#include "quantity/moment.h"
#include "report/section.h"
#include "report/svg.h"
#include "weigh/objectives.h"

#include <nlohmann/json.hpp>

namespace metrodos::desktop {
namespace {

using quantity::Result;

Result<job::Document> readFor(const DocumentQuestion& q) {
    auto job = job::readJob(q.file);
    if (job && q.isPrivate) job = job::withoutNames(*job);
    return job;
}

// The plan of the objective that the job has chosen.
Result<void> makeOffer(MadeDocument& out, const DocumentQuestion& q, const job::Document& job) {
    const auto options = weigh::optionsOf(job.house, *q.catalog, job::evidence(job.runs, job.house),
                                          job::watchesOf(job::counted(job.reports, job.house)));
    if (!options) return tl::unexpected(options.error());
    const weigh::Prices prices(*q.catalog, q.prices);
    const auto weighed = weigh::weigh(*options, prices, job.house.weighing.objective);
    if (!weighed) return tl::unexpected(weighed.error());
    for (const weigh::Plan& plan : weighed->plans) {
        if (plan.id != weighed->best.at(job.house.weighing.objective)) continue;
        const report::Offered offered{*options, prices, plan, report::othersOf(*weighed, plan)};
        out.whole = report::offerDocument(job, *q.catalog, q.settings, offered);
        out.shown = report::arranged(out.whole, job.house);
        out.kept = report::keptForm(out.shown, name(q.reader), quantity::utcNow(), &offered);
        return {};
    }
    return quantity::problem("there is no plan to be offered", "", "say in Walk what each spot needs");
}

} // namespace

const char* name(Reader reader) {
    return reader == Reader::offer ? "offer" : reader == Reader::technician ? "technician" : "client";
}

Result<MadeDocument> makeDocument(const DocumentQuestion& asked, KnownVerdicts& known) {
    DocumentQuestion q = asked;
    const auto job = readFor(q);
    if (!job) return tl::unexpected(job.error());
    MadeDocument out;
    if (q.isPrivate) {
        const auto named = job::readJob(q.file);
        if (!named) return tl::unexpected(named.error());
        out.privacy = job::privacyOf(*named);
    }
    if (q.reader == Reader::offer) {
        if (const auto made = makeOffer(out, q, *job); !made) return tl::unexpected(made.error());
    } else {
        if (const std::string digest = job::recordDigest(*job);
            !known.verdicts || known.digest != digest || known.catalog != q.catalog)
            known = {digest, q.catalog, report::verdictsOf(*job, *q.catalog)};
        q.settings.verdicts = known.verdicts;
        out.whole = q.reader == Reader::client ? report::clientDocument(*job, *q.catalog, q.settings)
                                               : report::technicianDocument(*job, *q.catalog, q.settings);
        out.shown = report::arranged(out.whole, job->house);
        out.kept = report::keptForm(out.shown, name(q.reader), quantity::utcNow());
    }
    if (out.shown.chapters.empty()) return out;
    auto pdf = report::toPdf(out.shown, q.paper);
    if (!pdf) return tl::unexpected(pdf.error());
    out.pdf = std::move(*pdf);
    return out;
}

Result<void> writeFile(const DocumentQuestion& q, const std::filesystem::path& to) {
    const auto job = readFor(q);
    if (!job) return tl::unexpected(job.error());
    const std::string ending = to.extension().string();
    if (ending == ".json") return job::writeJson(to, job::toJson(*job));
    Result<std::string> bytes = std::string();
    if (ending == ".csv")
        bytes = to.filename().string().find("samples") == std::string::npos ? job::runsToCsv(*job)
                                                                            : job::samplesToCsv(*job);
    else if (ending == ".svg")
        bytes = report::toSvg(report::drawSection(job->house));
    else if (ending == ".png")
        bytes = report::toPng(report::toSvg(report::drawSection(job->house)));
    else if (ending == ".zip")
        bytes = report::dataPackage(*job, *q.catalog, q.settings, q.isPrivate, q.paper);
    else
        return quantity::problem("nothing is written with this ending", to.string(),
                                 "choose .pdf, .html, .md, .zip, .json, .csv, .svg or .png");
    if (!bytes) return tl::unexpected(bytes.error());
    return job::writeText(to, *bytes);
}

} // namespace metrodos::desktop
