#include "probe/pair_store.h"

#include "probe/key_ring.h"
#include "probe/private_file.h"

#include <algorithm>
#include <cstdlib>

namespace metrodos::probe {

namespace fs = std::filesystem;
using quantity::problem;
using quantity::Result;

namespace {
constexpr const char* keyEnding = ".key";
constexpr const char* retiredEnding = ".retired";
} // namespace

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

fs::path PairStore::fileOf(std::string_view identity, const char* ending) const {
    // "metrodos 0123456789abcdef"
    return m_folder /
           (std::string(identity.substr(std::min(identity.find(' ') + 1, identity.size()))) + ending);
}

std::vector<KeptKey> PairStore::readable(const std::function<void(const quantity::Problem&)>& wrong) const {
    std::vector<KeptKey> out;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(m_folder, failed)) {
        if (entry.path().extension() != keyEnding || out.size() == maxKeys) continue;
        auto kept = loadKeyFile(entry.path());
        if (kept)
            out.push_back(std::move(*kept));
        else
            wrong(kept.error());
    }
    return out;
}

Result<std::vector<KeptKey>> PairStore::load() const {
    std::optional<quantity::Problem> first;
    auto out = readable([&](const quantity::Problem& why) {
        if (!first) first = why;
    });
    if (first) return tl::unexpected(*first);
    return out;
}

Result<void> PairStore::makeFolder() const {
    std::error_code failed;
    fs::create_directories(m_folder, failed);
    if (!failed) fs::permissions(m_folder, fs::perms::owner_all, failed);
    if (failed)
        return problem("the folder of the keys cannot be made: " + failed.message(), m_folder.string(),
                       "give another with --pairs");
    return {};
}

Result<void> PairStore::keep(const KeptKey& kept) const {
    if (auto made = makeFolder(); !made) return made;
    if (readable([](const quantity::Problem&) {}).size() >= maxKeys)
        return problem("this agent has " + std::to_string(maxKeys) + " keys already", m_folder.string(),
                       "remove those that nobody uses any more");
    return saveKeyFile(kept, fileOf(credentialOf(kept.key).identity, keyEnding));
}

bool PairStore::has(std::string_view identity) const {
    std::error_code failed;
    return fs::exists(fileOf(identity, keyEnding), failed);
}

Result<void> PairStore::forget(std::string_view identity) const {
    std::error_code failed;
    if (const fs::path file = fileOf(identity, keyEnding); !fs::remove(file, failed))
        return problem("the key could not be removed", file.string(), "remove the file by hand");
    return {};
}

Result<void> PairStore::retire(std::string_view identity) const {
    if (auto made = makeFolder(); !made) return made;
    return writePrivately(fileOf(identity, retiredEnding), std::string(identity) + "\n");
}

std::vector<std::string> PairStore::retired() const {
    std::vector<std::string> out;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(m_folder, failed))
        if (entry.path().extension() == retiredEnding)
            out.push_back(std::string(identityPrefix) + entry.path().stem().string());
    return out;
}

} // namespace metrodos::probe
