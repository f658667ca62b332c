// The keys that a listening endpoint knows, and the one-time secret of an open meeting.
#pragma once

#include "probe/key_file.h"

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
    SecretBytes<unsigned char, 32> secret{};
};

/// Before 16 hexadecimal digits: the identity of a key.
inline constexpr std::string_view identityPrefix = "metrodos ";
/// Of a key that both ends have.
[[nodiscard]] Credential credentialOf(const Key& key);
/// By which the key of a key file is known to whoever has no more than the key.
inline constexpr std::string_view sharedIdentity = "metrodos";
/// The one identity of all meetings (meeting.h).
inline constexpr std::string_view meetingIdentity = "metrodos meeting";

/// Thread-safe.
class KeyRing {
  public:
    void add(const Key& key, Right right = Right::command);
    /// One that several controllers may have. It is known by the plain identity as well, which anybody who
    /// has only the key can name; one ring has one such key.
    void addShared(const Key& key, Right right = Right::command);
    /// All keys at once; those that were there before are known no longer. The meeting stays.
    void set(const std::optional<KeptKey>& shared, const std::vector<KeptKey>& own);
    /// False: it was not there.
    bool remove(std::string_view identity);
    /// What the holder of this key may do; nothing: it is not of this ring, or no longer.
    [[nodiscard]] std::optional<Right> rightOf(std::string_view identity) const;
    /// The identity of a key's own, where it was named by the plain one.
    [[nodiscard]] std::string identityOf(std::string_view named) const;
    [[nodiscard]] std::size_t size() const;
    /// The secret that the next meeting takes place on; nothing: there is none.
    void setMeeting(std::optional<Credential> meeting);
    /// Ends the meeting if it is still this one: what two guessed at once only one of them has.
    bool endMeeting(const Credential& meeting);

    [[nodiscard]] std::optional<Credential> find(std::string_view identity) const;

  private:
    mutable std::mutex m_mutex;
    struct Known {
        Credential credential;
        Right right = Right::command;
    };
    [[nodiscard]] const Known* known(std::string_view identity) const; // under the lock

    std::vector<Known> m_keys;
    std::string m_shared; // the identity of the one that the plain identity stands for; empty: none
    std::optional<Credential> m_meeting;
};

/// A ring of one, which is shared.
[[nodiscard]] std::shared_ptr<KeyRing> ringOf(const Key& key);

} // namespace metrodos::probe
