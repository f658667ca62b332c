// The pictures of a job file. A house names them; one that neither it nor a step that can be undone names is
// swept out when the next one comes.
#include "job/file_format.h"
#include "job/photo.h"
#include "job/store.h"

namespace metrodos::job {

using quantity::problem;
using quantity::Result;
using SQLite::TransactionBehavior;

namespace {

void sweep(SQLite::Database& database) {
    database.exec(
        "DELETE FROM photo WHERE NOT EXISTS(SELECT 1 FROM item WHERE kind='house' AND id='fitting' AND "
        "instr(body, photo.digest) > 0) AND NOT EXISTS(SELECT 1 FROM change WHERE instr(forward, "
        "photo.digest) > 0 OR instr(backward, photo.digest) > 0)");
}

} // namespace

void insertPhoto(SQLite::Database& database, const Photo& photo) {
    SQLite::Statement put(database, "INSERT OR REPLACE INTO photo(digest, body) VALUES(?, ?)");
    put.bind(1, photo.digest);
    put.bind(2, photo.body.data(), static_cast<int>(photo.body.size()));
    put.exec();
}

std::vector<Photo> readPhotos(SQLite::Database& database) {
    std::vector<Photo> out;
    if (!database.tableExists("photo")) return out; // a job of an earlier version
    SQLite::Statement query(database, "SELECT digest, body FROM photo ORDER BY digest");
    while (query.executeStep()) {
        Photo photo{query.getColumn(0).getString(), query.getColumn(1).getString()};
        if (isPhoto(photo.body) && digestOf(photo.body) == photo.digest) out.push_back(std::move(photo));
    }
    return out;
}

Result<std::string> Store::addPhoto(std::string_view jpeg) {
    if (!isPhoto(jpeg))
        return problem("this is no picture that a job can keep", "", "choose a JPEG picture of at most 4 MB");
    return guarded(m_file, [&]() -> Result<std::string> {
        SQLite::Transaction transaction(*m_database, TransactionBehavior::IMMEDIATE);
        sweep(*m_database);
        SQLite::Statement count(*m_database, "SELECT count(*) FROM photo");
        // Undone steps may still name some that the house does not.
        constexpr int most = 2 * static_cast<int>(house::maxPhotos);
        if (count.executeStep() && count.getColumn(0).getInt() >= most)
            return problem("the job holds as many pictures as it can", "", "take some out first");
        count.reset();
        Photo photo{digestOf(jpeg), std::string(jpeg)};
        insertPhoto(*m_database, photo);
        transaction.commit();
        return photo.digest;
    });
}

Result<std::string> Store::photo(const std::string& digest) const {
    return guarded(m_file, [&]() -> Result<std::string> {
        const auto missing = [] {
            return problem("the picture is not in this job", "", "add it again from its file");
        };
        if (!m_database->tableExists("photo")) return missing();
        SQLite::Statement query(*m_database, "SELECT body FROM photo WHERE digest=?");
        query.bind(1, digest);
        if (!query.executeStep()) return missing();
        std::string body = query.getColumn(0).getString();
        if (!isPhoto(body) || digestOf(body) != digest)
            return problem("the picture is damaged", "", "add it again from its file");
        return body;
    });
}

} // namespace metrodos::job
