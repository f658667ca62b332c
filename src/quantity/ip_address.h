// Addresses of IPv4 (RFC 791) and IPv6 (RFC 4291), and the prefixes that networks have.
#pragma once

#include "quantity/problem.h"

#include <array>
#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace metrodos::quantity {

/// Without a zone. Those of IPv4 come before those of IPv6.
class IpAddress {
  public:
    /// Dotted quad, or the forms of RFC 4291 section 2.2. A Problem for anything else.
    static Result<IpAddress> parse(std::string_view text);

    [[nodiscard]] bool isV4() const { return m_bits == 32; }
    [[nodiscard]] int bits() const { return m_bits; } ///< 32 or 128
    /// As RFC 5952 writes it.
    [[nodiscard]] std::string text() const;
    /// The address so many further on; nothing beyond the last.
    [[nodiscard]] std::optional<IpAddress> plus(std::uint64_t steps) const;
    [[nodiscard]] std::optional<IpAddress> minus(std::uint64_t steps) const;
    /// How many further on `other` is: 0 where it is not, at most 2⁶⁴ − 1. Both of one version.
    [[nodiscard]] std::uint64_t distanceTo(const IpAddress& other) const;

    friend auto operator<=>(const IpAddress&, const IpAddress&) = default;

  private:
    friend struct IpPrefix;
    int m_bits = 32;
    std::array<std::uint8_t, 16> m_bytes{}; ///< of IPv4 the first four
};

struct IpPrefix {
    IpAddress first; ///< with all host bits 0
    int length = 24; ///< bits, 0 to IpAddress::bits()

    /// "192.0.2.0/24"; bits of the host are dropped. A Problem for anything else.
    static Result<IpPrefix> parse(std::string_view text);

    [[nodiscard]] bool contains(const IpAddress& address) const;
    [[nodiscard]] IpAddress last() const; ///< with all host bits 1
    /// What hosts may have. Of IPv4 without the network's own and the broadcast address (RFC 1122), but for
    /// prefixes of 31 and 32 bits (RFC 3021); of IPv6 without the routers' anycast address (RFC 4291, 2.6.1).
    [[nodiscard]] IpAddress firstHost() const;
    [[nodiscard]] IpAddress lastHost() const;
    [[nodiscard]] std::string text() const;

    friend bool operator==(const IpPrefix&, const IpPrefix&) = default;
};

/// The host of "host", "host:port", "[host]:port"; of IPv6 without brackets there is no port.
[[nodiscard]] std::string hostOf(std::string_view address);

/// An address of hardware as six pairs of hexadecimal digits with colons, in lower case (IEEE 802); those
/// with hyphens, or with dots after four digits, are taken too. A Problem for anything else.
[[nodiscard]] Result<std::string> parseHardwareAddress(std::string_view text);

} // namespace metrodos::quantity
