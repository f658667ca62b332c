// The library of jobs as the pages see it: read and searched beside the window, and what it teaches taken
// over into the catalog when that is wanted.
#pragma once

#include "desktop/model/job_model.h"
#include "job/library.h"

#include <QObject>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

namespace metrodos::desktop {

class LibraryModel : public QObject {
    Q_OBJECT

  public:
    explicit LibraryModel(JobModel& job, QObject* parent = nullptr);
    ~LibraryModel() override;

    /// Where the jobs are; at first the folder that new jobs are made in.
    [[nodiscard]] std::filesystem::path folder() const { return m_folder; }
    /// `isKept`: it is this one the next time as well.
    void setFolder(const std::filesystem::path& folder, bool isKept = true);
    /// Reads what is new in the folder; `again`: everything.
    void refresh(bool again = false);
    void search(const QString& words);

    struct Contents {
        std::vector<job::LibraryEntry> entries; ///< of the last search
        std::vector<job::ClassFigures> figures;
        std::vector<benchmark::Statement> statements;
    };
    [[nodiscard]] const Contents& contents() const { return m_contents; }
    /// "12 of 40 read"; empty: nothing is being read.
    [[nodiscard]] QString progress() const { return m_progress; }
    [[nodiscard]] bool isSettled() const { return m_asked == m_answered; }

    /// Figures of others, taken over from a file, count with one's own.
    quantity::Result<std::size_t> importFigures(const std::filesystem::path& file);
    quantity::Result<void> exportFigures(const std::filesystem::path& file) const;
    /// Whether predictions use the refined ranges. Of the machine, not of a job; nothing else changes.
    [[nodiscard]] bool isUsed() const { return m_isUsed; }
    void setUsed(bool used);

  Q_SIGNALS:
    void changed(); ///< contents, progress or what is used
    void problem(const QString& sentence);

  private:
    struct Order {
        std::filesystem::path folder;
        bool refreshes = false;
        bool again = false;
        std::string words;
        std::uint64_t number = 0;
    };
    void ask(Order order);
    void work(const std::stop_token& stop);
    quantity::Result<Contents> perform(const Order& order, const std::stop_token& stop);
    void apply();
    [[nodiscard]] catalog::Experience all() const;

    JobModel& m_job;
    std::shared_ptr<const catalog::Catalog> m_base; ///< as it was read, without one's own houses
    std::filesystem::path m_folder;
    std::string m_words;
    Contents m_contents;
    catalog::Experience m_own;
    catalog::Experience m_imported;
    QString m_progress;
    bool m_isUsed = false;
    bool m_wasRead = false; ///< somebody has looked; before, nothing is read
    std::uint64_t m_asked = 0;
    std::uint64_t m_answered = 0;
    std::mutex m_mutex;
    std::condition_variable_any m_wake;
    std::deque<Order> m_orders;
    std::jthread m_thread; // last: it uses all of the above
};

/// Where the figures that predictions use are kept; METRODOS_EXPERIENCE in the environment goes before the
/// user's configuration.
[[nodiscard]] std::filesystem::path experienceFile();

} // namespace metrodos::desktop
