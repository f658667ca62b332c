#include "probe/pair_store.h"

#include "probe/key_ring.h"

#include <algorithm>
#include <cstdlib>

namespace metrodos::probe {

namespace fs = std::filesystem;
using quantity::problem;
using quantity::Result;

fs::path PairStore::usualFolder() {
    const auto variable = [](const char* name) {
        const char* value = std::getenv(name); // NOLINT(concurrency-mt-unsafe): before any thread starts
        return fs::path(value == nullptr ? "" : value);
    };
    if (const fs::path config = variable("XDG_CONFIG_HOME"); config.is_absolute())
        return config / "metrodos" / "agent";
    if (const fs::path home = variable("HOME"); home.is_absolute())
        return home / ".config" / "metrodos" / "agent";
    return {};
}

fs::path PairStore::fileOf(std::string_view identity) const {
    // "metrodos 0123456789abcdef"
    return m_folder /
           (std::string(identity.substr(std::min(identity.find(' ') + 1, identity.size()))) + ".key");
}

Result<std::vector<Key>> PairStore::load() const {
    std::vector<Key> out;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(m_folder, failed)) {
        if (entry.path().extension() != ".key") continue;
        const auto key = Key::load(entry.path());
        if (!key) return tl::unexpected(key.error());
        out.push_back(*key);
    }
    return out;
}

Result<void> PairStore::keep(const Key& key) const {
    std::error_code failed;
    fs::create_directories(m_folder, failed);
    if (!failed) fs::permissions(m_folder, fs::perms::owner_all, failed);
    if (failed)
        return problem("the folder of the keys cannot be made: " + failed.message(), m_folder.string(),
                       "give another with --pairs");
    return key.save(fileOf(credentialOf(key).identity));
}

Result<void> PairStore::forget(std::string_view identity) const {
    std::error_code failed;
    if (!fs::remove(fileOf(identity), failed))
        return problem("the key could not be removed", fileOf(identity).string(), "remove the file by hand");
    return {};
}

} // namespace metrodos::probe
