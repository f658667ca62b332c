// The pre-shared key that lets a controller and an agent know each other.
#pragma once

#include "probe/secret.h"
#include "quantity/problem.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace metrodos::probe {

/// The signs of Crockford base32, five bits each.
inline constexpr std::string_view crockford = "0123456789ABCDEFGHJKMNPQRSTVWXYZ";

/// Throws std::runtime_error where the system has no random numbers.
void fillRandom(unsigned char* bytes, std::size_t count);
/// So many random letters and digits of it. Throws std::runtime_error where the system has no random numbers.
[[nodiscard]] std::string randomLetters(std::size_t count);

/// What an endpoint lets the holder of a key do.
enum class Right {
    takePart, ///< be one end of a run that the holder makes: nothing is read, kept or changed for it
    command,  ///< everything
};

[[nodiscard]] constexpr const char* name(Right right) {
    return right == Right::command ? "command" : "take part";
}
[[nodiscard]] std::optional<Right> right(std::string_view word);

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
    /// Of a file that nobody else may read (key_file.h).
    static quantity::Result<Key> load(const std::filesystem::path& file);

    /// Writes a new file with mode 0600; an existing file is left alone and is a Problem.
    [[nodiscard]] quantity::Result<void> save(const std::filesystem::path& file) const;
    [[nodiscard]] std::string text() const;
    /// The secret of the TLS session: SHA-256 over a label and the key.
    [[nodiscard]] SecretBytes<unsigned char, 32> secret() const;

    friend bool operator==(const Key&, const Key&) = default;

  private:
    SecretBytes<std::uint8_t, 16> m_bits;
};

} // namespace metrodos::probe
