#include "probe/local_network.h"

#include <arpa/inet.h>
#include <array>
#include <functional>
#include <libmnl/libmnl.h>
#include <linux/if_link.h>
#include <linux/neighbour.h>
#include <linux/rtnetlink.h>
#include <map>
#include <memory>
#include <net/if.h>

namespace metrodos::probe {
namespace {

using quantity::IpAddress;
using quantity::IpPrefix;
using quantity::problem;
using quantity::Result;

struct Close {
    void operator()(mnl_socket* socket) const { mnl_socket_close(socket); }
};
using Socket = std::unique_ptr<mnl_socket, Close>;

using Attributes = std::map<std::uint16_t, const nlattr*>;

Attributes attributesOf(const nlmsghdr* message, unsigned int headBytes) {
    Attributes out;
    const auto* end = static_cast<const char*>(mnl_nlmsg_get_payload_tail(message));
    const auto* attribute = static_cast<const nlattr*>(mnl_nlmsg_get_payload_offset(message, headBytes));
    // As the library's own loop, which is written for C.
    while (mnl_attr_ok(attribute, static_cast<int>(end - reinterpret_cast<const char*>(
                                                             attribute)))) { // NOLINT(*-reinterpret-cast)
        out[mnl_attr_get_type(attribute)] = attribute;
        attribute = mnl_attr_next(attribute);
    }
    return out;
}

std::optional<IpAddress> addressIn(const Attributes& attributes, std::uint16_t type, int family) {
    const auto it = attributes.find(type);
    const std::size_t bytes = family == AF_INET ? 4 : 16;
    if (it == attributes.end() || mnl_attr_get_payload_len(it->second) != bytes) return std::nullopt;
    std::array<char, INET6_ADDRSTRLEN> text{};
    ::inet_ntop(family, mnl_attr_get_payload(it->second), text.data(), static_cast<socklen_t>(text.size()));
    const auto read = IpAddress::parse(text.data());
    return read ? std::optional(*read) : std::nullopt;
}

std::string hardwareIn(const Attributes& attributes, std::uint16_t type) {
    const auto it = attributes.find(type);
    if (it == attributes.end() || mnl_attr_get_payload_len(it->second) != 6) return {};
    const auto* bytes = static_cast<const unsigned char*>(mnl_attr_get_payload(it->second));
    constexpr std::string_view digits = "0123456789abcdef";
    std::string out;
    bool isThere = false;
    for (std::size_t i = 0; i < 6; ++i) {
        if (i > 0) out += ':';
        out += digits[bytes[i] >> 4U];
        out += digits[bytes[i] & 15U];
        isThere = isThere || bytes[i] != 0;
    }
    return isThere ? out : std::string();
}

std::string interfaceOf(unsigned int index) {
    std::array<char, IF_NAMESIZE> name{};
    return ::if_indextoname(index, name.data()) == nullptr ? std::string() : std::string(name.data());
}

// Nothing that a plan is made of.
bool isLinkLocal(const IpAddress& address) {
    static const IpPrefix four = *IpPrefix::parse("169.254.0.0/16");
    static const IpPrefix six = *IpPrefix::parse("fe80::/10");
    return four.contains(address) || six.contains(address);
}

using Read = std::function<void(const nlmsghdr*)>;

int readMessage(const nlmsghdr* message, void* data) {
    (*static_cast<const Read*>(data))(message);
    return MNL_CB_OK;
}

// Asks for all of one kind, and gives each to `read`.
bool ask(mnl_socket* socket, std::uint16_t type, const Read& read) {
    static unsigned int sequence = 0;
    std::vector<char> buffer(static_cast<std::size_t>(MNL_SOCKET_BUFFER_SIZE));
    nlmsghdr* request = mnl_nlmsg_put_header(buffer.data());
    request->nlmsg_type = type;
    request->nlmsg_flags = NLM_F_REQUEST | NLM_F_DUMP;
    request->nlmsg_seq = ++sequence;
    mnl_nlmsg_put_extra_header(request,
                               sizeof(rtmsg)); // all families; as long as the heads of the other kinds need
    const unsigned int port = mnl_socket_get_portid(socket);
    if (mnl_socket_sendto(socket, request, request->nlmsg_len) < 0) return false;
    int state = MNL_CB_OK;
    while (state > MNL_CB_STOP) {
        const ssize_t size = mnl_socket_recvfrom(socket, buffer.data(), buffer.size());
        if (size < 0) return false;
        state =
            mnl_cb_run(buffer.data(), static_cast<std::size_t>(size), sequence, port, &readMessage,
                       const_cast<Read*>(&read)); // NOLINT(*-const-cast): the library's word for "any data"
    }
    return state == MNL_CB_STOP;
}

} // namespace

Result<LocalNetwork> readLocalNetwork() {
    const auto refused = [] {
        return problem("this machine does not tell of its networks", "", "type the addresses instead");
    };
    const Socket socket(mnl_socket_open(NETLINK_ROUTE));
    if (socket == nullptr || mnl_socket_bind(socket.get(), 0, MNL_SOCKET_AUTOPID) < 0) return refused();
    LocalNetwork out;
    std::map<unsigned int, std::string> hardware;
    std::map<unsigned int, bool> loops;
    bool ok = ask(socket.get(), RTM_GETLINK, [&](const nlmsghdr* message) {
        const auto* head = static_cast<const ifinfomsg*>(mnl_nlmsg_get_payload(message));
        const auto index = static_cast<unsigned int>(head->ifi_index);
        loops[index] = (head->ifi_flags & IFF_LOOPBACK) != 0;
        hardware[index] = hardwareIn(attributesOf(message, sizeof(*head)), IFLA_ADDRESS);
    });
    ok = ok && ask(socket.get(), RTM_GETADDR, [&](const nlmsghdr* message) {
             const auto* head = static_cast<const ifaddrmsg*>(mnl_nlmsg_get_payload(message));
             const Attributes attributes = attributesOf(message, sizeof(*head));
             auto address = addressIn(attributes, IFA_LOCAL, head->ifa_family);
             if (!address) address = addressIn(attributes, IFA_ADDRESS, head->ifa_family);
             if (!address || loops[head->ifa_index] || isLinkLocal(*address)) return;
             const auto prefix = IpPrefix::parse(address->text() + "/" + std::to_string(head->ifa_prefixlen));
             if (prefix)
                 out.addresses.push_back(
                     {interfaceOf(head->ifa_index), hardware[head->ifa_index], *address, *prefix});
         });
    ok = ok && ask(socket.get(), RTM_GETROUTE, [&](const nlmsghdr* message) {
             const auto* head = static_cast<const rtmsg*>(mnl_nlmsg_get_payload(message));
             const Attributes attributes = attributesOf(message, sizeof(*head));
             if (head->rtm_dst_len != 0 || head->rtm_type != RTN_UNICAST) return;
             const auto gateway = addressIn(attributes, RTA_GATEWAY, head->rtm_family);
             const auto way = attributes.find(RTA_OIF);
             if (gateway && !isLinkLocal(*gateway))
                 out.gateways.push_back(
                     {way == attributes.end() ? "" : interfaceOf(mnl_attr_get_u32(way->second)), *gateway});
         });
    ok = ok && ask(socket.get(), RTM_GETNEIGH, [&](const nlmsghdr* message) {
             const auto* head = static_cast<const ndmsg*>(mnl_nlmsg_get_payload(message));
             constexpr unsigned int answered =
                 NUD_REACHABLE | NUD_STALE | NUD_DELAY | NUD_PROBE | NUD_PERMANENT;
             const Attributes attributes = attributesOf(message, sizeof(*head));
             const auto address = addressIn(attributes, NDA_DST, head->ndm_family);
             const std::string its = hardwareIn(attributes, NDA_LLADDR);
             const auto index = static_cast<unsigned int>(head->ndm_ifindex);
             if (address && !its.empty() && (head->ndm_state & answered) != 0 && !loops[index] &&
                 !isLinkLocal(*address))
                 out.neighbours.push_back({interfaceOf(index), its, *address});
         });
    if (!ok) return refused();
    return out;
}

} // namespace metrodos::probe
