#include "desktop/log/library_model.h"

#include "desktop/model/config_file.h"
#include "desktop/model/job_folder.h"

#include <QSettings>
#include <nlohmann/json.hpp>

namespace metrodos::desktop {
namespace {

using quantity::Result;

// What is kept of the machine: the figures, those of others apart from one's own, and whether they are used.
struct Kept {
    catalog::Experience own;
    catalog::Experience imported;
    bool isUsed = false;
};

Kept load() {
    Kept out;
    std::error_code none;
    if (!std::filesystem::exists(experienceFile(), none)) return out;
    const auto document = job::parseJson(experienceFile());
    if (!document || !document->is_object()) return out;
    const auto part = [&](const char* key) {
        const auto it = document->find(key);
        if (it == document->end()) return catalog::Experience();
        return catalog::experienceFromJson(*it).value_or(catalog::Experience());
    };
    out.own = part("own");
    out.imported = part("imported");
    out.isUsed = document->contains("used") && document->at("used") == true;
    return out;
}

Result<void> save(const Kept& kept) {
    std::error_code none;
    std::filesystem::create_directories(experienceFile().parent_path(), none);
    return job::writeJson(experienceFile(), {{"own", catalog::toJson(kept.own)},
                                             {"imported", catalog::toJson(kept.imported)},
                                             {"used", kept.isUsed}});
}

} // namespace

std::filesystem::path experienceFile() {
    return configFile("METRODOS_EXPERIENCE", QStringLiteral("own-houses.json"));
}

LibraryModel::LibraryModel(JobModel& job, QObject* parent)
    : QObject(parent)
    , m_job(job)
    , m_base(job.sharedCatalog())
    , m_folder(QSettings().value(QStringLiteral("library")).toString().toStdString()) {
    if (m_folder.empty()) m_folder = jobFolder();
    const Kept kept = load();
    m_own = kept.own;
    m_imported = kept.imported;
    m_isUsed = kept.isUsed;
    m_contents.figures = job::figuresOf(all(), *m_base);
    if (m_isUsed) apply();
    m_thread = std::jthread([this](const std::stop_token& stop) { work(stop); });
}

LibraryModel::~LibraryModel() = default;

catalog::Experience LibraryModel::all() const {
    return catalog::joined(m_own, m_imported);
}

void LibraryModel::setFolder(const std::filesystem::path& folder, bool isKept) {
    m_folder = folder;
    if (isKept) QSettings().setValue(QStringLiteral("library"), QString::fromStdString(folder.string()));
    m_contents.entries.clear();
    if (m_wasRead) refresh();
}

void LibraryModel::refresh(bool again) {
    m_wasRead = true;
    ask({m_folder, true, again, m_words});
}

void LibraryModel::search(const QString& words) {
    m_words = words.toStdString();
    ask({m_folder, false, false, m_words});
}

void LibraryModel::ask(Order order) {
    const std::lock_guard lock(m_mutex);
    order.number = ++m_asked;
    m_orders.push_back(std::move(order));
    m_wake.notify_one();
}

void LibraryModel::work(const std::stop_token& stop) {
    while (true) {
        Order order;
        {
            std::unique_lock lock(m_mutex);
            if (!m_wake.wait(lock, stop, [this] { return !m_orders.empty(); })) return;
            order = std::move(m_orders.front());
            m_orders.pop_front();
        }
        auto outcome = perform(order, stop);
        if (stop.stop_requested()) return;
        QMetaObject::invokeMethod(
            this,
            [this, number = order.number, refreshes = order.refreshes, outcome = std::move(outcome)] {
                m_answered = number;
                m_progress.clear();
                if (outcome) {
                    m_contents.entries = outcome->entries;
                    m_contents.statements = outcome->statements;
                    if (refreshes) {
                        m_own.clear();
                        for (const job::ClassFigures& f : outcome->figures)
                            m_own.push_back(f.experience);
                        m_contents.figures = job::figuresOf(all(), *m_base);
                        if (m_isUsed) apply();
                    }
                } else {
                    Q_EMIT problem(QString::fromStdString(outcome.error().sentence()));
                }
                Q_EMIT changed();
            },
            Qt::QueuedConnection);
    }
}

// In the worker's thread; the catalog that it was begun with never changes.
Result<LibraryModel::Contents> LibraryModel::perform(const Order& order, const std::stop_token& stop) {
    auto library = job::Library::open(order.folder, job::usualIndex(order.folder));
    if (!library) return tl::unexpected(library.error());
    if (order.refreshes) {
        const auto told = [this](std::size_t done, std::size_t wanted) {
            if (wanted == 0) return;
            QMetaObject::invokeMethod(
                this,
                [this, done, wanted] {
                    m_progress = tr("%1 of %2 jobs read").arg(done).arg(wanted);
                    Q_EMIT changed();
                },
                Qt::QueuedConnection);
        };
        if (const auto read = library->refresh(*m_base, told, stop, order.again); !read)
            return tl::unexpected(read.error());
    }
    Contents out;
    auto entries = library->search(order.words);
    if (!entries) return tl::unexpected(entries.error());
    out.entries = std::move(*entries);
    auto statements = library->statements();
    if (!statements) return tl::unexpected(statements.error());
    out.statements = std::move(*statements);
    auto experience = library->experience();
    if (!experience) return tl::unexpected(experience.error());
    out.figures = job::figuresOf(*experience, *m_base);
    return out;
}

void LibraryModel::apply() {
    m_job.setCatalog(m_isUsed
                         ? std::make_shared<const catalog::Catalog>(catalog::withExperience(*m_base, all()))
                         : m_base);
}

void LibraryModel::setUsed(bool used) {
    m_isUsed = used;
    if (const auto kept = save({m_own, m_imported, m_isUsed}); !kept)
        Q_EMIT problem(QString::fromStdString(kept.error().sentence()));
    apply();
    Q_EMIT changed();
}

Result<std::size_t> LibraryModel::importFigures(const std::filesystem::path& file) {
    const auto document = job::parseJson(file);
    if (!document) return tl::unexpected(document.error());
    const auto read = catalog::experienceFromJson(*document);
    if (!read) return tl::unexpected(read.error());
    m_imported = catalog::joined(m_imported, *read);
    m_contents.figures = job::figuresOf(all(), *m_base);
    if (const auto kept = save({m_own, m_imported, m_isUsed}); !kept) return tl::unexpected(kept.error());
    if (m_isUsed) apply();
    Q_EMIT changed();
    return read->size();
}

Result<void> LibraryModel::exportFigures(const std::filesystem::path& file) const {
    return job::writeJson(file, catalog::toJson(all()));
}

} // namespace metrodos::desktop
