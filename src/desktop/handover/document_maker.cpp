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

// The job as it may be given away, and what is said of that.
struct Given {
    job::Document job;
    std::vector<job::PrivacyLine> privacy;
};
Result<Given> readFor(const DocumentQuestion& q) {
    auto job = job::readJob(q.file);
    if (!job) return tl::unexpected(job.error());
    if (!q.isPrivate) return Given{std::move(*job), {}};
    job::Document without = job::withoutNames(*job);
    auto privacy = job::privacyOf(*job, without);
    return Given{std::move(without), std::move(privacy)};
}

// The plan of the objective that the job has chosen, weighed again only for another job or other prices.
Result<void> makeOffer(MadeDocument& out, const DocumentQuestion& q, const job::Document& job,
                       KnownWork& known) {
    if (!known.options || known.prices != q.prices) {
        auto options = weigh::optionsOf(job.house, *q.catalog, job::evidence(job.runs, job.house),
                                        job::watchesOf(job::counted(job.reports, job.house)));
        if (!options) return tl::unexpected(options.error());
        auto weighed =
            weigh::weigh(*options, weigh::Prices(*q.catalog, q.prices), job.house.weighing.objective);
        if (!weighed) return tl::unexpected(weighed.error());
        known.options = std::make_shared<const weigh::Options>(std::move(*options));
        known.weighed = std::move(*weighed);
        known.prices = q.prices;
    }
    const weigh::Prices prices(*q.catalog, q.prices);
    for (const weigh::Plan& plan : known.weighed.plans) {
        if (plan.id != known.weighed.best.at(job.house.weighing.objective)) continue;
        const report::Offered offered{*known.options, prices, plan, report::othersOf(known.weighed, plan)};
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

Result<MadeDocument> makeDocument(const DocumentQuestion& asked, KnownWork& known) {
    DocumentQuestion q = asked;
    auto given = readFor(q);
    if (!given) return tl::unexpected(given.error());
    const job::Document& job = given->job;
    MadeDocument out;
    out.privacy = std::move(given->privacy);
    q.settings.records = job::recordDigest(job);
    if (known.records != q.settings.records || known.catalog != q.catalog)
        known = {q.settings.records, q.catalog};
    if (q.reader == Reader::offer) {
        if (const auto made = makeOffer(out, q, job, known); !made) return tl::unexpected(made.error());
    } else {
        if (!known.verdicts) known.verdicts = report::verdictsOf(job, *q.catalog);
        q.settings.verdicts = known.verdicts;
        out.whole = q.reader == Reader::client ? report::clientDocument(job, *q.catalog, q.settings)
                                               : report::technicianDocument(job, *q.catalog, q.settings);
        out.shown = report::arranged(out.whole, job.house);
        out.kept = report::keptForm(out.shown, name(q.reader), quantity::utcNow());
    }
    if (out.shown.chapters.empty()) return out;
    auto pdf = report::toPdf(out.shown, q.paper);
    if (!pdf) return tl::unexpected(pdf.error());
    out.pdf = std::move(*pdf);
    return out;
}

Result<void> writeFile(const DocumentQuestion& q, const std::filesystem::path& to) {
    const auto given = readFor(q);
    if (!given) return tl::unexpected(given.error());
    const job::Document* job = &given->job;
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
