#include "probe/guest_server.h"

#include "benchmark/statistics.h"
#include "benchmark/summary.h"
#include "catalog/load.h"
#include "probe/counters.h"
#include "probe/http_connection.h"
#include "probe/load.h"
#include "probe/run_stamp.h"

#include <linux/sockios.h>
#include <openssl/crypto.h>
#include <openssl/evp.h>
#include <openssl/rand.h>
#include <sys/ioctl.h>

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
constexpr std::chrono::seconds takeUp{10};     // until the device has opened its streams
constexpr std::chrono::milliseconds betweenPings{20};
constexpr std::string_view alphabet = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"; // Crockford base32

std::string randomToken() {
    std::array<unsigned char, 16> bits{};
    RAND_bytes(bits.data(), static_cast<int>(bits.size()));
    std::string out;
    for (const unsigned char b : bits) {
        out += alphabet[b & 31U];
        out += alphabet[(b >> 3U) & 31U];
    }
    return out;
}

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
    std::array<unsigned char, 8> bits{};
    RAND_bytes(bits.data(), static_cast<int>(bits.size()));
    std::string out;
    for (const unsigned char b : bits) {
        if (out.size() == 4) out += '-';
        out += alphabet[b & 31U];
    }
    return out;
}

// A run that the device has been given, shared by the threads of its connections.
struct GuestRun {
    std::string id = randomToken();
    std::string streamToken = randomToken();
    std::string pingToken = randomToken();
    benchmark::RunConfig config;
    std::atomic<bool> taken{false};   ///< the device has it
    std::atomic<bool> go{false};      ///< the streams may carry
    std::atomic<bool> over{false};    ///< they shall end
    std::atomic<bool> stopped{false}; ///< by the device

    struct Stream {
        int fd = -1; ///< −1: it has ended
        std::atomic<std::uint64_t> bytes{0};
        std::uint64_t acknowledged = 0; ///< the last known, once it has ended
    };
    std::mutex mutex; ///< of what follows
    std::list<Stream> streams;
    std::vector<double> pingsUs;
    std::uint64_t retransmits = 0; ///< of streams that have ended
    double busyUs = 0;
    double receiverUs = 0;
    double bufferUs = 0;

    [[nodiscard]] bool sends() const { return config.direction == Direction::forward; }

    // What the far kernel has acknowledged, or what has arrived here.
    std::uint64_t moved() {
        const std::lock_guard lock(mutex);
        std::uint64_t out = 0;
        for (Stream& s : streams) {
            if (s.fd >= 0) s.acknowledged = bytesOf(s);
            out += s.acknowledged;
        }
        return out;
    }
    [[nodiscard]] std::uint64_t bytesOf(const Stream& s) const {
        const std::uint64_t handed = s.bytes.load();
        if (!sends()) return handed;
        int queued = 0;
        if (::ioctl(s.fd, SIOCOUTQ, &queued) != 0) return s.acknowledged;
        return handed - std::min<std::uint64_t>(handed, static_cast<std::uint64_t>(std::max(queued, 0)));
    }
    void close(Stream& s) {
        const std::lock_guard lock(mutex);
        s.acknowledged = bytesOf(s);
        if (const auto tcp = tcpFigures(s.fd)) {
            retransmits += tcp->retransmits;
            busyUs += static_cast<double>(tcp->busyUs);
            receiverUs += static_cast<double>(tcp->receiverLimitedUs);
            bufferUs += static_cast<double>(tcp->bufferLimitedUs);
        }
        s.fd = -1;
    }
};

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

namespace {

std::optional<benchmark::Percentiles> percentiles(const std::vector<double>& us) {
    if (us.size() < 3) return std::nullopt;
    return benchmark::Percentiles{benchmark::quantile(us, 0.5), benchmark::quantile(us, 0.95),
                                  benchmark::quantile(us, 0.99), *std::max_element(us.begin(), us.end())};
}

} // namespace

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
    const auto leave = [&] {
        mine->over = true;
        mine->go = true;
        const std::lock_guard lock(m_impl->mutex);
        m_impl->run.reset();
    };
    const auto open = [&] {
        const std::lock_guard lock(mine->mutex);
        return static_cast<int>(std::count_if(mine->streams.begin(), mine->streams.end(),
                                              [](const GuestRun::Stream& s) { return s.fd >= 0; }));
    };
    // The device takes it, sends its small requests for a while, and opens its streams.
    const auto patience = Clock::now() + takeUp;
    while (open() < config.streams) {
        if (stop.stop_requested() || mine->stopped.load() || Clock::now() >= patience) {
            const bool wasStopped = stop.stop_requested() || mine->stopped.load();
            leave();
            return problem(
                wasStopped ? "the run was stopped before it began" : "the device did not open its streams",
                "", wasStopped ? "start it again" : "keep the page in front on the device and try again");
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
    }
    Run run;
    run.id = newRunId();
    run.startedAt = utcNow();
    run.config = config;
    {
        const std::lock_guard lock(mine->mutex);
        run.rttIdleUs = percentiles(mine->pingsUs);
        mine->pingsUs.clear();
    }
    CpuMeter cpu;
    (void)cpu.busiestCore();
    const double processBefore = processSeconds();
    std::string interface;
    {
        const std::lock_guard lock(mine->mutex);
        interface = interfaceOf(localAddress(mine->streams.front().fd));
    }
    const auto interfaceBefore = readInterface(interface, mine->sends());
    if (observer.started) observer.started(run);
    mine->go = true;
    // From the first byte on.
    const auto firstBy = Clock::now() + takeUp;
    while (mine->moved() == 0 && !stop.stop_requested() && !mine->stopped.load() && Clock::now() < firstBy)
        std::this_thread::sleep_for(std::chrono::microseconds(300));
    const auto begin = Clock::now();
    const auto step =
        std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(benchmark::sampleSeconds));
    std::uint64_t before = mine->moved();
    double last = 0;
    double busiest = 0;
    std::size_t pingsSeen = 0;
    const int wanted = benchmark::sampleCount(config.seconds);
    auto silentSince = Clock::now();
    for (int n = 1; n <= wanted; ++n) {
        const auto due = begin + step * n;
        while (Clock::now() < due && !stop.stop_requested() && !mine->stopped.load())
            std::this_thread::sleep_for(
                std::min<Clock::duration>(due - Clock::now(), std::chrono::milliseconds(20)));
        if (stop.stop_requested() || mine->stopped.load()) {
            run.complete = false;
            break;
        }
        benchmark::Sample s;
        s.t = std::chrono::duration<double>(Clock::now() - begin).count();
        const std::uint64_t now = mine->moved();
        s.goodputBps = static_cast<double>(now - std::min(now, before)) * 8 / (s.t - last);
        if (now > before) silentSince = Clock::now();
        {
            const std::lock_guard lock(mine->mutex);
            double rtt = 0;
            double window = 0;
            std::uint64_t lost = mine->retransmits;
            int counted = 0;
            for (const GuestRun::Stream& one : mine->streams)
                if (const auto tcp = one.fd >= 0 ? tcpFigures(one.fd) : std::nullopt) {
                    rtt += tcp->rttUs;
                    window += tcp->windowBytes;
                    lost += tcp->retransmits;
                    ++counted;
                }
            if (mine->sends() && counted > 0) {
                s.tcpRttUs = rtt / counted;
                s.windowBytes = window;
                s.retransmits = lost;
            }
            if (mine->pingsUs.size() > pingsSeen) {
                const std::vector<double> fresh(
                    mine->pingsUs.begin() + static_cast<std::ptrdiff_t>(pingsSeen), mine->pingsUs.end());
                s.rttUs = benchmark::quantile(fresh, 0.5);
                pingsSeen = mine->pingsUs.size();
            }
        }
        const auto core = cpu.busiestCore();
        (mine->sends() ? s.cpuSender : s.cpuReceiver) = core;
        busiest = std::max(busiest, core.value_or(0));
        before = now;
        last = s.t;
        run.samples.push_back(s);
        if (observer.sample) observer.sample(s);
        // A device that has gone to sleep or left the network.
        if (Clock::now() - silentSince > std::chrono::seconds(5)) {
            run.complete = false;
            break;
        }
    }
    const double seconds = std::chrono::duration<double>(Clock::now() - begin).count();
    const double process = (processSeconds() - processBefore) / std::max(seconds, 0.1);
    const auto interfaceAfter = readInterface(interface, mine->sends());
    leave();
    // The streams close by themselves; their last figures are wanted.
    const auto gone = Clock::now() + std::chrono::milliseconds(150);
    while (open() > 0 && Clock::now() < gone)
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
    run.seconds = run.samples.empty() ? 0 : run.samples.back().t;
    {
        const std::lock_guard lock(mine->mutex);
        run.rttLoadedUs = percentiles(mine->pingsUs);
        if (mine->sends()) {
            run.retransmits = mine->retransmits;
            if (mine->busyUs > 0) {
                const double receiver = std::min(mine->receiverUs / mine->busyUs, 1.0);
                const double buffer = std::min(mine->bufferUs / mine->busyUs, 1.0 - receiver);
                run.senderLimited = benchmark::SenderLimited{1 - receiver - buffer, receiver, buffer};
            }
        }
    }
    (mine->sends() ? run.cpuSender : run.cpuReceiver) = busiest;
    (mine->sends() ? run.cpuProcessSender : run.cpuProcessReceiver) = process;
    if (interfaceBefore && interfaceAfter)
        (mine->sends() ? run.interfaceSender : run.interfaceReceiver) = benchmark::InterfaceCount{
            interface, interfaceAfter->bytes - interfaceBefore->bytes,
            interfaceAfter->errors - interfaceBefore->errors, isRadio(interface), hasCable()};
    // What the device says of its own side: over radio the run tells of the air (bytes: what was moved).
    if (medium() == "radio")
        (mine->sends() ? run.interfaceReceiver : run.interfaceSender) =
            benchmark::InterfaceCount{"the device", mine->moved(), {}, true};
    if (run.samples.empty())
        return problem("nothing was carried", "", "keep the page in front on the device and try again");
    benchmark::finish(run);
    {
        const std::lock_guard lock(m_impl->mutex);
        m_impl->lastResult =
            json{{"goodput_bps", run.goodput.bps()}, {"download", mine->sends()}, {"complete", run.complete}}
                .dump();
    }
    return run;
}

} // namespace metrodos::probe
