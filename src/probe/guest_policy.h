// What the page of a guest may do, and who may ask its server for what: names, ports, origins and the fields
// of the answers. Internal to the layer.
#pragma once

#include "probe/http_connection.h"

#include <optional>
#include <string>
#include <vector>

namespace metrodos::probe {

/// The page has one port, and there are two more for streams alone: a browser opens six connections to one
/// port (Fetch leaves the number to it; all common ones have six), and a run may have more streams. To a
/// browser another port is another origin, which has to be let in by name (Fetch, 3.2, CORS protocol).
class GuestPolicy {
  public:
    /// `page`: what is served; its one script and one style are known by their hashes (CSP 3, 2.3.1).
    /// `names`: of this machine, numeric addresses and "localhost". `ports`: that of the page first.
    GuestPolicy(const std::string& page, std::vector<std::string> names, std::vector<std::uint16_t> ports);

    struct Refusal {
        int status;
        const char* why;
    };
    /// Nothing where the request may go on. `port` is where it came in.
    [[nodiscard]] std::optional<Refusal> refusal(const HttpRequest& request, std::uint16_t port) const;

    /// Of an answer that is not the page.
    [[nodiscard]] const std::vector<std::string>& fields() const { return m_fields; }
    /// Of an answer on one of the ports for streams: the page at the same name may read it.
    [[nodiscard]] std::vector<std::string> streamFields(const HttpRequest& request) const;
    /// Of the page: with the origins that its script may connect to.
    [[nodiscard]] std::vector<std::string> pageFields(const HttpRequest& request) const;

    /// "name:port" of the page, an IPv6 address in brackets.
    [[nodiscard]] std::vector<std::string> hosts() const;

  private:
    [[nodiscard]] std::string pageHost(const std::string& host) const;

    std::string m_scripts; ///< sources of script-src and style-src
    std::string m_styles;
    std::vector<std::string> m_names; ///< as they stand in a URL
    std::vector<std::uint16_t> m_ports;
    std::vector<std::string> m_fields;
};

/// How many streams go to which port: four to that of the page, which has two more connections to keep, and
/// six to each other.
[[nodiscard]] std::uint16_t portOfStream(std::size_t stream, const std::vector<std::uint16_t>& ports);

/// Who may connect: whoever may take part, and this machine itself, whatever kind of address it has. `own`:
/// its addresses.
[[nodiscard]] bool mayBeGuest(const Address& peer, const std::vector<AddressRange>& allowed,
                              const std::vector<std::string>& own);

} // namespace metrodos::probe
