#include "quantity/ip_address.h"

#include "quantity/ascii.h"
#include "quantity/parse.h"
#include "quantity/text.h"

#include <algorithm>
#include <arpa/inet.h>
#include <cctype>
#include <limits>

namespace metrodos::quantity {
namespace {

__extension__ using Wide = unsigned __int128;

Wide wideOf(const std::array<std::uint8_t, 16>& bytes, int bits) {
    Wide out = 0;
    for (int i = 0; i < bits / 8; ++i)
        out = out << 8U | bytes[static_cast<std::size_t>(i)];
    return out;
}

void fill(std::array<std::uint8_t, 16>& bytes, int bits, Wide value) {
    for (int i = bits / 8 - 1; i >= 0; --i, value >>= 8U)
        bytes[static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(value & 0xffU);
}

// So many ones at the end, 0 to 128.
Wide allOnes(int bits) {
    return bits == 128 ? ~Wide{0} : (Wide{1} << static_cast<unsigned>(bits)) - 1;
}

} // namespace

Result<IpAddress> IpAddress::parse(std::string_view text) {
    constexpr std::size_t longest = 45; // of IPv6 that ends in a dotted quad
    const std::string whole(text.substr(0, longest + 1));
    IpAddress out;
    if (whole.find('\0') == std::string::npos && whole.size() <= longest) {
        if (::inet_pton(AF_INET, whole.c_str(), out.m_bytes.data()) == 1) return out;
        out.m_bits = 128;
        if (::inet_pton(AF_INET6, whole.c_str(), out.m_bytes.data()) == 1) return out;
    }
    return problem(inQuotes(text) + " is no address", "", "write it like 192.0.2.20 or 2001:db8::20");
}

std::string IpAddress::text() const {
    std::array<char, INET6_ADDRSTRLEN> out{};
    ::inet_ntop(isV4() ? AF_INET : AF_INET6, m_bytes.data(), out.data(), static_cast<socklen_t>(out.size()));
    return out.data();
}

std::optional<IpAddress> IpAddress::plus(std::uint64_t steps) const {
    const Wide value = wideOf(m_bytes, m_bits);
    if (allOnes(m_bits) - value < steps) return std::nullopt;
    IpAddress out = *this;
    fill(out.m_bytes, m_bits, value + steps);
    return out;
}

std::optional<IpAddress> IpAddress::minus(std::uint64_t steps) const {
    const Wide value = wideOf(m_bytes, m_bits);
    if (value < steps) return std::nullopt;
    IpAddress out = *this;
    fill(out.m_bytes, m_bits, value - steps);
    return out;
}

std::uint64_t IpAddress::distanceTo(const IpAddress& other) const {
    const Wide from = wideOf(m_bytes, m_bits);
    const Wide to = wideOf(other.m_bytes, other.m_bits);
    constexpr Wide most = std::numeric_limits<std::uint64_t>::max();
    return to <= from ? 0 : static_cast<std::uint64_t>(std::min<Wide>(to - from, most));
}

Result<IpPrefix> IpPrefix::parse(std::string_view text) {
    const std::size_t slash = text.find('/');
    const auto address = IpAddress::parse(text.substr(0, slash));
    const auto length = slash == std::string_view::npos ? std::nullopt
                                                        : parseWhole(std::string(text.substr(slash + 1)), 0,
                                                                     address ? address->bits() : 0);
    if (!address || !length)
        return problem(inQuotes(text) + " is no network", "", "write it like 192.0.2.0/24 or 2001:db8::/64");
    IpPrefix out{*address, static_cast<int>(*length)};
    const int bits = address->bits();
    fill(out.first.m_bytes, bits, wideOf(address->m_bytes, bits) & ~allOnes(bits - out.length));
    return out;
}

IpAddress IpPrefix::last() const {
    IpAddress out = first;
    const int bits = first.bits();
    fill(out.m_bytes, bits, wideOf(first.m_bytes, bits) | allOnes(bits - length));
    return out;
}

bool IpPrefix::contains(const IpAddress& address) const {
    return address.bits() == first.bits() && first <= address && address <= last();
}

IpAddress IpPrefix::firstHost() const {
    const bool isPair = first.bits() - length < 2;
    return isPair ? first : first.plus(1).value_or(first);
}

IpAddress IpPrefix::lastHost() const {
    const bool isPair = first.bits() - length < 2;
    return isPair || !first.isV4() ? last() : last().minus(1).value_or(first);
}

std::string IpPrefix::text() const {
    return first.text() + "/" + std::to_string(length);
}

std::string hostOf(std::string_view address) {
    if (address.starts_with('[')) return std::string(address.substr(1, address.find(']') - 1));
    const std::size_t colon = address.find(':');
    const bool hasPort =
        colon != std::string_view::npos && address.find(':', colon + 1) == std::string_view::npos;
    return std::string(hasPort ? address.substr(0, colon) : address);
}

Result<std::string> parseHardwareAddress(std::string_view text) {
    std::string digits;
    bool isSound = text.size() <= 17;
    for (const char c : text.substr(0, 17)) {
        if (std::isxdigit(static_cast<unsigned char>(c)) != 0)
            digits += ascii::lower(c);
        else if (c != ':' && c != '-' && c != '.')
            isSound = false;
    }
    // Twelve digits in groups of two or four, or none.
    isSound =
        isSound && digits.size() == 12 &&
        (text.size() == 12 || text.size() == 17 || (text.size() == 14 && text[4] == '.' && text[9] == '.'));
    for (std::size_t i = 2; isSound && text.size() == 17 && i < 17; i += 3)
        isSound =
            text[i] == text[2] && text[i] != '.' && std::isxdigit(static_cast<unsigned char>(text[i])) == 0;
    if (!isSound)
        return problem(inQuotes(text) + " is no hardware address", "", "write it like 02:00:5e:10:00:01");
    std::string out;
    for (std::size_t i = 0; i < digits.size(); i += 2)
        out += (out.empty() ? "" : ":") + digits.substr(i, 2);
    return out;
}

} // namespace metrodos::quantity
