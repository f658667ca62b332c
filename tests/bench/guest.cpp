// What the server of a guest carries to one plain client, against the least that can be done: a server that
// hands a file in memory to the kernel. Rates and processor time a byte, as ratios within one run.
#include "probe/counters.h"
#include "probe/guest_server.h"

#include <algorithm>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <sys/mman.h>
#include <sys/sendfile.h>
#include <sys/wait.h>
#include <unistd.h>

namespace {

using namespace metrodos;
using namespace metrodos::probe;

constexpr double seconds = 4;

std::string ask(int fd, const std::string& text) {
    (void)::send(fd, text.data(), text.size(), MSG_NOSIGNAL);
    std::string out;
    char buffer[4096];
    while (out.find("\r\n\r\n") == std::string::npos ||
           (out.find("{") == std::string::npos && out.starts_with("HTTP/1.1 200"))) {
        const ssize_t got = ::recv(fd, buffer, sizeof buffer, 0);
        if (got <= 0) break;
        out.append(buffer, static_cast<std::size_t>(got));
    }
    return out;
}

void drain(int fd) {
    std::vector<char> buffer(1U << 20U);
    while (::recv(fd, buffer.data(), buffer.size(), MSG_TRUNC) > 0) {
    }
}

// The device, in a process of its own.
[[noreturn]] void beDevice(const Address& to, const std::string& code) {
    const std::string host = "Host: " + to.text() + "\r\n";
    Fd work = std::move(*connectTo(to, std::chrono::seconds(2)));
    setBlocking(work.get(), true);
    const auto bodyOf = [](const std::string& answer) {
        return nlohmann::json::parse(answer.substr(answer.find("\r\n\r\n") + 4), nullptr, false);
    };
    const auto session = bodyOf(ask(work.get(), "POST /session HTTP/1.1\r\n" + host + "X-Code: " + code +
                                                    "\r\nContent-Length: 0\r\n\r\n"));
    const std::string mine = host + "X-Session: " + session.at("session").get<std::string>() + "\r\n";
    nlohmann::json run;
    while (!run.is_object())
        run = bodyOf(ask(work.get(), "GET /next HTTP/1.1\r\n" + mine + "\r\n")).at("run");
    Fd load = std::move(*connectTo(to, std::chrono::seconds(2)));
    setBlocking(load.get(), true);
    const std::string get =
        "GET /stream/" + run.at("stream").get<std::string>() + "/1 HTTP/1.1\r\n" + host + "\r\n";
    (void)::send(load.get(), get.data(), get.size(), MSG_NOSIGNAL);
    drain(load.get());
    ::_exit(0);
}

struct Figure {
    double bps = 0;
    double secondsPerByte = 0;
};

Figure ofGuest() {
    GuestSettings settings;
    settings.listen = "127.0.0.1:0";
    settings.page = "x";
    const auto server = std::move(GuestServer::start(settings).value());
    const pid_t child = ::fork();
    if (child == 0) beDevice(server->address(), server->state().code);
    while (!server->state().isPresent)
        ::usleep(1000);
    benchmark::RunConfig config;
    config.seconds = seconds;
    config.streams = 1;
    const double before = processSeconds();
    const auto run = server->run(config, {}, {});
    const double used = processSeconds() - before;
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, 0);
    return run ? Figure{run->goodput.bps(), used / (run->goodput.bps() * seconds / 8)} : Figure{};
}

Figure ofSendfile() {
    const Fd listener = std::move(*listenOn(numericAddress("127.0.0.1", 0).value()));
    const Address to = localAddress(listener.get());
    const pid_t child = ::fork();
    if (child == 0) {
        Fd load = std::move(*connectTo(to, std::chrono::seconds(2)));
        setBlocking(load.get(), true);
        drain(load.get());
        ::_exit(0);
    }
    const Fd peer(::accept(listener.get(), nullptr, nullptr));
    const Fd file(::memfd_create("noise", 0));
    const std::vector<char> block(8U << 20U, 'x');
    (void)!::write(file.get(), block.data(), block.size());
    const double before = processSeconds();
    const auto begin = std::chrono::steady_clock::now();
    std::uint64_t sent = 0;
    while (std::chrono::steady_clock::now() - begin < std::chrono::duration<double>(seconds)) {
        off_t at = 0;
        const ssize_t got = ::sendfile(peer.get(), file.get(), &at, block.size());
        if (got <= 0) break;
        sent += static_cast<std::uint64_t>(got);
    }
    const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    const double used = processSeconds() - before;
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, 0);
    return {static_cast<double>(sent) * 8 / took, used / static_cast<double>(sent)};
}

} // namespace

int main() {
    ignoreBrokenPipes();
    std::vector<double> rates;
    std::vector<double> costs;
    for (int i = 0; i < 5; ++i) {
        const Figure ours = ofGuest();
        const Figure least = ofSendfile();
        std::printf("guest %.2f Gbit/s, %.3f ns a byte; sendfile %.2f Gbit/s, %.3f ns a byte\n",
                    ours.bps / 1e9, ours.secondsPerByte * 1e9, least.bps / 1e9, least.secondsPerByte * 1e9);
        rates.push_back(ours.bps / least.bps);
        costs.push_back(ours.secondsPerByte / least.secondsPerByte);
    }
    std::sort(rates.begin(), rates.end());
    std::sort(costs.begin(), costs.end());
    std::printf("guest / sendfile, medians of five: rate %.2f (wanted 0.9), processor time a byte %.2f "
                "(wanted 1.2)\n",
                rates[2], costs[2]);
}
