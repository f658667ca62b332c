#include "probe/invitation.h"

#include "probe/counters.h"
#include "quantity/ascii.h"

#include <algorithm>

namespace metrodos::probe {
namespace {

namespace ascii = quantity::ascii;

constexpr std::size_t maxTextBytes = 500;
constexpr std::string_view scheme = "METRODOS:";
constexpr std::string_view meetingMark = "MEET:";

bool isPlainAddress(std::string_view text) {
    return text.size() <= 262 && std::all_of(text.begin(), text.end(), [](char c) {
               return ascii::isLetterOrDigit(c) ||
                      std::string_view(".:-[]%").find(c) != std::string_view::npos;
           });
}

} // namespace

std::string Invitation::text() const {
    std::string out = std::string(scheme) + ascii::inUpperCase(address) + '/';
    if (meeting) {
        std::string words = ascii::inUpperCase(meeting->words());
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
    if (text.size() > maxTextBytes || ascii::inUpperCase(text.substr(0, scheme.size())) != scheme)
        return wrong();
    text.remove_prefix(scheme.size());
    const auto slash = text.find('/');
    if (slash == std::string_view::npos || !isPlainAddress(text.substr(0, slash))) return wrong();
    Invitation out;
    out.address = ascii::inLowerCase(text.substr(0, slash));
    const auto rest = text.substr(slash + 1);
    if (ascii::inUpperCase(rest.substr(0, meetingMark.size())) == meetingMark) {
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
