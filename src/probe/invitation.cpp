#include "probe/invitation.h"

#include "probe/counters.h"

#include <algorithm>
#include <cctype>

namespace metrodos::probe {
namespace {

constexpr std::size_t maxTextBytes = 500;
constexpr std::string_view scheme = "METRODOS:";
constexpr std::string_view meetingMark = "MEET:";

bool isPlainAddress(std::string_view text) {
    return text.size() <= 262 && std::all_of(text.begin(), text.end(), [](unsigned char c) {
               return std::isalnum(c) != 0 || c == '.' || c == ':' || c == '-' || c == '[' || c == ']' ||
                      c == '%';
           });
}

std::string mapped(std::string_view text, int (*with)(int)) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [with](unsigned char c) { return static_cast<char>(with(c)); });
    return out;
}

} // namespace

std::string Invitation::text() const {
    std::string out = std::string(scheme) + mapped(address, std::toupper) + '/';
    if (meeting) {
        std::string words = mapped(meeting->words(), std::toupper);
        std::replace(words.begin(), words.end(), ' ', '-');
        return out + std::string(meetingMark) + words;
    }
    return out + (key ? key->text() : std::string());
}

quantity::Result<Invitation> Invitation::parse(std::string_view text) {
    const auto wrong = [] {
        return quantity::problem("this code is not one of Metrodos", "",
                                 "show the code of metrodos-agent, or of the Machines page");
    };
    if (text.size() > maxTextBytes || mapped(text.substr(0, scheme.size()), std::toupper) != scheme)
        return wrong();
    text.remove_prefix(scheme.size());
    const auto slash = text.find('/');
    if (slash == std::string_view::npos || !isPlainAddress(text.substr(0, slash))) return wrong();
    Invitation out;
    out.address = mapped(text.substr(0, slash), std::tolower);
    const auto rest = text.substr(slash + 1);
    if (mapped(rest.substr(0, meetingMark.size()), std::toupper) == meetingMark) {
        const auto meeting = MeetingCode::parse(rest.substr(meetingMark.size()));
        if (!meeting || out.address.empty()) return wrong();
        out.meeting = *meeting;
        return out;
    }
    if (!rest.empty()) {
        const auto key = Key::parse(rest);
        if (!key) return wrong();
        out.key = *key;
    }
    if (out.address.empty() && !out.key) return wrong();
    return out;
}

std::optional<std::string> reachableAddress(const std::string& host, std::uint16_t port) {
    const auto written = [&](const std::string& h) {
        return (h.find(':') == std::string::npos ? h : '[' + h + ']') + ':' + std::to_string(port);
    };
    if (host != "0.0.0.0" && host != "::") return written(host);
    for (const auto& [name, own] : addresses()) {
        const bool isVersion4 = own.find(':') == std::string::npos;
        const bool reaches = !own.starts_with("127.") && !own.starts_with("169.254."); // RFC 3927
        if (isVersion4 && reaches) return written(own);
    }
    return std::nullopt;
}

} // namespace metrodos::probe
