#include "probe/agent.h"
#include "probe/session.h"
#include "probe/tls.h"

#include <algorithm>
#include <list>
#include <mutex>
#include <nlohmann/json.hpp>
#include <spdlog/spdlog.h>
#include <thread>
#include <unistd.h>

namespace metrodos::probe {
namespace {

constexpr std::size_t maxStrangers = 64; // connections that have not shown the key yet
constexpr std::size_t maxSessions = 16;
constexpr std::size_t maxThreads = 4 * maxStrangers; // those that are leaving included
constexpr std::chrono::seconds handshakeLimit{5};

} // namespace

struct Agent::Impl {
    Impl(const AgentSettings& s, PerformerFactory f, Fd socket)
        : settings(s)
        , factory(std::move(f))
        , tls(s.keys)
        , listener(std::move(socket)) {}

    struct Guest {
        int duplicate = -1;     // a second descriptor of the socket, to end the connection from outside
        bool known = false;     // has shown the key
        bool dismissed = false; // had to make room; its thread is leaving
        std::atomic<bool> done{false};
        std::thread thread;
    };

    AgentSettings settings;
    PerformerFactory factory;
    TlsContext tls;
    Fd listener;
    std::mutex mutex;
    std::list<Guest> guests;
    std::atomic<bool> stop{false};
    std::thread acceptor;

    [[nodiscard]] bool mayConnect(const Address& peer) const {
        return peer.isNearby() ||
               std::any_of(settings.allowed.begin(), settings.allowed.end(),
                           [&](const AddressRange& range) { return range.contains(peer); });
    }

    void work() {
        while (!stop.load()) {
            if (reap() >= maxThreads) {
                // Newcomers wait in the kernel's queue until those that were dismissed have left.
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
                continue;
            }
            if (!waitFor(listener.get(), false, std::chrono::milliseconds(100))) continue;
            Fd fd(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
            if (!fd) {
                // Out of descriptors, most likely: let the sessions that leave give some back.
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
                continue;
            }
            if (!mayConnect(peerAddress(fd.get()))) {
                spdlog::debug("a peer outside the allowed addresses was turned away");
                continue;
            }
            admit(std::move(fd));
        }
    }

    void admit(Fd fd) {
        const std::lock_guard lock(mutex);
        const auto isStranger = [](const Guest& g) { return !g.known && !g.dismissed && !g.done; };
        const auto strangers = std::count_if(guests.begin(), guests.end(), isStranger);
        if (static_cast<std::size_t>(strangers) >= maxStrangers) {
            const auto oldest = std::find_if(guests.begin(), guests.end(), isStranger);
            oldest->dismissed = true;
            ::shutdown(oldest->duplicate, SHUT_RDWR);
        }
        Guest& guest = guests.emplace_back();
        guest.duplicate = ::dup(fd.get());
        guest.thread = std::thread([this, &guest, socket = std::make_shared<Fd>(std::move(fd))] {
            serve(guest, std::move(*socket));
        });
    }

    void serve(Guest& guest, Fd fd) {
        std::string named;
        auto channel = tls.accept(std::move(fd), handshakeLimit, &named);
        if (!channel) {
            spdlog::debug("{}", channel.error().sentence());
            if (named == meetingIdentity && settings.meeting) settings.meeting->countWrongTry();
        } else if ((*channel)->pairing() != nullptr) {
            if (settings.meeting) settings.meeting->serve(**channel, settings.name);
        } else if (!makeKnown(guest)) {
            (void)(*channel)->send(
                problemMessage({"the agent is busy with others", settings.name, "try again in a moment"}));
        } else {
            const auto performer = factory([this](const Address& peer) { return mayConnect(peer); });
            SessionExtras extras{settings.guest.get(), {}, settings.schedules.get()};
            if (settings.forget)
                extras.forget = [this, identity = (*channel)->identity()]() -> quantity::Result<void> {
                    if (auto forgotten = settings.forget(identity); !forgotten) return forgotten;
                    settings.keys->remove(identity);
                    return {};
                };
            serveSession(**channel, *performer, settings.name, stop, extras);
        }
        guest.done = true;
    }

    bool makeKnown(Guest& guest) {
        const std::lock_guard lock(mutex);
        const auto known =
            std::count_if(guests.begin(), guests.end(), [](const Guest& g) { return g.known && !g.done; });
        if (static_cast<std::size_t>(known) >= maxSessions) return false;
        return guest.known = true;
    }

    // Joins the threads that have left and returns how many remain.
    std::size_t reap() {
        const std::lock_guard lock(mutex);
        for (auto it = guests.begin(); it != guests.end();) {
            if (!it->done) {
                ++it;
                continue;
            }
            it->thread.join();
            ::close(it->duplicate);
            it = guests.erase(it);
        }
        return guests.size();
    }
};

quantity::Result<std::unique_ptr<Agent>> Agent::start(const AgentSettings& settings,
                                                      PerformerFactory factory) {
    const auto address = resolve(settings.listen);
    if (!address) return tl::unexpected(address.error());
    auto listener = listenOn(*address);
    if (!listener) return tl::unexpected(listener.error());
    setBlocking(listener->get(), false);
    auto impl = std::make_unique<Impl>(settings, std::move(factory), std::move(*listener));
    Impl* raw = impl.get();
    impl->acceptor = std::thread([raw] { raw->work(); });
    return std::unique_ptr<Agent>(new Agent(std::move(impl)));
}

Agent::Agent(std::unique_ptr<Impl> impl)
    : m_impl(std::move(impl)) {}

Agent::~Agent() {
    m_impl->stop = true;
    m_impl->acceptor.join();
    {
        const std::lock_guard lock(m_impl->mutex);
        for (const Impl::Guest& guest : m_impl->guests)
            if (!guest.known) ::shutdown(guest.duplicate, SHUT_RDWR);
    }
    // No new guests come; each sees `stop` or its closed socket and leaves.
    for (Impl::Guest& guest : m_impl->guests) {
        guest.thread.join();
        ::close(guest.duplicate);
    }
}

Address Agent::address() const {
    return localAddress(m_impl->listener.get());
}

} // namespace metrodos::probe
