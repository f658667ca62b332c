#include "probe/guest_remote.h"

#include "benchmark/run_json.h"
#include "probe/deadline.h"
#include "probe/guarded.h"
#include "probe/guest_messages.h"
#include "probe/tolerances.h"

#include <condition_variable>
#include <mutex>
#include <thread>

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using benchmark::Run;
using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::chrono::seconds answerTime{5};
constexpr std::chrono::seconds betweenQuestions{1};
// The device takes the order, opens its streams, and falls silent at the worst, before the agent says so.
constexpr std::chrono::seconds patience{25};
constexpr std::chrono::seconds endTime{2}; // after a stop: 200 ms, and the way there and back

} // namespace

struct RemoteGuest::Impl {
    std::string address;
    Connect connect;
    mutable std::mutex mutex;
    std::condition_variable_any wake;
    GuestState known;
    std::jthread asker; // last: it uses what stands above

    Result<void> ask(std::optional<EndpointLink>& link) {
        if (!link) {
            auto made = connect();
            if (!made) return tl::unexpected(made.error());
            link.emplace(std::move(*made));
        }
        const auto answer = link->ask({{"type", "guest"}}, "guest", answerTime);
        if (!answer) return tl::unexpected(answer.error());
        auto state = readGuestState(*answer);
        if (!state) return tl::unexpected(link->placed(state.error()));
        const std::lock_guard lock(mutex);
        known = std::move(*state);
        return {};
    }

    void keepAsking(const std::stop_token& stop) {
        std::optional<EndpointLink> link;
        while (!stop.stop_requested()) {
            const auto asked = ask(link);
            if (!asked) link.reset();
            std::unique_lock lock(mutex);
            if (!asked) {
                known.problem = asked.error().sentence();
                known.isPresent = false;
            }
            wake.wait_for(lock, stop, betweenQuestions, [] { return false; });
        }
    }
};

RemoteGuest::RemoteGuest(std::string address, Connect connect)
    : m_impl(std::make_unique<Impl>()) {
    m_impl->address = std::move(address);
    m_impl->connect = std::move(connect);
    m_impl->known.expiresIn = std::chrono::seconds(1); // nobody knows yet
    m_impl->asker =
        std::jthread(guarded([impl = m_impl.get()](const std::stop_token& stop) { impl->keepAsking(stop); }));
}

RemoteGuest::~RemoteGuest() = default;

GuestState RemoteGuest::state() const {
    const std::lock_guard lock(m_impl->mutex);
    return m_impl->known;
}

std::string RemoteGuest::servedBy() const {
    return m_impl->address;
}

namespace {

// What comes of the runs, until they are over.
class Listener {
  public:
    Listener(EndpointLink& link, std::vector<GuestLeg>& legs)
        : m_link(link)
        , m_legs(legs)
        , m_samples(legs.size()) {}

    Result<std::vector<Run>> listen(const std::stop_token& stop) {
        Deadline until(patience);
        bool isStopped = false;
        auto alive = Clock::now();
        while (!until.isOver()) {
            if (stop.stop_requested() && !isStopped) {
                isStopped = true;
                until = Deadline(endTime);
                (void)m_link.channel().send({{"type", "cancel"}});
            }
            if (Clock::now() - alive > std::chrono::seconds(1)) {
                alive = Clock::now();
                (void)m_link.channel().send({{"type", "alive"}, {"run", guestRunName}});
            }
            auto message = m_link.channel().receive(std::chrono::milliseconds(20));
            if (!message) return tl::unexpected(m_link.placed(message.error()));
            if (!*message) continue;
            if (!isStopped) until = Deadline(patience);
            auto runs = take(**message);
            if (!runs) return tl::unexpected(m_link.placed(runs.error()));
            if (*runs) return std::move(**runs);
        }
        return problem("it has fallen silent in the middle of the run", m_link.name(),
                       "check that it still runs and is connected");
    }

  private:
    // Nothing: they go on.
    Result<std::optional<std::vector<Run>>> take(const json& message) {
        const auto type = typeOf(message);
        if (!type) return tl::unexpected(type.error());
        if (*type == "problem") return tl::unexpected(readProblem(message));
        if (*type == "guest-started" || *type == "guest-sample") {
            const auto leg = reading([&] {
                return static_cast<std::size_t>(
                    fields::neededNumber(message, "leg", 0, static_cast<double>(m_legs.size() - 1)));
            });
            if (!leg) return tl::unexpected(leg.error());
            if (*type == "guest-started") return begin(*leg, message);
            return add(*leg, message);
        }
        if (*type == "guest-runs") return finish(message);
        return std::nullopt;
    }

    Result<std::optional<std::vector<Run>>> begin(std::size_t leg, const json& message) {
        auto run = benchmark::headFromJson(message.value("run", json::object()));
        if (!run) return tl::unexpected(run.error());
        if (m_legs[leg].observer.started) m_legs[leg].observer.started(withOrder(std::move(*run), leg));
        return std::nullopt;
    }

    Result<std::optional<std::vector<Run>>> add(std::size_t leg, const json& message) {
        auto sample = benchmark::sampleFromJson(message.value("sample", json::object()));
        if (!sample) return tl::unexpected(sample.error());
        if (m_samples[leg].size() > static_cast<std::size_t>(benchmark::sampleCount(benchmark::maxRun)))
            return problem("it sends more samples than were ordered");
        m_samples[leg].push_back(*sample);
        if (m_legs[leg].observer.sample) m_legs[leg].observer.sample(*sample);
        return std::nullopt;
    }

    Result<std::optional<std::vector<Run>>> finish(const json& message) {
        const json heads = message.value("runs", json::array());
        if (!heads.is_array() || heads.size() != m_legs.size())
            return problem("it tells of other runs than were ordered", "",
                           "use the same version of the program at both ends");
        std::vector<Run> out;
        for (std::size_t i = 0; i < heads.size(); ++i) {
            auto run = benchmark::headFromJson(heads[i]);
            if (!run) return tl::unexpected(run.error());
            run->samples = std::move(m_samples[i]);
            out.push_back(withOrder(std::move(*run), i));
        }
        return out;
    }

    // What was ordered is known here; the group is the agent's.
    Run withOrder(Run run, std::size_t leg) const {
        std::string group = run.config.group;
        run.config = m_legs[leg].config;
        run.config.group = std::move(group);
        run.simulated = false;
        return run;
    }

    EndpointLink& m_link;
    std::vector<GuestLeg>& m_legs;
    std::vector<std::vector<benchmark::Sample>> m_samples; // by leg
};

} // namespace

Result<std::vector<Run>> RemoteGuest::runAll(std::vector<GuestLeg>& legs, const std::stop_token& stop) {
    if (auto possible = checkGuestOrder(legs); !possible) return tl::unexpected(possible.error());
    auto link = m_impl->connect(); // of its own: the state is asked for meanwhile
    if (!link) return tl::unexpected(link.error());
    if (const auto sent = link->channel().send(guestOrder(legs)); !sent)
        return tl::unexpected(link->placed(sent.error()));
    return Listener(*link, legs).listen(stop);
}

} // namespace metrodos::probe
