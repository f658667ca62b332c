// Joins two TUN devices, one here and one in another network namespace, by a simulated medium: real TCP of
// the kernel over a link of known rate, delay, jitter, loss and duplex.
//
//   lab_wire NAMESPACE-FILE NEAR FAR [rate=BPS] [delay=S] [jitter=S] [loss=SHARE] [queue=BYTES] [half]
//   [seed=N]
//
// Prints "ready" when both devices are there and runs until its input ends.
#include "standin/wire_model.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <fcntl.h>
#include <linux/if.h>
#include <linux/if_tun.h>
#include <map>
#include <poll.h>
#include <queue>
#include <sched.h>
#include <string>
#include <string_view>
#include <sys/ioctl.h>
#include <sys/prctl.h>
#include <unistd.h>
#include <vector>

namespace {

using metrodos::standin::WireModel;
using metrodos::standin::WireSettings;

[[noreturn]] void fail(const char* what) {
    std::fprintf(stderr, "lab_wire: %s: %s\n", what, std::strerror(errno));
    std::exit(1);
}

double now() {
    timespec t{};
    ::clock_gettime(CLOCK_MONOTONIC, &t);
    return static_cast<double>(t.tv_sec) + static_cast<double>(t.tv_nsec) * 1e-9;
}

int openTun(const char* name) {
    const int fd = ::open("/dev/net/tun", O_RDWR | O_NONBLOCK | O_CLOEXEC);
    if (fd < 0) fail("/dev/net/tun");
    ifreq request{};
    request.ifr_flags = IFF_TUN | IFF_NO_PI;
    std::string_view(name).copy(request.ifr_name, IFNAMSIZ - 1);
    if (::ioctl(fd, TUNSETIFF, &request) != 0) fail(name);
    return fd;
}

struct Packet {
    double due = 0;
    std::uint64_t number = 0; // of equal times the earlier one first
    int towards = 0;
    std::vector<char> bytes;
    bool operator>(const Packet& other) const {
        return due != other.due ? due > other.due : number > other.number;
    }
};

WireSettings settingsOf(int argc, char** argv) {
    WireSettings s;
    for (int i = 4; i < argc; ++i) {
        const std::string_view word = argv[i];
        const auto equals = word.find('=');
        const std::string_view key = word.substr(0, equals);
        const double value = equals == std::string_view::npos ? 0 : std::atof(argv[i] + equals + 1);
        if (key == "rate")
            s.bps = value;
        else if (key == "delay")
            s.delaySeconds = value;
        else if (key == "jitter")
            s.jitterSeconds = value;
        else if (key == "loss")
            s.lossRatio = value;
        else if (key == "queue")
            s.queueBytes = value;
        else if (key == "seed")
            s.seed = static_cast<std::uint64_t>(value);
        else if (key == "half")
            s.halfDuplex = true;
        else
            fail("unknown word");
    }
    return s;
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 4) fail("NAMESPACE-FILE NEAR FAR");
    const int home = ::open("/proc/self/ns/net", O_RDONLY | O_CLOEXEC);
    const int other = ::open(argv[1], O_RDONLY | O_CLOEXEC);
    if (home < 0 || other < 0) fail(argv[1]);
    std::array<int, 2> tun{};
    tun[0] = openTun(argv[2]);
    if (::setns(other, CLONE_NEWNET) != 0) fail("setns");
    tun[1] = openTun(argv[3]);
    if (::setns(home, CLONE_NEWNET) != 0) fail("setns");
    ::prctl(PR_SET_TIMERSLACK, 1000UL);
    WireModel model(settingsOf(argc, argv));
    std::puts("ready");
    std::fflush(stdout);

    std::map<std::uint64_t, std::vector<char>> waiting; // by number, until the model has sent them
    std::priority_queue<Packet, std::vector<Packet>, std::greater<>> flying;
    std::uint64_t number = 0;
    std::array<char, 65536> buffer{};
    std::array<pollfd, 3> waits{pollfd{tun[0], POLLIN, 0}, pollfd{tun[1], POLLIN, 0}, pollfd{0, POLLIN, 0}};
    for (;;) {
        double wake = now() + 0.05;
        if (!flying.empty()) wake = std::min(wake, flying.top().due);
        if (const auto next = model.next()) wake = std::min(wake, *next);
        const double left = std::max(wake - now(), 0.0);
        const timespec wait{0, static_cast<long>(left * 1e9)};
        if (::ppoll(waits.data(), waits.size(), &wait, nullptr) < 0 && errno != EINTR) fail("poll");
        if (waits[2].revents != 0 && ::read(0, buffer.data(), buffer.size()) <= 0) return 0;
        for (int side = 0; side < 2; ++side)
            for (int burst = 0; burst < 64; ++burst) {
                const auto n = ::read(tun[static_cast<std::size_t>(side)], buffer.data(), buffer.size());
                if (n <= 0) break;
                if (model.enter(side, static_cast<std::size_t>(n), ++number, now()))
                    waiting[number].assign(buffer.data(), buffer.data() + n);
            }
        for (const WireModel::Arrival& a : model.advance(now())) {
            auto packet = waiting.extract(a.number);
            if (a.at) flying.push({*a.at, a.number, 1 - a.direction, std::move(packet.mapped())});
        }
        while (!flying.empty() && flying.top().due <= now()) {
            const Packet& packet = flying.top();
            (void)!::write(tun[static_cast<std::size_t>(packet.towards)], packet.bytes.data(),
                           packet.bytes.size());
            flying.pop();
        }
    }
}
