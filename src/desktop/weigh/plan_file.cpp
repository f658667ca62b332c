#include "desktop/weigh/plan_file.h"

#include "desktop/weigh/weigh_model.h"
#include "job/document.h"
#include "job/open.h"
#include "report/handover.h"
#include "weigh/weigh_json.h"

#include <QDate>
#include <nlohmann/json.hpp>

namespace metrodos::desktop {

quantity::Result<void> savePlan(const WeighModel& model, const QString& file) {
    const weigh::Plan* plan = model.plan();
    if (plan == nullptr || model.options() == nullptr)
        return quantity::problem("there is no plan yet", "", "say in Walk what each spot needs");
    const weigh::Prices prices = model.prices();
    const std::filesystem::path path(file.toStdString());
    if (path.extension() == ".json")
        return job::writeText(
            path, weigh::toJson(*model.options(), prices, model.weighed(), model.objective()).dump(1) + "\n");
    auto job = job::readJob(model.job().file());
    if (!job) return tl::unexpected(job.error());
    const report::Offered offered{*model.options(), prices, *plan, report::othersOf(model.weighed(), *plan)};
    report::HandOverSettings settings;
    settings.date = QDate::currentDate().toString(Qt::ISODate).toStdString();
    const report::Document document =
        report::arranged(report::offerDocument(*job, model.job().catalog(), settings, offered), job->house);
    quantity::Result<std::string> bytes = std::string();
    if (path.extension() == ".html")
        bytes = report::toHtml(document);
    else if (path.extension() == ".md")
        bytes = report::toMarkdown(document);
    else if (path.extension() == ".pdf")
        bytes = report::toPdf(document, report::Paper::a4);
    else
        bytes = quantity::problem("nothing is written with this ending", path.string(),
                                  "choose .pdf, .html, .md or .json");
    if (!bytes) return tl::unexpected(bytes.error());
    return job::writeText(path, *bytes);
}

} // namespace metrodos::desktop
