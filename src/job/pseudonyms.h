// A job without what tells whose house it is: for other people's statistics, and for asking for advice.
#pragma once

#include "job/document.h"

namespace metrodos::job {

/// What a job without names has, and what it has not; shown before it is written.
struct PrivacyLine {
    std::string what;
    bool isIn = false; ///< false: left out, or in its place a pseudonym
    std::string how;   ///< "29 of them, as “device 1” …"; empty: plain
};
/// `without` is what withoutNames made of it.
[[nodiscard]] std::vector<PrivacyLine> privacyOf(const Document& document, const Document& without);

/// The job with pseudonyms in place of every label, id and address that somebody chose: "device 3", by kind
/// and place in the survey, so that they stay as long as nothing before them is taken out. Left out: notes
/// and reasons, photos, addresses, where keys are kept, what was recorded of steps, documents that were
/// handed over, and every report in which a name is still found. Structure, classes, lengths, figures of runs
/// and their times stay.
[[nodiscard]] Document withoutNames(const Document& document);

/// Every text of a job that withoutNames takes out, those of fewer than four letters not counted: what may
/// not stand in what it returns.
[[nodiscard]] std::vector<std::string> namesIn(const Document& document);

} // namespace metrodos::job
