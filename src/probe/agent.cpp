#include "probe/agent.h"
#include "probe/message_budget.h"
#include "probe/reception.h"
#include "probe/session.h"

#include <algorithm>
#include <list>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>
#include <spdlog/spdlog.h>
#include <thread>
#include <unistd.h>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;

constexpr std::size_t maxSessions = 16;
constexpr std::size_t maxSessionsOfOne = 12; // so that no machine shuts all others out
constexpr int maxAdmittedAtOnce = 16;        // then those who are in are looked at again
constexpr std::chrono::milliseconds longestWait{100};
constexpr std::chrono::seconds keysEvery{1}; // at the files of the keys

} // namespace

struct Agent::Impl {
    Impl(const AgentSettings& s, PerformerFactory f, Fd socket)
        : settings(s)
        , factory(std::move(f))
        , tls(s.keys)
        , listener(std::move(socket)) {}

    struct Guest {
        std::shared_ptr<Channel> channel;
        std::string network;
        std::shared_ptr<MessageBudget> budget;
        std::atomic<bool> done{false};
        std::thread thread;
    };

    AgentSettings settings;
    PerformerFactory factory;
    TlsContext tls;
    Fd listener;
    std::list<Guest> guests; // the acceptor's own until it has ended
    std::map<std::string, std::weak_ptr<MessageBudget>> budgets;
    std::atomic<bool> stop{false};
    std::thread acceptor;

    void work() {
        Reception reception(tls);
        auto looked = Clock::now();
        while (!stop.load()) {
            try {
                look(reception, looked);
            } catch (const std::exception& failure) {
                // No memory, most likely. Who waits now is sent away; sessions go on.
                spdlog::warn("the agent could not let somebody in: {}", failure.what());
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
            }
        }
    }

    void look(Reception& reception, Clock::time_point& looked) {
        auto outcome = reception.wait(listener.get(), longestWait);
        for (const std::string& named : outcome.refused)
            if (named == meetingIdentity && settings.meeting) settings.meeting->countWrongTry();
        reap();
        for (auto& channel : outcome.known)
            begin(std::move(channel));
        if (outcome.isKnocking) letIn(reception);
        if (settings.kept && Clock::now() - looked > keysEvery) {
            looked = Clock::now();
            settings.kept->refresh();
        }
    }

    void letIn(Reception& reception) {
        for (int i = 0; i < maxAdmittedAtOnce; ++i) {
            Fd fd(::accept4(listener.get(), nullptr, nullptr, SOCK_CLOEXEC));
            if (!fd) {
                // Out of descriptors, most likely: let the sessions that leave give some back.
                if (errno != EAGAIN && errno != EWOULDBLOCK && errno != ECONNABORTED && errno != EINTR)
                    std::this_thread::sleep_for(std::chrono::milliseconds(20));
                return;
            }
            if (mayReach(peerAddress(fd.get()), settings.allowed))
                reception.admit(std::move(fd));
            else
                spdlog::debug("a peer outside the allowed addresses was turned away");
        }
    }

    // Of somebody who has shown a key.
    void begin(std::unique_ptr<Channel> shown) {
        const std::shared_ptr<Channel> channel = std::move(shown);
        const auto refuse = [&](const char* why) {
            (void)channel->send(problemMessage({why, settings.name, "try again in a moment"}));
        };
        const auto peer = numericAddress(channel->peerHost(), 0);
        const std::string network = peer ? peer->network() : std::string();
        const auto ofThis =
            std::count_if(guests.begin(), guests.end(), [&](const Guest& g) { return g.network == network; });
        if (guests.size() >= maxSessions) return refuse("the agent is busy with others");
        if (static_cast<std::size_t>(ofThis) >= maxSessionsOfOne)
            return refuse("the agent has as many sessions with this machine as it takes");
        Guest& guest = guests.emplace_back();
        guest.channel = channel;
        guest.network = network;
        guest.budget = budgetOf(network);
        try {
            guest.thread = std::thread([this, &guest] { serve(guest); });
        } catch (const std::system_error&) {
            guests.pop_back();
            refuse("the agent's machine has no room for another session");
        }
    }

    std::shared_ptr<MessageBudget> budgetOf(const std::string& network) {
        std::erase_if(budgets, [](const auto& b) { return b.second.expired(); });
        auto budget = budgets[network].lock();
        if (!budget) {
            budget = std::make_shared<MessageBudget>();
            budgets[network] = budget;
        }
        return budget;
    }

    void serve(Guest& guest) {
        try {
            if (guest.channel->pairing() != nullptr) {
                if (settings.meeting) settings.meeting->serve(*guest.channel, settings.name);
            } else {
                serveCommander(guest);
            }
        } catch (const std::exception& failure) {
            spdlog::warn("a session has ended: {}", failure.what());
        }
        guest.channel->close();
        guest.done = true;
    }

    void serveCommander(Guest& guest) {
        const auto performer =
            factory([this](const Address& peer) { return mayReach(peer, settings.allowed); });
        const std::string identity = guest.channel->identity();
        SessionExtras extras;
        extras.guest = settings.guest.get();
        extras.schedules = settings.schedules.get();
        extras.kept = settings.kept.get();
        extras.right = [keys = settings.keys, identity] { return keys->rightOf(identity); };
        extras.budget = guest.budget.get();
        serveSession(*guest.channel, *performer, settings.name, stop, extras);
    }

    // Joins the threads that have left.
    void reap() {
        for (auto it = guests.begin(); it != guests.end();) {
            if (!it->done) {
                ++it;
                continue;
            }
            it->thread.join();
            it = guests.erase(it);
        }
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
    // No new guests come; each sees `stop` and leaves. A meeting waits for people.
    for (Impl::Guest& guest : m_impl->guests) {
        if (guest.channel->pairing() != nullptr) guest.channel->close();
        guest.thread.join();
    }
}

Address Agent::address() const {
    return localAddress(m_impl->listener.get());
}

} // namespace metrodos::probe
