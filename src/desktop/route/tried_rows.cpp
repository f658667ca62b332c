#include "desktop/route/tried_rows.h"

#include "desktop/widgets/rate_text.h"

#include <QCoreApplication>
#include <algorithm>

namespace metrodos::desktop {
namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("TriedRows", text);
}

} // namespace

std::vector<RangeRow> triedRows(const std::vector<fit::TriedPlace>& tried) {
    const auto best = fit::bestOf(tried);
    std::vector<RangeRow> out;
    for (std::size_t i = 0; i < tried.size(); ++i) {
        const fit::TriedPlace& t = tried[i];
        RangeRow row;
        row.id = QString::fromStdString(t.place.id);
        row.title = QString::fromStdString(t.place.label);
        if (t.isNow) row.note = tr("it is here now");
        row.forward = t.forward;
        row.backward = t.backward;
        if (!t.lower) row.instead = tr("not tried yet");
        row.isBest = best && *best == i;
        row.best = tr("the best of them");
        if (t.lower) row.detail = tr("lower end of both ways: %1").arg(bothText(*t.lower));
        out.push_back(std::move(row));
    }
    return out;
}

QString triedText(const std::vector<fit::TriedPlace>& tried) {
    const auto best = fit::bestOf(tried);
    const auto left =
        std::count_if(tried.begin(), tried.end(), [](const fit::TriedPlace& t) { return !t.lower; });
    if (!best) return tr("Two places have to be tried before one can be proposed.");
    const fit::TriedPlace& b = tried[*best];
    const QString place = QString::fromStdString(b.place.label);
    QString out = b.isNow ? tr("Leave it at “%1”: no other place has a higher lower end.").arg(place)
                          : tr("Keep “%1”: its lower end is the highest, %2.").arg(place, bothText(*b.lower));
    if (left > 0) out += QLatin1Char(' ') + tr("Not tried yet: %1.").arg(left);
    return out;
}

quantity::Result<QString> keepBest(JobModel& job, const house::Trial& trial) {
    const auto kept = fit::keepBest(job.house(), trial, *job.runs());
    if (!kept) return tl::unexpected(kept.error());
    const QString place = QString::fromStdString(kept->place.label);
    job.apply(tr("keep it at “%1”").arg(place), kept->house);
    return tr("It is at “%1” in the survey now: plug it in there.").arg(place);
}

} // namespace metrodos::desktop
