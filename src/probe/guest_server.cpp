#include "probe/guest_server.h"

#include "catalog/load.h"
#include "probe/counters.h"
#include "probe/guest_run.h"
#include "probe/http_connection.h"
#include "probe/key.h"
#include "probe/load.h"

#include <openssl/crypto.h>
#include <openssl/evp.h>

#include <algorithm>
#include <condition_variable>
#include <fstream>
#include <list>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <sstream>
#include <thread>

namespace metrodos::probe {
namespace {

using benchmark::Direction;
using benchmark::Run;
using nlohmann::json;
using quantity::problem;
using quantity::Result;
using Clock = std::chrono::steady_clock;

constexpr std::size_t maxConnections = 32;
constexpr int maxWrongTries = 10;              // of one address, then the code is thrown away
constexpr std::size_t blockBytes = 1U << 20U;  // sent or read at a time
constexpr std::size_t smallLoad = 8U << 20U;   // of one answer to a browser that cannot read while it loads
constexpr std::chrono::seconds presence{6};    // since the device last asked for work
constexpr std::chrono::seconds waitForWork{2}; // that it is kept waiting for work
constexpr std::chrono::milliseconds betweenPings{20};

// As people type it: either case, with and without the hyphen, O for 0, I and L for 1.
std::string plainCode(std::string_view typed) {
    std::string out;
    for (const char c : typed.substr(0, 64)) {
        const char up = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
        if (up == '-' || up == ' ') continue;
        out += up == 'O' ? '0' : up == 'I' || up == 'L' ? '1' : up;
    }
    return out;
}

// In a time that does not tell how much of it is right.
bool isSame(const std::string& a, const std::string& b) {
    return a.size() == b.size() && CRYPTO_memcmp(a.data(), b.data(), a.size()) == 0;
}

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

std::vector<std::string> strictFields(const std::string& page) {
    return {"Content-Security-Policy: default-src 'none'; script-src " +
                hashOf(page, "<script>", "</script>") + "; style-src " + hashOf(page, "<style>", "</style>") +
                "; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
            "X-Content-Type-Options: nosniff",
            "Referrer-Policy: no-referrer",
            "Cache-Control: no-store",
            "Cross-Origin-Resource-Policy: same-origin",
            "Cross-Origin-Opener-Policy: same-origin"};
}

} // namespace

Result<std::string> guestPage() {
    const auto folder = catalog::dataFolder();
    if (!folder) return tl::unexpected(folder.error());
    const auto file = *folder / "guest" / "page.html";
    std::ifstream stream(file, std::ios::binary);
    std::ostringstream text;
    text << stream.rdbuf();
    if (!stream || text.str().empty())
        return problem("the page for the guest is missing", file.string(), "install metrodos whole");
    return text.str();
}

std::string newGuestCode() {
    return randomLetters(4) + "-" + randomLetters(4);
}

struct GuestServer::Impl {
    GuestSettings settings;
    std::string code = newGuestCode();
    Clock::time_point ends;
    Fd listener;
    Address bound;
    std::vector<std::string> fields;
    std::vector<std::string> own;   // addresses of this machine
    std::vector<std::string> hosts; // that a request may name, with the port
    std::atomic<bool> stop{false};
    std::atomic<bool> thrownAway{false};

    mutable std::mutex mutex;
    std::condition_variable work;
    std::string session;
    std::string sessionHost; // which may load the page anew
    Clock::time_point lastSeen;
    std::string medium;
    std::map<std::string, int> wrongTries; // by address
    std::shared_ptr<GuestRun> run;
    std::string lastResult = "null";

    struct Worker {
        std::atomic<bool> done{false};
        std::thread thread;
    };
    std::list<Worker> workers;
    std::thread acceptor;

    [[nodiscard]] bool isOver() const { return thrownAway.load() || Clock::now() >= ends; }

    [[nodiscard]] bool mayConnect(const Address& peer) const {
        const auto isOwn = [&] { // whatever kind of address this machine has
            const std::string host = peer.host();
            return std::find(own.begin(), own.end(), host) != own.end();
        };
        return peer.isNearby() || isOwn() ||
               std::any_of(settings.allowed.begin(), settings.allowed.end(),
                           [&](const AddressRange& r) { return r.contains(peer); });
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
            if (!waitFor(listener.get(), false, std::chrono::milliseconds(100))) continue;
            Fd fd(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
            if (!fd) {
                std::this_thread::sleep_for(std::chrono::milliseconds(20)); // out of descriptors, most likely
                continue;
            }
            if (workers.size() >= maxConnections || !mayConnect(peerAddress(fd.get()))) continue;
            Worker& worker = workers.emplace_back();
            worker.thread = std::thread([this, &worker, socket = std::make_shared<Fd>(std::move(fd))] {
                HttpConnection connection(std::move(*socket), stop);
                while (const auto request = connection.read())
                    if (!serve(connection, *request)) break;
                worker.done = true;
            });
        }
    }

    bool refuse(HttpConnection& c, int status, std::string_view why) const {
        return c.skipBody() && c.answer(status, "text/plain; charset=utf-8", why, fields) && false;
    }

    // False: the connection is at its end.
    bool serve(HttpConnection& c, const HttpRequest& r) {
        // Neither a name that somebody made point here (rebinding) nor a page of somebody else.
        if (std::find(hosts.begin(), hosts.end(), r.host) == hosts.end())
            return refuse(c, 421, "open the address as it is shown");
        if (!r.origin.empty() && r.origin != "http://" + r.host) return refuse(c, 403, "not from there");
        if (!r.fetchSite.empty() && r.fetchSite != "same-origin" && r.fetchSite != "none")
            return refuse(c, 403, "not from there");
        const bool isGet = r.method == "GET";
        const std::string path = r.target.substr(0, r.target.find('?'));
        if (isGet && (path == "/" || (path.size() <= 16 && path.find('/', 1) == std::string::npos &&
                                      plainCode(path.substr(1)).size() == 8)))
            return c.answer(200, "text/html; charset=utf-8", settings.page, fields);
        if (isOver()) return refuse(c, 410, "the code has ended");
        if (r.method == "POST" && path == "/session") return openSession(c, r);
        if (path.starts_with("/stream/")) return stream(c, r, path.substr(8));
        if (isGet && path.starts_with("/ping/")) return ping(c, path.substr(6));
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
            if (run) run->stopped = true;
            return c.answer(204, "", "", fields);
        }
        return refuse(c, 404, "there is nothing here");
    }

    bool openSession(HttpConnection& c, const HttpRequest& r) {
        if (!c.skipBody()) return false;
        std::unique_lock lock(mutex);
        if (!isSame(plainCode(r.code), plainCode(code))) {
            if (++wrongTries[c.peer().host()] >= maxWrongTries) thrownAway = true;
            lock.unlock();
            return c.answer(403, "text/plain; charset=utf-8", "the code is wrong", fields);
        }
        if (!session.empty() && sessionHost != c.peer().host() && Clock::now() - lastSeen < presence) {
            lock.unlock();
            return c.answer(409, "text/plain; charset=utf-8", "another device uses this code", fields);
        }
        session = randomToken();
        sessionHost = c.peer().host();
        medium.clear();
        lastSeen = Clock::now();
        const std::string body = json{{"session", session}}.dump();
        lock.unlock();
        return c.answer(200, "application/json", body, fields);
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
        return c.answer(204, "", "", fields);
    }

    // Work, or after a while that there is none.
    bool next(HttpConnection& c) {
        json out{{"run", nullptr}};
        {
            std::unique_lock lock(mutex);
            work.wait_for(lock, waitForWork, [&] { return stop.load() || (run && !run->taken.load()); });
            lastSeen = Clock::now();
            out["last"] = json::parse(lastResult, nullptr, false);
            if (run && !run->taken.exchange(true))
                out["run"] = {{"id", run->id},
                              {"stream", run->streamToken},
                              {"ping", run->pingToken},
                              {"direction", run->sends() ? "download" : "upload"},
                              {"streams", run->config.streams},
                              {"seconds", run->config.seconds}};
        }
        return c.answer(200, "application/json", out.dump(), fields);
    }

    std::shared_ptr<GuestRun> runOf(const std::string& token, std::string GuestRun::*which) const {
        const std::lock_guard lock(mutex);
        return run && isSame((*run).*which, token) ? run : nullptr;
    }

    // The delay of a small request, by this side's clock: from an answer to the next request, the browser's
    // turn included.
    bool ping(HttpConnection& c, const std::string& token) {
        const auto mine = runOf(token, &GuestRun::pingToken);
        if (!mine) return refuse(c, 404, "the run has ended");
        Clock::time_point answered;
        while (true) {
            std::this_thread::sleep_for(betweenPings); // here, so that no timer of a browser is in the figure
            if (mine->over.load() || !c.answer(204, "", "", fields)) return false;
            answered = Clock::now();
            const auto again = c.read();
            if (!again || again->target != "/ping/" + token) return false;
            const double us = std::chrono::duration<double, std::micro>(Clock::now() - answered).count();
            const std::lock_guard lock(mine->mutex);
            mine->pingsUs.push_back(us);
        }
    }

    bool stream(HttpConnection& c, const HttpRequest& r, const std::string& rest) {
        const std::string token = rest.substr(0, rest.find('/'));
        const auto mine = runOf(token, &GuestRun::streamToken);
        if (!mine || mine->over.load()) return c.skipBody() && c.answer(410, "text/plain", "", fields);
        GuestRun::Stream* own = nullptr;
        {
            const std::lock_guard lock(mine->mutex);
            const auto open = std::count_if(mine->streams.begin(), mine->streams.end(),
                                            [](const GuestRun::Stream& s) { return s.fd >= 0; });
            if (open >= mine->config.streams) return refuse(c, 409, "all streams are open");
            own = &mine->streams.emplace_back();
            own->fd = c.fd();
        }
        while (!mine->go.load() && !mine->over.load() && !stop.load())
            std::this_thread::sleep_for(std::chrono::microseconds(500));
        const bool goesOn =
            mine->sends() ? download(c, *mine, *own, rest.ends_with("/small")) : upload(c, *mine, *own);
        mine->close(*own);
        (void)r;
        return goesOn;
    }

    // To its end, or a finite piece after another for browsers that only see a whole answer.
    bool download(HttpConnection& c, GuestRun& mine, GuestRun::Stream& own, bool small) {
        static const std::vector<unsigned char> block = [] {
            std::vector<unsigned char> out(blockBytes);
            fillPayload(out, 7);
            return out;
        }();
        std::vector<std::string> head = fields;
        if (small) {
            std::string start = "HTTP/1.1 200 OK\r\n";
            for (const std::string& f : fields)
                start += f + "\r\n";
            start +=
                "Content-Type: application/octet-stream\r\nContent-Length: " + std::to_string(smallLoad) +
                "\r\n\r\n";
            if (!c.send(start.data(), start.size())) return false;
        } else if (!c.beginEndless(head)) {
            return false;
        }
        std::uint64_t sent = 0;
        while (!mine.over.load() && (!small || sent < smallLoad)) {
            // Small enough that the end of the run is seen while the kernel's buffer is full.
            const std::size_t size =
                std::min<std::size_t>(block.size(), small ? smallLoad - sent : block.size());
            const ssize_t got = ::send(c.fd(), block.data(), size, MSG_NOSIGNAL);
            if (got > 0) {
                sent += static_cast<std::uint64_t>(got);
                own.bytes.fetch_add(static_cast<std::uint64_t>(got));
                continue;
            }
            if (got < 0 && errno != EAGAIN && errno != EINTR) return false;
            (void)waitFor(c.fd(), true, std::chrono::milliseconds(50));
            if (stop.load()) return false;
        }
        if (mine.over.load()) resetOnClose(c.fd()); // what is queued is of no more use
        return small && !mine.over.load();
    }

    bool upload(HttpConnection& c, GuestRun& mine, GuestRun::Stream& own) {
        std::vector<unsigned char> drop(blockBytes);
        while (!mine.over.load()) {
            const auto got = c.readBody(drop.data(), drop.size());
            if (!got) return false;
            if (*got == 0) return c.answer(204, "", "", fields); // and the next piece
            own.bytes.fetch_add(*got);
        }
        resetOnClose(c.fd());
        return false;
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
    const auto address = resolve(settings.listen, 47720, Names::refuse);
    if (!address) return tl::unexpected(address.error());
    auto listener = listenOn(*address);
    if (!listener) return tl::unexpected(listener.error());
    auto impl = std::make_unique<Impl>();
    impl->settings = settings;
    impl->listener = std::move(*listener);
    setBlocking(impl->listener.get(), false);
    impl->bound = localAddress(impl->listener.get());
    impl->ends = Clock::now() + settings.lifetime;
    impl->fields = strictFields(settings.page);
    const std::string port = ":" + std::to_string(impl->bound.port());
    const auto named = [&](const std::string& host) {
        impl->hosts.push_back((host.find(':') == std::string::npos ? host : "[" + host + "]") + port);
    };
    named("localhost");
    named(impl->bound.host());
    for (const auto& [interface, host] : addresses()) {
        named(host);
        impl->own.push_back(host);
    }
    Impl* raw = impl.get();
    impl->acceptor = std::thread([raw] { raw->accept(); });
    return std::unique_ptr<GuestServer>(new GuestServer(std::move(impl)));
}

const std::string& GuestServer::code() const {
    return m_impl->code;
}

Address GuestServer::address() const {
    return m_impl->bound;
}

std::vector<std::string> GuestServer::urls() const {
    std::vector<std::string> out;
    const std::string any = m_impl->bound.host();
    for (const std::string& host : m_impl->hosts) {
        const bool isOne = any != "0.0.0.0" && any != "::";
        if (host.starts_with("localhost") || host.starts_with("0.0.0.0") || host.starts_with("[::]"))
            continue;
        if (isOne && !host.starts_with(any) && !host.starts_with("[" + any)) continue;
        if (!isOne && (host.starts_with("127.") || host.starts_with("[::1]") || host.starts_with("[fe80")))
            continue;
        const std::string url = "http://" + host + "/" + m_impl->code;
        if (std::find(out.begin(), out.end(), url) == out.end()) out.push_back(url);
    }
    return out;
}

std::chrono::seconds GuestServer::expiresIn() const {
    if (m_impl->isOver()) return std::chrono::seconds(0);
    return std::chrono::ceil<std::chrono::seconds>(m_impl->ends - Clock::now());
}

bool GuestServer::isPresent() const {
    const std::lock_guard lock(m_impl->mutex);
    return !m_impl->session.empty() && Clock::now() - m_impl->lastSeen < presence;
}

std::string GuestServer::medium() const {
    const std::lock_guard lock(m_impl->mutex);
    return m_impl->medium;
}

Result<Run> GuestServer::run(const benchmark::RunConfig& config, const RunObserver& observer,
                             const std::stop_token& stop) {
    if (config.protocol != benchmark::Protocol::tcp || config.streams < 1 || config.streams > maxGuestStreams)
        return problem("a browser carries 1 to 4 streams of TCP", "", "choose streams, at most four");
    if (expiresIn() == std::chrono::seconds(0))
        return problem("the code of the guest has ended", "", "make a new one and open it on the device");
    if (!isPresent())
        return problem("no device has opened the page", "", "open the address with its code on the device");
    const auto mine = std::make_shared<GuestRun>();
    mine->config = config;
    {
        const std::lock_guard lock(m_impl->mutex);
        if (m_impl->run) return problem("the guest is busy with another run", "", "wait until it has ended");
        m_impl->run = mine;
    }
    m_impl->work.notify_all();
    auto run = leadGuestRun(*mine, observer, stop, [this] { return medium(); });
    const std::lock_guard lock(m_impl->mutex);
    m_impl->run.reset();
    if (run)
        m_impl->lastResult = json{
            {"goodput_bps", run->goodput.bps()},
            {"download", mine->sends()},
            {"complete",
             run->complete}}.dump();
    return run;
}

} // namespace metrodos::probe
