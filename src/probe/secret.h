// Bytes that nobody shall find in memory when they are no longer needed.
#pragma once

#include <array>
#include <cstddef>
#include <openssl/crypto.h>
#include <string>

namespace metrodos::probe {

/// A fixed number of secret bytes; each copy is overwritten when it ends.
template <typename Byte, std::size_t N>
class SecretBytes {
  public:
    SecretBytes() = default;
    explicit SecretBytes(const std::array<Byte, N>& bytes)
        : m_bytes(bytes) {}
    SecretBytes(const SecretBytes&) = default;
    SecretBytes& operator=(const SecretBytes&) = default;
    ~SecretBytes() { OPENSSL_cleanse(m_bytes.data(), N); }

    [[nodiscard]] Byte* data() { return m_bytes.data(); }
    [[nodiscard]] const Byte* data() const { return m_bytes.data(); }
    [[nodiscard]] static constexpr std::size_t size() { return N; }
    [[nodiscard]] auto begin() const { return m_bytes.begin(); }
    [[nodiscard]] auto end() const { return m_bytes.end(); }
    Byte& operator[](std::size_t i) { return m_bytes[i]; }

    /// In constant time.
    friend bool operator==(const SecretBytes& a, const SecretBytes& b) {
        return CRYPTO_memcmp(a.data(), b.data(), N) == 0;
    }

  private:
    std::array<Byte, N> m_bytes{};
};

/// Overwrites a text that held a secret, and empties it.
inline void wipe(std::string& text) {
    OPENSSL_cleanse(text.data(), text.size());
    text.clear();
}

/// Wipes a text when the scope ends.
class WipedAtEnd {
  public:
    explicit WipedAtEnd(std::string& text)
        : m_text(text) {}
    ~WipedAtEnd() { wipe(m_text); }
    WipedAtEnd(const WipedAtEnd&) = delete;
    WipedAtEnd& operator=(const WipedAtEnd&) = delete;

  private:
    std::string& m_text;
};

} // namespace metrodos::probe
