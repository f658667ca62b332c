#include "probe/guest_policy.h"

#include <openssl/evp.h>

#include <algorithm>
#include <array>

namespace metrodos::probe {
namespace {

constexpr std::size_t streamsBesidePage = 4;
constexpr std::size_t streamsOfPort = 6;

// "sha256-…" of the text between two marks of the page: what its policy lets run, and nothing else.
std::string hashOf(const std::string& page, std::string_view begin, std::string_view end) {
    const std::size_t from = page.find(begin);
    if (from == std::string::npos) return "'none'";
    const std::size_t start = from + begin.size();
    const std::size_t stop = page.find(end, start);
    if (stop == std::string::npos) return "'none'";
    std::array<unsigned char, 32> digest{};
    EVP_Digest(page.data() + start, stop - start, digest.data(), nullptr, EVP_sha256(), nullptr);
    std::array<unsigned char, 45> text{};
    EVP_EncodeBlock(text.data(), digest.data(), static_cast<int>(digest.size()));
    return "'sha256-" + std::string(reinterpret_cast<const char*>(text.data())) + "'";
}

std::string withPort(const std::string& name, std::uint16_t port) {
    return name + ":" + std::to_string(port);
}

} // namespace

GuestPolicy::GuestPolicy(const std::string& page, std::vector<std::string> names,
                         std::vector<std::uint16_t> ports)
    : m_scripts(hashOf(page, "<script>", "</script>"))
    , m_styles(hashOf(page, "<style>", "</style>"))
    , m_names(std::move(names))
    , m_ports(std::move(ports))
    , m_fields{"X-Content-Type-Options: nosniff", "Referrer-Policy: no-referrer", "Cache-Control: no-store",
               "Cross-Origin-Resource-Policy: same-site", "Cross-Origin-Opener-Policy: same-origin"} {
    for (std::string& name : m_names)
        if (name.find(':') != std::string::npos) name = "[" + name + "]";
}

std::string GuestPolicy::pageHost(const std::string& host) const {
    return withPort(host.substr(0, host.rfind(':')), m_ports.front());
}

std::optional<GuestPolicy::Refusal> GuestPolicy::refusal(const HttpRequest& request,
                                                         std::uint16_t port) const {
    // Neither a name that somebody made point here (rebinding) nor a page of somebody else.
    const bool isNamed = std::any_of(m_names.begin(), m_names.end(), [&](const std::string& name) {
        return request.host == withPort(name, port);
    });
    if (!isNamed) return Refusal{421, "open the address as it is shown"};
    const bool isForStreams = port != m_ports.front();
    if (!request.origin.empty() && request.origin != "http://" + pageHost(request.host))
        return Refusal{403, "not from there"};
    if (isForStreams && request.origin.empty()) return Refusal{403, "not from there"};
    const std::string& site = request.fetchSite;
    const bool isOurs = site.empty() || (isForStreams ? site == "same-site" || site == "same-origin"
                                                      : site == "same-origin" || site == "none");
    if (!isOurs) return Refusal{403, "not from there"};
    if (isForStreams && !request.target.starts_with("/stream/")) return Refusal{404, "there is nothing here"};
    return std::nullopt;
}

std::vector<std::string> GuestPolicy::streamFields(const HttpRequest& request) const {
    std::vector<std::string> out = m_fields;
    out.push_back("Access-Control-Allow-Origin: http://" + pageHost(request.host));
    out.emplace_back("Access-Control-Allow-Methods: GET, POST");
    out.emplace_back("Access-Control-Max-Age: 600"); // asked once a run, not before each piece
    out.emplace_back("Vary: Origin");
    return out;
}

std::vector<std::string> GuestPolicy::pageFields(const HttpRequest& request) const {
    std::string connect = "connect-src 'self'";
    for (std::size_t i = 1; i < m_ports.size(); ++i)
        connect += " http://" + withPort(request.host.substr(0, request.host.rfind(':')), m_ports[i]);
    std::vector<std::string> out = m_fields;
    out.push_back("Content-Security-Policy: default-src 'none'; script-src " + m_scripts + "; style-src " +
                  m_styles + "; " + connect +
                  "; base-uri 'none'; form-action 'none'; frame-ancestors 'none'");
    return out;
}

std::vector<std::string> GuestPolicy::hosts() const {
    std::vector<std::string> out;
    for (const std::string& name : m_names)
        out.push_back(withPort(name, m_ports.front()));
    return out;
}

std::uint16_t portOfStream(std::size_t stream, const std::vector<std::uint16_t>& ports) {
    if (stream < streamsBesidePage || ports.size() < 2) return ports.front();
    const std::size_t other = 1 + (stream - streamsBesidePage) / streamsOfPort;
    return ports[std::min(other, ports.size() - 1)];
}

bool mayBeGuest(const Address& peer, const std::vector<AddressRange>& allowed,
                const std::vector<std::string>& own) {
    return mayReach(peer, allowed) || std::find(own.begin(), own.end(), peer.host()) != own.end();
}

} // namespace metrodos::probe
