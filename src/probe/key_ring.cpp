#include "probe/key_ring.h"

#include <openssl/evp.h>

#include <algorithm>

namespace metrodos::probe {
namespace {

constexpr std::size_t identityBytes = 8;

} // namespace

Credential credentialOf(const Key& key) {
    Credential out;
    out.secret = key.secret();
    // Tells which of several keys is meant. It is a hash of a secret of 128 bits and tells nothing of it.
    std::string input = "metrodos identity 1";
    const WipedAtEnd wiped(input);
    input.append(reinterpret_cast<const char*>(out.secret.data()), out.secret.size());
    std::array<unsigned char, 32> digest{};
    EVP_Digest(input.data(), input.size(), digest.data(), nullptr, EVP_sha256(), nullptr);
    constexpr std::string_view digits = "0123456789abcdef";
    out.identity = identityPrefix;
    for (std::size_t i = 0; i < identityBytes; ++i) {
        out.identity += digits[digest[i] >> 4U];
        out.identity += digits[digest[i] & 15U];
    }
    return out;
}

const KeyRing::Known* KeyRing::known(std::string_view identity) const {
    const std::string_view meant = identity == sharedIdentity ? std::string_view(m_shared) : identity;
    const auto it = std::find_if(m_keys.begin(), m_keys.end(),
                                 [&](const Known& k) { return k.credential.identity == meant; });
    return it == m_keys.end() ? nullptr : &*it;
}

void KeyRing::add(const Key& key, Right right) {
    Credential made = credentialOf(key);
    const std::lock_guard lock(m_mutex);
    if (known(made.identity) == nullptr) m_keys.push_back({std::move(made), right});
}

void KeyRing::addShared(const Key& key, Right right) {
    add(key, right);
    const std::lock_guard lock(m_mutex);
    m_shared = credentialOf(key).identity;
}

void KeyRing::set(const std::optional<KeptKey>& shared, const std::vector<KeptKey>& own) {
    std::vector<Known> keys;
    keys.reserve(own.size() + 1);
    for (const KeptKey& k : own)
        keys.push_back({credentialOf(k.key), k.right});
    if (shared) keys.push_back({credentialOf(shared->key), shared->right});
    const std::lock_guard lock(m_mutex);
    m_keys = std::move(keys);
    m_shared = shared ? m_keys.back().credential.identity : std::string();
}

bool KeyRing::remove(std::string_view identity) {
    const std::lock_guard lock(m_mutex);
    if (m_shared == identity) m_shared.clear();
    return std::erase_if(m_keys, [&](const Known& k) { return k.credential.identity == identity; }) > 0;
}

std::optional<Right> KeyRing::rightOf(std::string_view identity) const {
    const std::lock_guard lock(m_mutex);
    const Known* one = known(identity);
    return one != nullptr ? std::optional(one->right) : std::nullopt;
}

std::string KeyRing::identityOf(std::string_view named) const {
    const std::lock_guard lock(m_mutex);
    const Known* one = known(named);
    return one != nullptr ? one->credential.identity : std::string(named);
}

std::size_t KeyRing::size() const {
    const std::lock_guard lock(m_mutex);
    return m_keys.size();
}

void KeyRing::setMeeting(std::optional<Credential> meeting) {
    const std::lock_guard lock(m_mutex);
    m_meeting = std::move(meeting);
}

bool KeyRing::endMeeting(const Credential& meeting) {
    const std::lock_guard lock(m_mutex);
    if (!m_meeting || !(m_meeting->secret == meeting.secret)) return false;
    m_meeting.reset();
    return true;
}

std::optional<Credential> KeyRing::find(std::string_view identity) const {
    const std::lock_guard lock(m_mutex);
    if (identity == meetingIdentity) return m_meeting;
    const Known* one = known(identity);
    if (one == nullptr) return std::nullopt;
    Credential out = one->credential;
    out.identity = identity; // as it was named
    return out;
}

std::shared_ptr<KeyRing> ringOf(const Key& key) {
    auto out = std::make_shared<KeyRing>();
    out->addShared(key);
    return out;
}

} // namespace metrodos::probe
