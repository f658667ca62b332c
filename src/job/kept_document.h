// Documents that were handed over, kept in the job: what was offered and at which price, what was recorded.
#pragma once

#include "job/document.h"
#include "quantity/quantity.h"

namespace metrodos::job {

/// A document as it was handed over, a report of kind "document".
struct KeptDocument {
    /// A line of the parts of an offer.
    struct Part {
        std::string item; ///< catalog id
        std::string label;
        std::string unit;
        double count = 0;
        quantity::Money price; ///< of one
        quantity::Money total; ///< of what was to be bought
    };
    /// What was promised for a spot.
    struct Promise {
        house::Id spot;
        std::string label;
        std::string way;         ///< label
        quantity::BitRate least; ///< in nine of ten such houses, of the direction with less headroom
        quantity::BitRate middle;
        quantity::BitRate need; ///< that way; 0: none
        bool isDown = true;     ///< towards the spot
        double chance = 0;      ///< 0–1, that all it needs is carried at once with the others
    };

    std::string reader; ///< "client", "technician", "offer"
    std::string at;     ///< ISO 8601, UTC
    std::string title;
    std::string digest; ///< of the job's records then (record_digest.h)
    std::string text;   ///< Markdown
    // Of an offer:
    std::string currency;
    std::optional<quantity::Money> cost;
    std::vector<Part> parts;
    std::vector<Promise> promises;
};

inline constexpr std::size_t maxKeptText = 2U * 1024 * 1024; ///< bytes

/// As the job keeps it. Fails for a text longer than maxKeptText.
[[nodiscard]] quantity::Result<Report> reportOf(const KeptDocument& document);
[[nodiscard]] std::optional<KeptDocument> readKept(const Report& report);
/// Those among reports that can be read, oldest first.
[[nodiscard]] std::vector<KeptDocument> keptOf(const std::vector<Report>& reports);

} // namespace metrodos::job
