#include "probe/datagram_format.h"

#include <algorithm>
#include <cstring>

namespace metrodos::probe {
namespace {

// Magic and version, kind, two zero bytes, then token and cookie, or the cookie alone.
constexpr std::array<std::uint8_t, 5> magic{'M', 'T', 'R', 'D', 2};
constexpr std::size_t headBytes = 8;
constexpr std::size_t shortBytes = headBytes + 16;

bool hasToken(OpeningKind kind) {
    return kind == OpeningKind::hello || kind == OpeningKind::answer;
}

} // namespace

std::vector<std::uint8_t> write(const Opening& opening) {
    std::vector<std::uint8_t> out(hasToken(opening.kind) ? maxOpening : shortBytes, 0);
    std::copy(magic.begin(), magic.end(), out.begin());
    out[magic.size()] = static_cast<std::uint8_t>(opening.kind);
    auto at = out.begin() + headBytes;
    if (hasToken(opening.kind)) at = std::copy(opening.token.begin(), opening.token.end(), at);
    std::copy(opening.cookie.begin(), opening.cookie.end(), at);
    return out;
}

std::optional<Opening> readOpening(std::span<const std::uint8_t> bytes) {
    if (bytes.size() < shortBytes || !std::equal(magic.begin(), magic.end(), bytes.begin()) ||
        bytes[6] != 0 || bytes[7] != 0)
        return std::nullopt;
    const std::uint8_t kind = bytes[magic.size()];
    if (kind < static_cast<std::uint8_t>(OpeningKind::hello) ||
        kind > static_cast<std::uint8_t>(OpeningKind::welcome))
        return std::nullopt;
    Opening out;
    out.kind = static_cast<OpeningKind>(kind);
    if (bytes.size() != (hasToken(out.kind) ? maxOpening : shortBytes)) return std::nullopt;
    std::size_t at = headBytes;
    if (hasToken(out.kind)) {
        std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(at), out.token.size(), out.token.begin());
        at += out.token.size();
    }
    std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(at), out.cookie.size(), out.cookie.begin());
    return out;
}

void writeHead(const FlowHead& head, unsigned char* at) {
    std::memcpy(at, &head.mark, sizeof head.mark);
    std::memcpy(at + 8, &head.number, sizeof head.number);
    std::memcpy(at + 16, &head.sentNs, sizeof head.sentNs);
}

std::optional<FlowHead> readHead(std::span<const std::uint8_t> bytes) {
    if (bytes.size() < flowHeadBytes) return std::nullopt;
    FlowHead out;
    std::memcpy(&out.mark, bytes.data(), sizeof out.mark);
    std::memcpy(&out.number, bytes.data() + 8, sizeof out.number);
    std::memcpy(&out.sentNs, bytes.data() + 16, sizeof out.sentNs);
    return out;
}

std::uint64_t markOf(const Token& token) {
    std::uint64_t mark = 0;
    std::memcpy(&mark, token.data(), sizeof mark);
    return mark;
}

} // namespace metrodos::probe
