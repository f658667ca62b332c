// The job file: SQLite, one transaction per change, samples appended as they arrive. What is in it survives a
// crash.
#pragma once

#include "job/document.h"

#include <SQLiteCpp/Database.h>
#include <memory>
#include <string>

namespace metrodos::job {

/// An open job file. All functions are for one thread; a run in another thread writes through its own
/// RunRecorder.
class Store {
  public:
    enum class Mode { readWrite, readOnly };

    /// Makes a new job file with this content; an existing file is left alone and is a Problem.
    static quantity::Result<Store> create(const std::filesystem::path& file, const Document& content);
    /// Opens a job file, or says why not: not there, not a job, made by a newer version, read-only, damaged
    /// (then recoverCopy can save what is left), in use.
    static quantity::Result<Store> open(const std::filesystem::path& file, Mode mode = Mode::readWrite);

    Store(Store&&) noexcept = default;
    Store& operator=(Store&&) noexcept = default;
    ~Store() = default;

    [[nodiscard]] const std::filesystem::path& file() const { return m_file; }
    [[nodiscard]] const house::House& house() const { return m_house; }

    /// Makes `next` the house, as one step that can be undone. `label` says what was done: "change cable
    /// length".
    quantity::Result<void> change(const std::string& label, const house::House& next);
    [[nodiscard]] std::string undoLabel() const; ///< empty: nothing to undo
    [[nodiscard]] std::string redoLabel() const;
    quantity::Result<void> undo();
    quantity::Result<void> redo();

    /// All runs in the order of their making; one that was cut off is marked incomplete.
    [[nodiscard]] quantity::Result<std::vector<RouteRun>> runs() const;
    quantity::Result<void> removeRun(const std::string& id);
    quantity::Result<void> addRun(const RouteRun& run);
    /// What other tests found, oldest first.
    [[nodiscard]] quantity::Result<std::vector<Report>> reports() const;
    /// Keeps a document that reportOf knows.
    quantity::Result<void> addReport(const Report& report);
    quantity::Result<void> removeReport(std::int64_t number);
    [[nodiscard]] quantity::Result<Document> document() const;

  private:
    Store(std::filesystem::path file, std::unique_ptr<SQLite::Database> database);
    void load();
    void writeItems(const house::House& before, const house::House& after);
    quantity::Result<void> step(bool forward);
    [[nodiscard]] std::string stepLabel(bool forward) const;

    std::filesystem::path m_file;
    std::unique_ptr<SQLite::Database> m_database;
    house::House m_house;
};

/// Writes one run into a job file while it goes on, on a connection of its own.
class RunRecorder {
  public:
    static quantity::Result<RunRecorder> begin(const std::filesystem::path& file, const house::Id& route,
                                               const benchmark::Run& run);
    /// Keeps the sample; samples reach the disk together every half second.
    quantity::Result<void> append(const benchmark::Sample& sample);
    /// Writes the figures of the whole run and marks it ended.
    quantity::Result<void> finish(const benchmark::Run& run);

  private:
    RunRecorder(std::unique_ptr<SQLite::Database> database, std::string run);
    void flush();
    std::unique_ptr<SQLite::Database> m_database;
    std::string m_run;
    std::vector<benchmark::Sample> m_waiting;
    std::int64_t m_next = 1;
};

/// Keeps a run that has ended already.
[[nodiscard]] quantity::Result<void> keepRun(const std::filesystem::path& file, const house::Id& route,
                                             const benchmark::Run& run);

inline constexpr int applicationId = 0x4d545244; ///< "MTRD", in the header of every job file
inline constexpr int fileVersion = 1;

/// Writes what can still be read of a damaged job to a new file; the original is only read.
struct Recovered {
    std::size_t items = 0;
    std::size_t runs = 0;
    std::size_t lost = 0; ///< things that were there in part and had to be left out
};
[[nodiscard]] quantity::Result<Recovered> recoverCopy(const std::filesystem::path& damaged,
                                                      const std::filesystem::path& copy);

/// Whether a Problem of Store::open means that recoverCopy may help.
[[nodiscard]] bool isDamage(const quantity::Problem& problem);

} // namespace metrodos::job
