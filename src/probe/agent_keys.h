// The keys of an agent on its machine: a key file, and a folder of those made with single controllers.
#pragma once

#include "probe/key_ring.h"
#include "probe/pair_store.h"

#include <filesystem>
#include <memory>
#include <mutex>

namespace metrodos::probe {

/// Where they lie.
struct KeyPlaces {
    std::filesystem::path file;   ///< a key that several may have; empty: there is none
    std::filesystem::path folder; ///< of keys of one holder each (pair_store.h); empty: those are not kept
};

/// Fills a ring from the files, and follows them: a key whose file goes is known no longer, one that comes is
/// known from then on. Thread-safe.
class AgentKeys {
  public:
    /// A Problem names a file that cannot be used.
    [[nodiscard]] static quantity::Result<std::shared_ptr<AgentKeys>> open(KeyPlaces places);

    /// Of one key that several have, kept nowhere.
    [[nodiscard]] static std::shared_ptr<AgentKeys> ofKey(const Key& key);

    [[nodiscard]] const std::shared_ptr<KeyRing>& ring() const { return m_ring; }
    /// Looks whether files have come, gone or changed. One that cannot be read counts as gone.
    void refresh();
    /// Keeps a key that was made with a controller; without a folder as long as this lives.
    [[nodiscard]] quantity::Result<void> keep(const KeptKey& kept);
    /// Makes a key for one holder, and keeps it.
    [[nodiscard]] quantity::Result<Key> grant(Right right, const std::string& holder);
    /// Knows the key of this identity no longer. One from the key file is noted as retired, for which there
    /// has to be a folder: the file itself stays. A Problem where it is not known.
    [[nodiscard]] quantity::Result<void> forget(const std::string& identity);
    /// How many there are besides the key file's.
    [[nodiscard]] std::size_t ownKeys() const;

  private:
    explicit AgentKeys(KeyPlaces places)
        : m_places(std::move(places)) {}
    [[nodiscard]] quantity::Result<void> load(); // under the lock, as the next
    void takeReadable();
    void take(const std::function<void(const quantity::Problem&)>& wrong);

    KeyPlaces m_places;
    std::optional<KeptKey> m_given; // in the place of a key file
    std::vector<KeptKey> m_unkept;  // made without a folder
    std::shared_ptr<KeyRing> m_ring = std::make_shared<KeyRing>();
    mutable std::mutex m_mutex;
    std::size_t m_own = 0;
    std::string m_stamp; // of the files that were read last
};

} // namespace metrodos::probe
