// The keys that a listening endpoint knows, and the one-time secret of an open meeting.
#pragma once

#include "probe/key.h"

#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace metrodos::probe {

/// What one end of a TLS handshake says and has: the identity goes over the wire, the secret never does.
struct Credential {
    std::string identity;
    std::array<unsigned char, 32> secret{};
};

/// Of a key that both ends have.
[[nodiscard]] Credential credentialOf(const Key& key);
/// By which the key of a key file is known to whoever has no more than the key.
inline constexpr std::string_view sharedIdentity = "metrodos";
/// The one identity of all meetings (meeting.h).
inline constexpr std::string_view meetingIdentity = "metrodos meeting";

/// Thread-safe.
class KeyRing {
  public:
    void add(const Key& key);
    /// One that several controllers may have. It is known by the plain identity as well, which anybody who
    /// has only the key can name; one ring has one such key.
    void addShared(const Key& key);
    /// False: it was not there.
    bool remove(std::string_view identity);
    [[nodiscard]] std::size_t size() const;
    /// The secret that the next meeting takes place on; nothing: there is none.
    void setMeeting(std::optional<Credential> meeting);
    /// Ends the meeting if it is still this one: what two guessed at once only one of them has.
    bool endMeeting(const Credential& meeting);

    [[nodiscard]] std::optional<Credential> find(std::string_view identity) const;

  private:
    mutable std::mutex m_mutex;
    std::vector<Credential> m_keys;
    std::optional<Credential> m_shared;
    std::optional<Credential> m_meeting;
};

/// A ring of one, which is shared.
[[nodiscard]] std::shared_ptr<KeyRing> ringOf(const Key& key);

} // namespace metrodos::probe
