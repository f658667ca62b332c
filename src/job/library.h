// A folder of jobs as a library: listed, searched and counted by an index that can be made anew from the
// files at any time, and is never their master.
#pragma once

#include "job/digest.h"

#include <functional>
#include <memory>
#include <stop_token>

namespace SQLite {
class Database;
}

namespace metrodos::job {

struct LibraryEntry {
    std::filesystem::path file;
    Digest digest;       ///< without pairs and statements
    std::string problem; ///< why it cannot be read; empty: it can
    std::string snippet; ///< of a search: where the words stand
};

/// How many of a class in a situation there are in one's own houses, against the catalog.
struct ClassFigures {
    catalog::ClassExperience experience;
    std::string label;                       ///< "mains adapter, 1000–1300 class, same circuit"
    int pairs = 0;                           ///< whose medium was the limit
    int atLeast = 0;                         ///< those that something else held back
    std::optional<quantity::BitRate> median; ///< of the pairs
    std::optional<quantity::BitRate> tenth;  ///< tenth percentile
    catalog::RateSpread catalogue;
    catalog::RateSpread refined; ///< with these houses
};

/// For one thread.
class Library {
  public:
    /// The index is made where it is not there, is of another version or cannot be read. A Problem where the
    /// folder is none, or the index cannot be written.
    static quantity::Result<Library> open(std::filesystem::path folder, const std::filesystem::path& index);
    Library(Library&&) noexcept;
    Library& operator=(Library&&) noexcept;
    ~Library();

    using Progress = std::function<void(std::size_t done, std::size_t all)>;
    /// Takes over what is new or other in the folder and its subfolders: *.metrodos of at most 500 MB, the
    /// first 10,000, by time and size of the files. `again`: all of them. Ends early with `stop`. Returns how
    /// many were read.
    quantity::Result<std::size_t> refresh(const catalog::Catalog& catalog, const Progress& progress,
                                          const std::stop_token& stop, bool again = false);

    /// Those with the newest runs first; what cannot be read at the end.
    [[nodiscard]] quantity::Result<std::vector<LibraryEntry>> list() const;
    /// Those that have all the words, or words that begin so, in labels, places, classes, findings or notes,
    /// the best first. Without a word: all.
    [[nodiscard]] quantity::Result<std::vector<LibraryEntry>> search(const std::string& words) const;

    [[nodiscard]] quantity::Result<catalog::Experience> experience() const;
    [[nodiscard]] quantity::Result<std::vector<benchmark::Statement>> statements() const;

  private:
    Library(std::filesystem::path folder, std::unique_ptr<SQLite::Database> database);
    void keep(const std::string& path, std::int64_t time, std::int64_t size, const Digest* digest,
              const std::string& problem);

    std::filesystem::path m_folder;
    std::unique_ptr<SQLite::Database> m_database;
};

/// Where the index of a folder's jobs is usually kept: in the user's cache, XDG_CACHE_HOME or ~/.cache.
[[nodiscard]] std::filesystem::path usualIndex(const std::filesystem::path& folder);

/// The figures of an experience against the catalog, those with the most houses first.
[[nodiscard]] std::vector<ClassFigures> figuresOf(const catalog::Experience& experience,
                                                  const catalog::Catalog& catalog);

} // namespace metrodos::job
