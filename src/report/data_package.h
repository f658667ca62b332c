// Everything of a job in one zip archive, with a manifest: docs/data-package.md.
#pragma once

#include "catalog/catalog.h"
#include "report/handover.h"

namespace metrodos::report {

/// The archive: the job as JSON (job::readJob reads it back out of the archive), its survey, runs and samples
/// as CSV, drawings as SVG and PNG, the client's and the technician's documents in every form, and
/// "datapackage.json", which says of each file what it is, its size and its SHA-256. `isPrivate` is only
/// noted: whoever wants a job without names gives one (job/pseudonyms.h).
[[nodiscard]] quantity::Result<std::string> dataPackage(const job::Document& job,
                                                        const catalog::Catalog& catalog,
                                                        const HandOverSettings& settings, bool isPrivate,
                                                        Paper paper = Paper::a4);

/// One drawing of a job.
struct NamedDrawing {
    std::string name; ///< "section", "ranges", "way-dome-loft", "week-dome-loft-forward"
    std::string svg;
};
/// Those that stand in the client's document.
[[nodiscard]] std::vector<NamedDrawing> drawingsOf(const Document& client);

} // namespace metrodos::report
