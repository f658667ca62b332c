#include "desktop/model/job_model.h"

#include <QTimer>

namespace metrodos::desktop {
namespace {

constexpr int lookEveryMs = 1000; // until another program's change shows here

} // namespace

JobModel::JobModel(catalog::Catalog catalog, QObject* parent)
    : QObject(parent)
    , m_catalog(std::make_shared<const catalog::Catalog>(std::move(catalog)))
    , m_runs(std::make_shared<const benchmark::RouteRuns>())
    , m_look(new QTimer(this)) {
    m_look->setInterval(lookEveryMs);
    connect(m_look, &QTimer::timeout, this, &JobModel::look);
}

void JobModel::setStore(job::Store store) {
    m_store.emplace(std::move(store));
    readRuns();
    readReports();
    m_look->start();
    Q_EMIT opened();
    Q_EMIT changed();
}

void JobModel::closeJob() {
    m_look->stop();
    m_store.reset();
    readRuns();
    readReports();
    Q_EMIT opened();
    Q_EMIT changed();
}

const house::House& JobModel::house() const {
    static const house::House none;
    return m_store ? m_store->house() : none;
}

std::filesystem::path JobModel::file() const {
    return m_store ? m_store->file() : std::filesystem::path();
}

void JobModel::setPriceBook(weigh::PriceBook book) {
    m_priceBook = std::move(book);
    Q_EMIT priceBookChanged();
}

void JobModel::apply(const QString& label, const quantity::Result<house::House>& next) {
    if (!m_store) return;
    if (!next) {
        Q_EMIT problem(QString::fromStdString(next.error().sentence()));
        return;
    }
    report(m_store->change(label.toStdString(), *next));
}

void JobModel::undo() {
    if (m_store) report(m_store->undo());
}

void JobModel::redo() {
    if (m_store) report(m_store->redo());
}

QString JobModel::undoLabel() const {
    return m_store ? QString::fromStdString(m_store->undoLabel()) : QString();
}
QString JobModel::redoLabel() const {
    return m_store ? QString::fromStdString(m_store->redoLabel()) : QString();
}

void JobModel::report(const quantity::Result<void>& outcome) {
    if (!outcome) Q_EMIT problem(QString::fromStdString(outcome.error().sentence()));
    Q_EMIT changed();
}

// Another program may have the job open as well: a command line that saves its runs, a window on another
// screen.
void JobModel::look() {
    if (!m_store) return;
    const auto elsewhere = m_store->changedElsewhere();
    if (!elsewhere || (!elsewhere->house && !elsewhere->runs)) return;
    if (elsewhere->house)
        if (const auto read = m_store->reload(); !read) return; // looked at again in a moment
    if (elsewhere->runs) {
        readRuns();
        readReports();
    }
    Q_EMIT changed();
}

void JobModel::reloadRuns() {
    readRuns();
    readReports();
    Q_EMIT changed();
}

void JobModel::readRuns() {
    m_runs = std::make_shared<const benchmark::RouteRuns>();
    if (!m_store) return;
    auto all = m_store->runs();
    if (!all) {
        Q_EMIT problem(QString::fromStdString(all.error().sentence()));
        return;
    }
    if (!all->unreadable.empty())
        Q_EMIT problem(tr("%n run(s) of this job cannot be read and are left out: %1.", nullptr,
                          static_cast<int>(all->unreadable.size()))
                           .arg(QString::fromStdString(quantity::oneLine(all->unreadable.front()))));
    m_runs = std::make_shared<const benchmark::RouteRuns>(std::move(all->runs));
}

void JobModel::readReports() {
    m_reports.clear();
    if (!m_store) return;
    if (auto all = m_store->reports())
        m_reports = std::move(*all);
    else
        Q_EMIT problem(QString::fromStdString(all.error().sentence()));
}

std::optional<std::int64_t> JobModel::keepReport(const job::Report& kept,
                                                 std::optional<std::int64_t> replaces) {
    if (!m_store) return std::nullopt;
    if (replaces && !m_store->replaceReport(*replaces, kept)) replaces.reset();
    if (!replaces) {
        const auto number = m_store->addReport(kept);
        if (number)
            replaces = *number;
        else
            Q_EMIT problem(QString::fromStdString(number.error().sentence()));
    }
    readReports();
    Q_EMIT changed();
    return replaces;
}

std::string JobModel::keepPhoto(const std::string& jpeg) {
    if (!m_store) return {};
    const auto kept = m_store->addPhoto(jpeg);
    if (kept) return *kept;
    Q_EMIT problem(QString::fromStdString(kept.error().sentence()));
    return {};
}

std::string JobModel::photo(const std::string& digest) const {
    return m_store ? m_store->photo(digest).value_or(std::string()) : std::string();
}

void JobModel::removeReport(std::int64_t number) {
    if (!m_store) return;
    const auto removed = m_store->removeReport(number);
    readReports();
    report(removed);
}

void JobModel::removeRun(const std::string& id) {
    if (!m_store) return;
    if (const auto removed = m_store->removeRun(id); !removed)
        Q_EMIT problem(QString::fromStdString(removed.error().sentence()));
    reloadRuns();
}

} // namespace metrodos::desktop
