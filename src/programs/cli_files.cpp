#include "programs/cli_files.h"

#include "catalog/check.h"
#include "house/findings.h"
#include "house/route.h"
#include "job/csv.h"
#include "job/log.h"
#include "job/open.h"
#include "job/record_digest.h"
#include "job/store.h"
#include "job/text_file.h"
#include "quantity/text.h"
#include "report/document.h"

#include <fstream>
#include <iostream>
#include <nlohmann/json.hpp>

namespace metrodos::programs {
namespace {

std::optional<quantity::Problem> unreadRuns(const job::Document& document, const std::string& file) {
    if (document.unreadable.empty()) return std::nullopt;
    return quantity::Problem{quantity::counted(static_cast<long long>(document.unreadable.size()), "run") +
                                 " of this job cannot be read, the first is " + document.unreadable.front(),
                             file, "open it with the version that wrote it, or import it into a new job"};
}

} // namespace

quantity::Result<job::Document> readDocument(const std::filesystem::path& file) {
    auto document = job::readJob(file);
    if (document)
        if (const auto unread = unreadRuns(*document, file.string()))
            std::cerr << "metrodos: " << unread->sentence() << '\n';
    return document;
}

quantity::Problem unknownForm(const std::string& file, const char* forms) {
    return {std::string("this version knows ") + forms + " only", file,
            "choose a name that ends in one of them"};
}

int check(const Arguments& a, const catalog::Catalog& catalog) {
    std::vector<quantity::Problem> faults = job::checkJob(a.job);
    if (faults.empty()) {
        const auto document = job::readJob(a.job);
        if (!document) return fail(document.error());
        faults = catalog::check(document->house, catalog);
        if (auto unread = unreadRuns(*document, a.job)) faults.push_back(std::move(*unread));
        for (const house::Route& route : document->house.routes)
            if (const auto found = house::findRoute(document->house, route.from, route.to); !found) {
                faults.push_back(found.error());
                faults.back().where = "route " + route.id;
            }
        const auto open = house::findings(document->house);
        faults.insert(faults.end(), open.begin(), open.end());
    }
    for (const quantity::Problem& fault : faults)
        std::cout << fault.sentence() << '\n';
    if (faults.empty()) return 0;
    return fail({"the job has " + std::to_string(faults.size()) + (faults.size() == 1 ? " fault" : " faults"),
                 a.job, "correct what is listed"});
}

namespace {

// A table becomes a new job, or is added to one that is there.
int importCsv(const Arguments& a) {
    const auto text = job::readTextFile(a.file, job::maxCsvBytes);
    if (!text) return fail(text.error());
    if (!text->note.empty()) std::cerr << "metrodos: " << a.file << ": " << text->note << ".\n";
    std::error_code error;
    const bool isThere = std::filesystem::exists(a.to, error);
    auto store =
        isThere ? job::Store::open(a.to) : quantity::Result<job::Store>(tl::unexpected(quantity::Problem{}));
    if (isThere && !store) return fail(store.error());
    const auto next = job::withCsv(isThere ? store->house() : house::House{}, text->text);
    if (!next) {
        quantity::Problem fault = next.error();
        fault.where = a.file + (fault.where.empty() ? "" : " " + fault.where);
        return fail(fault);
    }
    if (isThere) {
        const auto changed = store->change("import a table", *next);
        return changed ? 0 : fail(changed.error());
    }
    const auto made = job::Store::create(a.to, {*next, {}});
    return made ? 0 : fail(made.error());
}

} // namespace

int importFile(const Arguments& a) {
    const std::filesystem::path file = a.file;
    if (file.extension() == ".csv") return importCsv(a);
    if (file.extension() == ".metrodos") {
        // A damaged job: what is left of it goes into the new file.
        const auto report = job::recoverCopy(file, a.to);
        if (!report) return fail(report.error());
        std::cerr << "metrodos: " << report->items << " things and " << report->runs << " runs recovered, "
                  << report->lost << " left out.\n";
        return 0;
    }
    if (file.extension() != ".json" && file.extension() != ".zip")
        return fail(unknownForm(a.file, ".json, .csv, .zip and .metrodos"));
    const auto document = readDocument(file);
    if (!document) return fail(document.error());
    const auto made = job::Store::create(a.to, *document);
    return made ? 0 : fail(made.error());
}

int verifyDocument(const Arguments& a) {
    std::ifstream stream(a.file, std::ios::binary);
    if (!stream) return fail({"the document cannot be read", a.file, "check the name"});
    const std::string text((std::istreambuf_iterator<char>(stream)), std::istreambuf_iterator<char>());
    const std::string carried = report::digestIn(text);
    if (carried.empty())
        return fail({"the document carries no digest of records", a.file,
                     "choose one that was exported by this program"});
    const auto document = readDocument(a.job);
    if (!document) return fail(document.error());
    if (carried != job::recordDigest(*document))
        return fail({"the document was made of other records than the job has now", a.file,
                     "export it anew, or find the job as it was"});
    std::cout << "the document belongs to the records of the job\n";
    return 0;
}

quantity::Result<job::Document> soundJob(const Arguments& a, const catalog::Catalog& catalog) {
    auto document = readDocument(a.job);
    return document ? soundForm(a, catalog, std::move(*document)) : document;
}

quantity::Result<job::Document> soundForm(const Arguments& a, const catalog::Catalog& catalog,
                                          job::Document job) {
    quantity::Result<job::Document> document = std::move(job);
    if (const auto faults = catalog::check(document->house, catalog); !faults.empty()) {
        quantity::Problem first = faults.front();
        first.where = a.job + " " + first.where;
        return tl::unexpected(first);
    }
    document->runs = job::evidence(document->runs, document->house);
    document->reports = job::counted(document->reports, document->house);
    return document;
}

} // namespace metrodos::programs
