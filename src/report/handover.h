// What a job's documents say: the offer, the client's record, and the next technician's page.
#pragma once

#include "catalog/catalog.h"
#include "job/kept_document.h"
#include "report/document.h"
#include "trace/diagnose.h"
#include "weigh/objectives.h"

#include <map>
#include <memory>

namespace metrodos::report {

/// What limits each way that was measured, by route. Most of the time that a document takes.
using Verdicts = std::map<house::Id, trace::Diagnosis>;
/// Of the runs that are judged by (job::evidence), on as many threads as the machine has processors.
[[nodiscard]] std::shared_ptr<const Verdicts> verdictsOf(const job::Document& job,
                                                         const catalog::Catalog& catalog);

struct HandOverSettings {
    std::string date; ///< "2026-05-04"
    Firm firm = {};
    // Of this job, for who makes several documents of it; otherwise they are worked out anew:
    std::shared_ptr<const Verdicts> verdicts = {};
    std::string records = {}; ///< its digest (job/record_digest.h)
};

/// In the client's words: what was wanted, the house, what was found, what was fitted, each way before and
/// now, what limits it and whether that matters, what was promised, what was declined, parts and cost against
/// the offer, addresses and labels, where keys are kept, cautions, what to do when it gets slow, when to look
/// again. A chapter with nothing to say is not there.
[[nodiscard]] Document clientDocument(const job::Document& job, const catalog::Catalog& catalog,
                                      const HandOverSettings& settings);

/// For who comes next: topology with every element's ceiling, all runs with their method and raw figures,
/// what is open, and what was changed when.
[[nodiscard]] Document technicianDocument(const job::Document& job, const catalog::Catalog& catalog,
                                          const HandOverSettings& settings);

/// A plan as it is offered.
struct Offered {
    const weigh::Options& options;
    const weigh::Prices& prices;
    const weigh::Plan& plan;
    std::vector<std::pair<std::string, const weigh::Plan*>> others = {}; ///< by what they are best at
};
/// The best plans by other objectives, each once.
[[nodiscard]] std::vector<std::pair<std::string, const weigh::Plan*>> othersOf(const weigh::Weighed& weighed,
                                                                               const weigh::Plan& chosen);

/// Before the work: what goes where by this plan, what was wanted, what is promised and with which chance,
/// what is not, the price, what will be done, and other plans.
[[nodiscard]] Document offerDocument(const job::Document& job, const catalog::Catalog& catalog,
                                     const HandOverSettings& settings, const Offered& offered);

/// As the job keeps it (job/kept_document.h). `reader`: "client", "technician" or "offer"; of an offer what
/// was offered goes along.
[[nodiscard]] job::KeptDocument keptForm(const Document& document, const std::string& reader,
                                         const std::string& at, const Offered* offered = nullptr);

/// The chapters of a document as the house has them arranged: those that were put in order first, then the
/// others as they come.
[[nodiscard]] std::vector<const Chapter*> inOrder(const Document& whole, const house::House& house);
/// Without those that are left out, with the notes.
[[nodiscard]] Document arranged(const Document& whole, const house::House& house);

} // namespace metrodos::report
