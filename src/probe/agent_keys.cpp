#include "probe/agent_keys.h"

#include <algorithm>
#include <spdlog/spdlog.h>
#include <sys/stat.h>

namespace metrodos::probe {
namespace {

namespace fs = std::filesystem;
using quantity::problem;
using quantity::Result;

// Changes whenever the file does, or what it is reached by.
std::string stampOf(const fs::path& path) {
    struct stat info {};
    if (path.empty() || ::stat(path.c_str(), &info) != 0) return "-";
    return std::to_string(info.st_ino) + ":" + std::to_string(info.st_mtim.tv_sec) + "." +
           std::to_string(info.st_mtim.tv_nsec) + ":" + std::to_string(info.st_mode) + ":" +
           std::to_string(info.st_uid) + ";";
}

std::string stampOf(const KeyPlaces& places) {
    std::string out = stampOf(places.file) + stampOf(places.folder);
    if (places.folder.empty()) return out;
    std::error_code gone;
    for (const fs::directory_entry& entry : fs::directory_iterator(places.folder, gone))
        out += entry.path().filename().string() + stampOf(entry.path());
    return out;
}

} // namespace

Result<std::shared_ptr<AgentKeys>> AgentKeys::open(KeyPlaces places) {
    std::shared_ptr<AgentKeys> out(new AgentKeys(std::move(places)));
    const std::lock_guard lock(out->m_mutex);
    out->m_stamp = stampOf(out->m_places);
    if (const auto loaded = out->load(); !loaded) return tl::unexpected(loaded.error());
    return out;
}

std::shared_ptr<AgentKeys> AgentKeys::ofKey(const Key& key) {
    std::shared_ptr<AgentKeys> out(new AgentKeys({}));
    out->m_given = KeptKey{key, Right::command, {}};
    const std::lock_guard lock(out->m_mutex);
    out->takeReadable();
    return out;
}

Result<void> AgentKeys::load() {
    std::optional<quantity::Problem> first;
    take([&](const quantity::Problem& why) {
        if (!first) first = why;
    });
    if (first) return tl::unexpected(*first);
    return {};
}

// All that can be read; `wrong` is told of what cannot.
void AgentKeys::take(const std::function<void(const quantity::Problem&)>& wrong) {
    std::vector<KeptKey> own = m_unkept;
    std::vector<std::string> retired;
    if (!m_places.folder.empty()) {
        const PairStore store(m_places.folder);
        own = store.readable(wrong);
        retired = store.retired();
    }
    std::optional<KeptKey> shared = m_given;
    if (!m_places.file.empty()) {
        auto read = loadKeyFile(m_places.file);
        if (!read)
            wrong(read.error());
        else if (std::find(retired.begin(), retired.end(), credentialOf(read->key).identity) == retired.end())
            shared = std::move(*read);
    }
    m_own = own.size();
    m_ring->set(shared, own);
}

void AgentKeys::refresh() {
    const std::lock_guard lock(m_mutex);
    std::string stamp = stampOf(m_places);
    if (stamp == m_stamp) return;
    m_stamp = std::move(stamp);
    takeReadable();
}

// Whatever it was that made a key unreadable, nobody uses that one any more; the others stay.
void AgentKeys::takeReadable() {
    take([](const quantity::Problem& why) { spdlog::warn("{}", why.sentence()); });
}

Result<void> AgentKeys::keep(const KeptKey& kept) {
    const std::lock_guard lock(m_mutex);
    if (m_places.folder.empty()) {
        if (m_unkept.size() >= PairStore::maxKeys)
            return problem("this agent has " + std::to_string(PairStore::maxKeys) + " keys already", "",
                           "take back those that nobody uses any more");
        m_unkept.push_back(kept);
        takeReadable();
        return {};
    }
    if (auto saved = PairStore(m_places.folder).keep(kept); !saved) return saved;
    m_stamp = stampOf(m_places);
    takeReadable();
    return {};
}

Result<Key> AgentKeys::grant(Right right, const std::string& holder) {
    const KeptKey made{Key::generate(), right, holder};
    return keep(made).map([&] { return made.key; });
}

Result<void> AgentKeys::forget(const std::string& identity) {
    const std::lock_guard lock(m_mutex);
    const std::string meant = m_ring->identityOf(identity);
    if (std::erase_if(m_unkept, [&](const KeptKey& k) { return credentialOf(k.key).identity == meant; }) >
        0) {
        takeReadable();
        return {};
    }
    if (!m_ring->rightOf(meant))
        return problem("the agent does not know this key", "", "it may be forgotten already");
    if (m_places.folder.empty())
        return problem("this agent has its key from a file", "", "remove the key there");
    const PairStore store(m_places.folder);
    if (auto gone = store.has(meant) ? store.forget(meant) : store.retire(meant); !gone) return gone;
    m_stamp = stampOf(m_places);
    takeReadable();
    return {};
}

std::size_t AgentKeys::ownKeys() const {
    const std::lock_guard lock(m_mutex);
    return m_own;
}

} // namespace metrodos::probe
