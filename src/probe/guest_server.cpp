#include "probe/guest_server.h"

#include "probe/counters.h"
#include "probe/deadline.h"
#include "probe/guarded.h"
#include "probe/guest_flow.h"
#include "probe/guest_policy.h"
#include "probe/guest_run.h"
#include "probe/http_connection.h"
#include "probe/key.h"
#include "probe/together.h"
#include "quantity/ascii.h"

#include <openssl/crypto.h>
#include <poll.h>

#include <algorithm>
#include <condition_variable>
#include <list>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <thread>

namespace metrodos::probe {
namespace {

using benchmark::Run;
using nlohmann::json;
using quantity::problem;
using quantity::Result;
using Clock = std::chrono::steady_clock;

constexpr std::size_t maxConnections = 32;
constexpr int maxWrongTries = 10;              // of one address, then the code is thrown away
constexpr std::chrono::seconds presence{6};    // since the device last asked for work
constexpr std::chrono::seconds waitForWork{2}; // that it is kept waiting for work
constexpr std::size_t portsForStreams = 2;     // besides that of the page

// As people type it: either case, with and without the hyphen, O for 0, I and L for 1.
std::string plainCode(std::string_view typed) {
    std::string out;
    for (const char c : typed.substr(0, 64)) {
        const char up = quantity::ascii::upper(c);
        if (up == '-' || up == ' ') continue;
        out += up == 'O' ? '0' : up == 'I' || up == 'L' ? '1' : up;
    }
    return out;
}

// In a time that does not tell how much of it is right.
bool isSame(const std::string& a, const std::string& b) {
    return a.size() == b.size() && CRYPTO_memcmp(a.data(), b.data(), a.size()) == 0;
}

// What the page shows when it is over.
json resultOf(const std::vector<Run>& runs, const std::vector<std::shared_ptr<GuestRun>>& mine) {
    json out = json::array();
    for (std::size_t i = 0; i < runs.size(); ++i)
        out.push_back({{"goodput_bps", runs[i].goodput.bps()},
                       {"download", mine[i]->sends()},
                       {"complete", runs[i].complete}});
    return out;
}

// The ports behind the first, so that a firewall can name them; any other where they are taken.
Result<Fd> listenBeside(const Address& first, std::size_t by) {
    const unsigned port = first.port() + static_cast<unsigned>(by);
    if (port <= 65535)
        if (const auto next = numericAddress(first.host(), static_cast<std::uint16_t>(port)))
            if (auto listener = listenOn(*next)) return listener;
    const auto any = numericAddress(first.host(), 0);
    return any ? listenOn(*any) : tl::unexpected(any.error());
}

} // namespace

std::string newGuestCode() {
    return randomLetters(4) + "-" + randomLetters(4);
}

struct GuestServer::Impl {
    GuestSettings settings;
    std::string code = newGuestCode();
    Deadline ends{Clock::time_point()};
    std::vector<Fd> listeners; // that of the page first
    std::vector<std::uint16_t> ports;
    Address bound;
    std::optional<GuestPolicy> policy;
    std::vector<std::string> own; // addresses of this machine
    std::atomic<bool> stop{false};
    std::atomic<bool> thrownAway{false};

    mutable std::mutex mutex;
    std::condition_variable work;
    std::string session;
    std::string sessionHost; // which may load the page anew
    Clock::time_point lastSeen;
    std::string medium;
    std::map<std::string, int> wrongTries;       // by address
    std::vector<std::shared_ptr<GuestRun>> runs; // of one group, at once
    std::string lastResult = "null";

    struct Worker {
        std::atomic<bool> done{false};
        std::thread thread;
    };
    std::list<Worker> workers;
    std::thread acceptor;

    [[nodiscard]] bool isOver() const { return thrownAway.load() || ends.isOver(); }

    // One for each address at which others reach this machine.
    [[nodiscard]] std::vector<std::string> urls() const {
        std::vector<std::string> out;
        const std::string any = bound.host();
        for (const std::string& host : policy->hosts()) {
            const bool isOne = any != "0.0.0.0" && any != "::";
            if (host.starts_with("localhost") || host.starts_with("0.0.0.0") || host.starts_with("[::]"))
                continue;
            if (isOne && !host.starts_with(any) && !host.starts_with("[" + any)) continue;
            if (!isOne &&
                (host.starts_with("127.") || host.starts_with("[::1]") || host.starts_with("[fe80")))
                continue;
            const std::string url = "http://" + host + "/" + code;
            if (std::find(out.begin(), out.end(), url) == out.end()) out.push_back(url);
        }
        return out;
    }

    // The listener at which somebody waits.
    [[nodiscard]] std::optional<int> nextCaller() const {
        std::vector<pollfd> all;
        for (const Fd& one : listeners)
            all.push_back({one.get(), POLLIN, 0});
        if (::poll(all.data(), all.size(), 100) <= 0) return std::nullopt;
        for (const pollfd& one : all)
            if ((one.revents & POLLIN) != 0) return one.fd;
        return std::nullopt;
    }

    void accept() {
        while (!stop.load()) {
            for (auto it = workers.begin(); it != workers.end();) {
                if (!it->done) {
                    ++it;
                    continue;
                }
                it->thread.join();
                it = workers.erase(it);
            }
            const auto ready = nextCaller();
            if (!ready) continue;
            Fd fd(::accept4(*ready, nullptr, nullptr, SOCK_CLOEXEC));
            if (!fd) {
                std::this_thread::sleep_for(std::chrono::milliseconds(20)); // out of descriptors, most likely
                continue;
            }
            if (workers.size() >= maxConnections || !mayBeGuest(peerAddress(fd.get()), settings.allowed, own))
                continue;
            Worker& worker = workers.emplace_back();
            const auto work = [this, &worker, socket = std::make_shared<Fd>(std::move(fd))] {
                HttpConnection connection(std::move(*socket), stop);
                while (const auto request = connection.read())
                    if (!serve(connection, *request)) break;
                worker.done = true;
            };
            try {
                worker.thread =
                    std::thread(guarded(work, [&worker](const std::string&) { worker.done = true; }));
            } catch (const std::system_error&) {
                workers.pop_back(); // its connection is closed: no room for it now
            }
        }
    }

    bool refuse(HttpConnection& c, int status, std::string_view why) const {
        return c.skipBody() && c.answer(status, "text/plain; charset=utf-8", why, policy->fields()) && false;
    }

    // False: the connection is at its end.
    bool serve(HttpConnection& c, const HttpRequest& r) {
        const std::uint16_t port = localAddress(c.fd()).port();
        if (const auto no = policy->refusal(r, port)) return refuse(c, no->status, no->why);
        const bool isGet = r.method == "GET";
        const std::string path = r.target.substr(0, r.target.find('?'));
        if (port == ports.front() && isGet && isPage(path))
            return c.answer(200, "text/html; charset=utf-8", settings.page, policy->pageFields(r));
        if (isOver()) return refuse(c, 410, "the code has ended");
        if (path.starts_with("/stream/"))
            return stream(c, r, path.substr(8),
                          port == ports.front() ? policy->fields() : policy->streamFields(r));
        if (r.method == "POST" && path == "/session") return openSession(c, r);
        if (isGet && path.starts_with("/ping/")) return ping(c, path);
        {
            const std::lock_guard lock(mutex);
            if (session.empty() || !isSame(r.session, session))
                return refuse(c, 403, "the session has ended");
            lastSeen = Clock::now();
        }
        if (isGet && path == "/next") return next(c);
        if (r.method == "POST" && path == "/medium") return takeMedium(c);
        if (r.method == "POST" && path == "/stop") {
            if (!c.skipBody()) return false;
            const std::lock_guard lock(mutex);
            for (const auto& run : runs)
                run->stopped = true;
            return c.answer(204, "", "", policy->fields());
        }
        return refuse(c, 404, "there is nothing here");
    }

    // The code may stand behind the address.
    static bool isPage(const std::string& path) {
        return path == "/" || (path.size() <= 16 && path.find('/', 1) == std::string::npos &&
                               plainCode(path.substr(1)).size() == 8);
    }

    bool openSession(HttpConnection& c, const HttpRequest& r) {
        if (!c.skipBody()) return false;
        std::unique_lock lock(mutex);
        if (!isSame(plainCode(r.code), plainCode(code))) {
            if (++wrongTries[c.peer().host()] >= maxWrongTries) thrownAway = true;
            lock.unlock();
            return c.answer(403, "text/plain; charset=utf-8", "the code is wrong", policy->fields());
        }
        if (!session.empty() && sessionHost != c.peer().host() && Clock::now() - lastSeen < presence) {
            lock.unlock();
            return c.answer(409, "text/plain; charset=utf-8", "another device uses this code",
                            policy->fields());
        }
        session = randomToken();
        sessionHost = c.peer().host();
        medium.clear();
        lastSeen = Clock::now();
        const std::string body = json{{"session", session}}.dump();
        lock.unlock();
        return c.answer(200, "application/json", body, policy->fields());
    }

    bool takeMedium(HttpConnection& c) {
        std::array<char, 16> text{};
        std::string said;
        while (said.size() < text.size()) {
            const auto got = c.readBody(text.data(), text.size());
            if (!got) return false;
            if (*got == 0) break;
            said.append(text.data(), *got);
        }
        if (!c.skipBody()) return false;
        const std::lock_guard lock(mutex);
        if (said == "cable" || said == "radio") medium = said;
        return c.answer(204, "", "", policy->fields());
    }

    // Work, or after a while that there is none. Runs at once are given one after the other.
    bool next(HttpConnection& c) {
        json out{{"run", nullptr}};
        {
            std::unique_lock lock(mutex);
            const auto waiting = [&] {
                return std::find_if(runs.begin(), runs.end(), [](const auto& r) { return !r->taken.load(); });
            };
            work.wait_for(lock, waitForWork, [&] { return stop.load() || waiting() != runs.end(); });
            lastSeen = Clock::now();
            out["last"] = json::parse(lastResult, nullptr, false);
            if (const auto it = waiting(); it != runs.end()) {
                (*it)->taken = true;
                out["run"] = order(**it, static_cast<std::size_t>(it - runs.begin()));
            }
        }
        return c.answer(200, "application/json", out.dump(), policy->fields());
    }

    [[nodiscard]] json order(const GuestRun& run, std::size_t index) const {
        std::size_t before = 0; // streams of the others of the group
        for (std::size_t i = 0; i < index; ++i)
            before += static_cast<std::size_t>(runs[i]->config.streams);
        json to = json::array();
        for (int i = 0; i < run.config.streams; ++i)
            to.push_back(portOfStream(before + static_cast<std::size_t>(i), ports));
        return {{"id", run.id},
                {"stream", run.streamToken},
                {"ping", run.pingToken},
                {"direction", run.sends() ? "download" : "upload"},
                {"streams", run.config.streams},
                {"ports", to},
                {"together", runs.size()},
                {"seconds", run.config.seconds}};
    }

    std::shared_ptr<GuestRun> runOf(const std::string& token, std::string GuestRun::*which) const {
        const std::lock_guard lock(mutex);
        for (const auto& run : runs)
            if (isSame((*run).*which, token)) return run;
        return nullptr;
    }

    bool ping(HttpConnection& c, const std::string& path) {
        if (!runOf(path.substr(6), &GuestRun::pingToken)) return refuse(c, 404, "the run has ended");
        std::vector<std::shared_ptr<GuestRun>> group;
        {
            const std::lock_guard lock(mutex);
            group = runs;
        }
        return answerPings(c, path, group, policy->fields());
    }

    bool stream(HttpConnection& c, const HttpRequest& r, const std::string& rest,
                const std::vector<std::string>& fields) {
        const auto mine = runOf(rest.substr(0, rest.find('/')), &GuestRun::streamToken);
        if (!mine || mine->over.load()) return c.skipBody() && c.answer(410, "text/plain", "", fields);
        if (r.method == "OPTIONS") return c.skipBody() && c.answer(204, "", "", fields); // may it ask at all
        return carryStream(c, *mine, rest.ends_with("/small"), fields, stop);
    }
};

GuestServer::GuestServer(std::unique_ptr<Impl> impl)
    : m_impl(std::move(impl)) {}

GuestServer::~GuestServer() {
    m_impl->stop = true;
    m_impl->work.notify_all();
    if (m_impl->acceptor.joinable()) m_impl->acceptor.join();
    for (Impl::Worker& worker : m_impl->workers)
        worker.thread.join();
}

Result<std::unique_ptr<GuestServer>> GuestServer::start(const GuestSettings& settings) {
    const auto address = resolve(settings.listen, guestPort, Names::refuse);
    if (!address) return tl::unexpected(address.error());
    auto listener = listenOn(*address);
    if (!listener) return tl::unexpected(listener.error());
    auto impl = std::make_unique<Impl>();
    impl->settings = settings;
    impl->listeners.push_back(std::move(*listener));
    impl->bound = localAddress(impl->listeners.front().get());
    for (std::size_t i = 1; i <= portsForStreams; ++i) {
        auto more = listenBeside(impl->bound, i);
        if (!more) return tl::unexpected(more.error());
        impl->listeners.push_back(std::move(*more));
    }
    for (const Fd& one : impl->listeners) {
        setBlocking(one.get(), false);
        impl->ports.push_back(localAddress(one.get()).port());
    }
    impl->ends = Deadline(settings.lifetime);
    std::vector<std::string> names{"localhost", impl->bound.host()};
    for (const auto& [interface, host] : addresses()) {
        names.push_back(host);
        impl->own.push_back(host);
    }
    impl->policy.emplace(settings.page, std::move(names), impl->ports);
    Impl* raw = impl.get();
    impl->acceptor = std::thread(guarded([raw] { raw->accept(); }));
    return std::unique_ptr<GuestServer>(new GuestServer(std::move(impl)));
}

Result<std::unique_ptr<GuestServer>> GuestServer::startAnywhere(GuestSettings settings) {
    if (auto server = start(settings)) return server;
    const auto address = resolve(settings.listen, guestPort, Names::refuse);
    if (!address) return tl::unexpected(address.error());
    const auto any = numericAddress(address->host(), 0);
    if (!any) return tl::unexpected(any.error());
    settings.listen = any->text();
    return start(settings);
}

Address GuestServer::address() const {
    return m_impl->bound;
}

GuestState GuestServer::state() const {
    GuestState out;
    out.urls = m_impl->urls();
    out.code = m_impl->code;
    if (!m_impl->isOver()) out.expiresIn = std::chrono::ceil<std::chrono::seconds>(m_impl->ends.left());
    const std::lock_guard lock(m_impl->mutex);
    out.isPresent = !m_impl->session.empty() && Clock::now() - m_impl->lastSeen < presence;
    out.medium = m_impl->medium;
    out.peer = m_impl->sessionHost;
    return out;
}

Result<std::vector<Run>> GuestServer::runAll(std::vector<GuestLeg>& legs, const std::stop_token& stop) {
    if (auto possible = checkGuestOrder(legs); !possible) return tl::unexpected(possible.error());
    const GuestState now = state();
    if (now.expiresIn.count() == 0)
        return problem("the code of the guest has ended", "", "make a new one and open it on the device");
    if (!now.isPresent)
        return problem("no device has opened the page", "", "open the address with its code on the device");
    std::vector<std::shared_ptr<GuestRun>> mine;
    for (const GuestLeg& leg : legs) {
        mine.push_back(std::make_shared<GuestRun>());
        mine.back()->config = leg.config;
    }
    {
        const std::lock_guard lock(m_impl->mutex);
        if (!m_impl->runs.empty())
            return problem("the guest is busy with another run", "", "wait until it has ended");
        m_impl->runs = mine;
    }
    m_impl->work.notify_all();
    auto runs = runTogether(
        legs.size(), stop,
        [&](std::size_t i, const std::string& group, const std::stop_token& own, Gate& gate) {
            mine[i]->config.group = group;
            return leadGuestRun(*mine[i], legs[i].observer, own, gate, [this] { return state().medium; });
        });
    const std::lock_guard lock(m_impl->mutex);
    m_impl->runs.clear();
    if (runs) m_impl->lastResult = resultOf(*runs, mine).dump();
    return runs;
}

} // namespace metrodos::probe
