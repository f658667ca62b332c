#include "probe/counters.h"

#include "probe/kernel_time.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <ctime>
#include <filesystem>
#include <fstream>
#include <ifaddrs.h>
#include <linux/tcp.h>
#include <memory>
#include <netinet/in.h>
#include <sstream>

namespace metrodos::probe {

namespace {

std::string textOf(const std::filesystem::path& file) {
    constexpr std::size_t most = 16384;
    std::ifstream in(file);
    std::string out(most, '\0');
    in.read(out.data(), static_cast<std::streamsize>(out.size()));
    out.resize(static_cast<std::size_t>(in.gcount()));
    return out;
}

} // namespace

std::optional<double> heldBackSeconds(std::string_view stat) {
    std::istringstream lines{std::string(stat)};
    std::string name;
    double value = 0;
    while (lines >> name >> value) {
        if (name == "throttled_usec") return value * 1e-6;
        if (name == "throttled_time") return value * 1e-9;
    }
    return std::nullopt;
}

std::vector<std::filesystem::path> quotaFilesIn(std::string_view groups) {
    std::vector<std::filesystem::path> out;
    std::istringstream lines{std::string(groups)};
    for (std::string line; std::getline(lines, line);) {
        // number:controllers:path; none of them is that of version 2
        const auto first = line.find(':');
        const auto second = first == std::string::npos ? first : line.find(':', first + 1);
        if (second == std::string::npos || second + 1 >= line.size()) continue;
        const std::string controllers = line.substr(first + 1, second - first - 1);
        const std::string path = line.substr(second + 2); // without its "/"
        const bool isOfCpu = controllers == "cpu" || controllers.starts_with("cpu,") ||
                             controllers.ends_with(",cpu") || controllers.find(",cpu,") != std::string::npos;
        if (!isOfCpu && !controllers.empty()) continue;
        const std::filesystem::path root = "/sys/fs/cgroup";
        if (controllers.empty())
            out.push_back(root / path / "cpu.stat");
        else
            for (const std::string& folder : {controllers, std::string("cpu")})
                out.push_back(root / folder / path / "cpu.stat");
    }
    return out;
}

CpuMeter::CpuMeter(std::filesystem::path root)
    : m_root(std::move(root)) {
    for (const std::filesystem::path& path : quotaFilesIn(textOf(m_root / "proc/self/cgroup")))
        if (const auto file = m_root / path.relative_path(); !m_quotaFile && heldBackSeconds(textOf(file)))
            m_quotaFile = file;
}

double CpuMeter::heldBackShare() {
    const auto now = std::chrono::steady_clock::now();
    const double passed = std::chrono::duration<double>(now - m_asked).count();
    const auto before = m_heldBack;
    m_asked = now;
    m_heldBack = m_quotaFile ? heldBackSeconds(textOf(*m_quotaFile)) : std::nullopt;
    return before && m_heldBack && passed > 0 ? std::clamp((*m_heldBack - *before) / passed, 0.0, 1.0) : 0;
}

std::optional<double> CpuMeter::busiestCore() {
    std::ifstream stat(m_root / "proc/stat");
    std::vector<Ticks> now;
    for (std::string line; std::getline(stat, line) && line.starts_with("cpu");) {
        if (line[3] == ' ') continue; // the sum of all cores
        std::istringstream fields(line);
        std::string name;
        fields >> name;
        Ticks ticks;
        std::uint64_t value = 0;
        // user nice system idle iowait irq softirq steal; guest time is part of user
        for (int column = 0; column < 8 && fields >> value; ++column) {
            ticks.total += value;
            if (column != 3 && column != 4) ticks.busy += value;
        }
        now.push_back(ticks);
    }
    std::optional<double> busiest;
    if (now.size() == m_last.size())
        for (std::size_t i = 0; i < now.size(); ++i) {
            const std::uint64_t total = now[i].total - m_last[i].total;
            if (total == 0 || now[i].total < m_last[i].total) continue;
            const double share =
                static_cast<double>(now[i].busy - m_last[i].busy) / static_cast<double>(total);
            busiest = std::max(busiest.value_or(0), std::clamp(share, 0.0, 1.0));
        }
    m_last = std::move(now);
    const double heldBack = heldBackShare();
    if (busiest) busiest = std::min(1.0, *busiest + heldBack);
    return busiest;
}

std::multimap<std::string, std::string> addresses() {
    std::multimap<std::string, std::string> out;
    ifaddrs* list = nullptr;
    if (::getifaddrs(&list) != 0) return out;
    const std::unique_ptr<ifaddrs, decltype(&::freeifaddrs)> owner(list, &::freeifaddrs);
    for (const ifaddrs* at = list; at != nullptr; at = at->ifa_next) {
        if (at->ifa_addr == nullptr) continue;
        const auto family = at->ifa_addr->sa_family;
        if (family != AF_INET && family != AF_INET6) continue;
        Address address;
        address.length = family == AF_INET ? sizeof(sockaddr_in) : sizeof(sockaddr_in6);
        std::memcpy(&address.storage, at->ifa_addr, address.length);
        out.emplace(at->ifa_name, address.host());
    }
    return out;
}

std::string interfaceOf(const Address& local) {
    const auto all = addresses();
    const auto own = std::ranges::find(all, local.host(), [](const auto& one) { return one.second; });
    return own == all.end() ? std::string() : own->first;
}

double processSeconds() {
    return secondsOf(CLOCK_PROCESS_CPUTIME_ID);
}

std::optional<InterfaceReading> readInterface(const std::string& interface, bool sent,
                                              const std::filesystem::path& root) {
    // Unlike sysfs, this shows the network namespace of the process, wherever the file system was mounted.
    std::ifstream table(root / "proc/self/net/dev");
    for (std::string line; std::getline(table, line);) {
        const auto colon = line.find(':');
        if (colon == std::string::npos) continue;
        const auto begin = line.find_first_not_of(' ');
        if (interface.empty() || line.substr(begin, colon - begin) != interface) continue;
        std::istringstream fields(line.substr(colon + 1));
        // received: bytes packets errs drop fifo frame compressed multicast, then the same of what was sent
        std::array<std::uint64_t, 16> value{};
        for (std::uint64_t& one : value)
            if (!(fields >> one)) return std::nullopt;
        return InterfaceReading{value[sent ? 8 : 0], value[2] + value[3] + value[10] + value[11]};
    }
    return std::nullopt;
}

bool isRadio(const std::string& interface, const std::filesystem::path& root) {
    std::error_code error;
    const std::filesystem::path port = root / "sys/class/net" / interface;
    return std::filesystem::exists(port / "wireless", error) ||
           std::filesystem::exists(port / "phy80211", error);
}

bool hasCable(const std::filesystem::path& root) {
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(root / "sys/class/net", error)) {
        const std::string name = entry.path().filename();
        // Bridges and tunnels are no ports: those have a device behind them.
        if (name == "lo" || isRadio(name, root) || !std::filesystem::exists(entry.path() / "device", error))
            continue;
        std::ifstream carrier(entry.path() / "carrier");
        int up = 0;
        if (carrier >> up && up == 1) return true;
    }
    return false;
}

std::string interfaceTowards(const Address& peer) {
    // Connecting a datagram socket sends nothing; it only has the kernel choose the way.
    const Fd fd(::socket(peer.storage.ss_family, SOCK_DGRAM | SOCK_CLOEXEC, 0));
    if (!fd || ::connect(fd.get(), reinterpret_cast<const sockaddr*>(&peer.storage), peer.length) != 0)
        return {};
    return interfaceOf(localAddress(fd.get()));
}

std::optional<TcpFigures> tcpFigures(int fd) {
    tcp_info info{};
    socklen_t size = sizeof info;
    if (::getsockopt(fd, IPPROTO_TCP, TCP_INFO, &info, &size) != 0) return std::nullopt;
    TcpFigures out;
    out.rttUs = info.tcpi_rtt;
    out.windowBytes = static_cast<double>(info.tcpi_snd_cwnd) * info.tcpi_snd_mss;
    out.retransmits = info.tcpi_total_retrans;
    if (size >= offsetof(tcp_info, tcpi_sndbuf_limited) + sizeof info.tcpi_sndbuf_limited) {
        out.busyUs = info.tcpi_busy_time;
        out.receiverLimitedUs = info.tcpi_rwnd_limited;
        out.bufferLimitedUs = info.tcpi_sndbuf_limited;
    }
    return out;
}

std::optional<std::uint64_t> bytesReceived(int fd) {
    tcp_info info{};
    socklen_t size = sizeof info;
    if (::getsockopt(fd, IPPROTO_TCP, TCP_INFO, &info, &size) != 0 ||
        size < offsetof(tcp_info, tcpi_bytes_received) + sizeof info.tcpi_bytes_received)
        return std::nullopt;
    return info.tcpi_bytes_received;
}

} // namespace metrodos::probe
