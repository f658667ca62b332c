#include "probe/key_ring.h"

#include <openssl/crypto.h>
#include <openssl/evp.h>

#include <algorithm>

namespace metrodos::probe {
namespace {

constexpr std::string_view prefix = "metrodos ";
constexpr std::size_t identityBytes = 8;

} // namespace

Credential credentialOf(const Key& key) {
    Credential out;
    out.secret = key.secret();
    // Tells which of several keys is meant. It is a hash of a secret of 128 bits and tells nothing of it.
    std::string input = "metrodos identity 1";
    input.append(reinterpret_cast<const char*>(out.secret.data()), out.secret.size());
    std::array<unsigned char, 32> digest{};
    EVP_Digest(input.data(), input.size(), digest.data(), nullptr, EVP_sha256(), nullptr);
    constexpr std::string_view digits = "0123456789abcdef";
    out.identity = prefix;
    for (std::size_t i = 0; i < identityBytes; ++i) {
        out.identity += digits[digest[i] >> 4U];
        out.identity += digits[digest[i] & 15U];
    }
    return out;
}

void KeyRing::add(const Key& key) {
    const std::lock_guard lock(m_mutex);
    m_keys.push_back(credentialOf(key));
}

void KeyRing::addShared(const Key& key) {
    add(key);
    const std::lock_guard lock(m_mutex);
    m_shared = credentialOf(key);
    m_shared->identity = sharedIdentity;
}

bool KeyRing::remove(std::string_view identity) {
    const std::lock_guard lock(m_mutex);
    const auto same = std::find_if(m_keys.begin(), m_keys.end(),
                                   [&](const Credential& c) { return c.identity == identity; });
    if (same != m_keys.end() && m_shared && m_shared->secret == same->secret) m_shared.reset();
    return std::erase_if(m_keys, [&](const Credential& c) { return c.identity == identity; }) > 0;
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
    if (!m_meeting ||
        CRYPTO_memcmp(m_meeting->secret.data(), meeting.secret.data(), meeting.secret.size()) != 0)
        return false;
    m_meeting.reset();
    return true;
}

std::optional<Credential> KeyRing::find(std::string_view identity) const {
    const std::lock_guard lock(m_mutex);
    if (identity == meetingIdentity) return m_meeting;
    if (identity == sharedIdentity) return m_shared;
    const auto it = std::find_if(m_keys.begin(), m_keys.end(),
                                 [&](const Credential& c) { return c.identity == identity; });
    return it == m_keys.end() ? std::nullopt : std::optional(*it);
}

std::shared_ptr<KeyRing> ringOf(const Key& key) {
    auto out = std::make_shared<KeyRing>();
    out->addShared(key);
    return out;
}

} // namespace metrodos::probe
