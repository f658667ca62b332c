// The job file: SQLite, one transaction per change, samples appended as they arrive. What is in it survives a
// crash, and may be changed by several programs at once.
#pragma once

#include "job/document.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>

namespace SQLite {
class Database;
}

namespace metrodos::job {

/// The runs of a job that can be read, and the ids of those that cannot.
struct RunList {
    benchmark::RouteRuns runs;
    std::vector<std::string> unreadable;
};

/// An open job file. All functions are for one thread; a run in another thread writes through its own
/// RunRecorder.
class Store {
  public:
    enum class Mode { readWrite, readOnly };

    /// Makes a new job file with this content; an existing file is left alone and is a Problem.
    static quantity::Result<Store> create(const std::filesystem::path& file, const Document& content);
    /// Opens a job file, or says why not: not there, not a job, made by a newer version, read-only, damaged
    /// (then recoverCopy can save what is left), in use. A file that is not a job of this version is not
    /// changed by the attempt.
    static quantity::Result<Store> open(const std::filesystem::path& file, Mode mode = Mode::readWrite);

    Store(Store&&) noexcept;
    Store& operator=(Store&&) noexcept;
    ~Store();

    [[nodiscard]] const std::filesystem::path& file() const { return m_file; }
    [[nodiscard]] const house::House& house() const { return m_house; }

    /// Makes `next` the house, as one step that can be undone. `label` says what was done: "change cable
    /// length". Where another program has changed the job since house() was read, its change is loaded first
    /// and this one is done to what came of it; a Problem names what both have changed. Then house() is the
    /// other's.
    /// Exchanges are noted with their time (house/dated_changes.h), unless it is only `corrected` what is
    /// known of things that are as they were.
    quantity::Result<void> change(const std::string& label, const house::House& next, bool corrected = false);
    [[nodiscard]] std::string undoLabel() const; ///< empty: nothing to undo
    [[nodiscard]] std::string redoLabel() const;
    /// The number of the step that undo takes back: greater than those of the steps under it; 0: none.
    [[nodiscard]] std::int64_t undoStep() const;
    /// The newest step of any program.
    quantity::Result<void> undo();
    quantity::Result<void> redo();

    /// What another program or a RunRecorder has changed since this store last read or wrote it. Cheap; for a
    /// timer.
    struct Elsewhere {
        bool house = false;
        bool runs = false; ///< or reports
    };
    [[nodiscard]] quantity::Result<Elsewhere> changedElsewhere();
    /// Reads the house again.
    quantity::Result<void> reload();

    /// All runs in the order of their making; one that was cut off is marked incomplete. Samples are read
    /// from the file when they are looked at, from any thread, as long as the file is there.
    [[nodiscard]] quantity::Result<RunList> runs() const;
    quantity::Result<void> removeRun(const std::string& id);
    /// What is known of what else went on during a run that has ended, in place of what was known. A Problem
    /// where the run is not there or still goes on.
    quantity::Result<void> noteConditions(const std::string& id, const benchmark::Conditions& conditions);
    /// Where a run stands among the others, to be given to restoreRun; nothing: there is none of this id.
    [[nodiscard]] quantity::Result<std::optional<std::int64_t>> placeOfRun(const std::string& id) const;
    /// Puts a run that was removed where it stood. A Problem where something stands there, or has its id.
    [[nodiscard]] quantity::Result<void> restoreRun(const benchmark::RouteRun& run, std::int64_t place);
    quantity::Result<void> addRun(const benchmark::RouteRun& run);
    /// What other tests found, oldest first.
    [[nodiscard]] quantity::Result<std::vector<Report>> reports() const;
    /// Keeps a document that reportOf knows; its number within the job.
    quantity::Result<std::int64_t> addReport(const Report& report);
    /// Puts a longer one of the same test in its place.
    quantity::Result<void> replaceReport(std::int64_t number, const Report& report);
    quantity::Result<void> removeReport(std::int64_t number);
    /// Keeps a picture; its digest, by which the house names it. A Problem where it is none, or too many are
    /// there.
    quantity::Result<std::string> addPhoto(std::string_view jpeg);
    /// The JPEG file of that digest.
    [[nodiscard]] quantity::Result<std::string> photo(const std::string& digest) const;
    /// With all samples. Runs that cannot be read are named in it.
    [[nodiscard]] quantity::Result<Document> document() const;

  private:
    Store(std::filesystem::path file, std::unique_ptr<SQLite::Database> database);
    void load();
    void writeItems(const house::House& before, const house::House& after);
    [[nodiscard]] std::int64_t generation() const;
    void nextGeneration();
    quantity::Result<void> step(bool forward);
    [[nodiscard]] std::string stepLabel(bool forward) const;
    [[nodiscard]] std::string runState() const;

    std::filesystem::path m_file;
    std::unique_ptr<SQLite::Database> m_database;
    house::House m_house;
    std::int64_t m_generation = 0;  ///< of m_house; every change of the house in the file raises it by one
    mutable std::string m_runState; ///< of the runs and reports that were last read
};

/// Writes one run into a job file while it goes on, on a connection of its own.
class RunRecorder {
  public:
    static quantity::Result<RunRecorder> begin(const std::filesystem::path& file, const house::Id& route,
                                               const benchmark::Run& run);
    RunRecorder(RunRecorder&&) noexcept;
    ~RunRecorder();
    /// Keeps the sample; samples reach the disk together every half second.
    quantity::Result<void> append(const benchmark::Sample& sample);
    /// Writes the figures of the whole run and marks it ended.
    quantity::Result<void> finish(const benchmark::Run& run);

  private:
    RunRecorder(std::unique_ptr<SQLite::Database> database, std::string run);
    std::unique_ptr<SQLite::Database> m_database;
    std::string m_run;
    std::vector<benchmark::Sample> m_waiting;
    std::int64_t m_next = 1;
};

/// Keeps a run that has ended already.
[[nodiscard]] quantity::Result<void> keepRun(const std::filesystem::path& file, const house::Id& route,
                                             const benchmark::Run& run);

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
