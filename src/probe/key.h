// The pre-shared key that lets a controller and an agent know each other.
#pragma once

#include "quantity/problem.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>

namespace metrodos::probe {

/// The signs of Crockford base32, five bits each.
inline constexpr std::string_view crockford = "0123456789ABCDEFGHJKMNPQRSTVWXYZ";

/// Throws std::runtime_error where the system has no random numbers.
void fillRandom(unsigned char* bytes, std::size_t count);
/// So many random letters and digits of it. Throws std::runtime_error where the system has no random numbers.
[[nodiscard]] std::string randomLetters(std::size_t count);

/// 128 random bits. Written as Crockford base32: 26 characters in groups, the last group shorter.
class Key {
  public:
    static Key generate();
    Key() = default; ///< all zero: a place for one
    explicit Key(const std::array<std::uint8_t, 16>& bits)
        : m_bits(bits) {}
    /// Takes the written form in either case; blanks, hyphens and line ends are skipped; O is 0, I and L
    /// are 1.
    static quantity::Result<Key> parse(std::string_view text);
    /// Reads a file that only its owner may read; a Problem says which of that fails.
    static quantity::Result<Key> load(const std::filesystem::path& file);

    /// Writes a new file with mode 0600; an existing file is left alone and is a Problem.
    [[nodiscard]] quantity::Result<void> save(const std::filesystem::path& file) const;
    [[nodiscard]] std::string text() const;
    /// The secret of the TLS session: SHA-256 over a label and the key.
    [[nodiscard]] std::array<unsigned char, 32> secret() const;

    friend bool operator==(const Key&, const Key&) = default;

  private:
    std::array<std::uint8_t, 16> m_bits{};
};

} // namespace metrodos::probe
