// What a job's documents say: the client's record, and the next technician's page.
#pragma once

#include "catalog/catalog.h"
#include "job/document.h"
#include "report/document.h"

namespace metrodos::report {

struct HandOverSettings {
    std::string date; ///< "2026-05-04"
    std::string firm = {};
    /// Ids of chapters in the order wanted; those that are not named are left out. Empty: all, as they come.
    std::vector<std::string> chapters = {};
    std::vector<std::pair<std::string, std::string>> notes = {}; ///< by chapter
};

/// In the client's words: what was wanted, the house, what was found, what was fitted, each way before and
/// now, what limits it and whether that matters, what was declined, addresses and labels, where keys are
/// kept, what to do when it gets slow, when to look again. A chapter with nothing to say is not there.
[[nodiscard]] Document clientDocument(const job::Document& job, const catalog::Catalog& catalog,
                                      const HandOverSettings& settings);

/// For who comes next: topology with every element's ceiling, all runs with their method and raw figures,
/// what is open, and what was changed when.
[[nodiscard]] Document technicianDocument(const job::Document& job, const catalog::Catalog& catalog,
                                          const HandOverSettings& settings);

} // namespace metrodos::report
