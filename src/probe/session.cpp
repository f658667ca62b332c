#include "probe/session.h"

#include "benchmark/run_parts.h"
#include "probe/peer_clock.h"
#include "probe/schedule_messages.h"

#include <deque>

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::Result;

constexpr std::chrono::seconds silenceInRun{3}; // a controller says "alive" every second
constexpr std::chrono::seconds silenceOutside{60};

class Session {
  public:
    Session(Channel& channel, Performer& performer, const std::string& name, const SessionExtras& extras)
        : m_channel(channel)
        , m_performer(performer)
        , m_name(name)
        , m_extras(extras)
        , m_guest(channel, extras.guest) {}

    void serve(const std::atomic<bool>& stop) {
        auto heard = Clock::now();
        while (!stop.load() && !m_isGone) {
            auto message = next();
            if (!message) break;
            if (*message) {
                heard = Clock::now();
                if (!handle(**message)) break;
            } else if (Clock::now() - heard >
                       (m_inRun || m_guest.isRunning() ? silenceInRun : silenceOutside)) {
                break;
            }
        }
        m_performer.cancel();
        m_guest.cancel();
        setInRun(false);
        m_channel.close();
    }

  private:
    // What came while an order was carried out goes first.
    Result<std::optional<json>> next() {
        if (m_waiting.empty()) return m_channel.receive(std::chrono::milliseconds(100));
        std::optional<json> first = std::move(m_waiting.front());
        m_waiting.pop_front();
        return first;
    }
    // While something is opened: whether the controller has gone, or wants no more of it.
    bool isInterrupted() {
        constexpr std::size_t mostWaiting = 8;
        auto message = m_channel.receive(std::chrono::milliseconds(0));
        if (!message) return m_isGone = true;
        if (*message) {
            const auto type = typeOf(**message);
            m_isCancelled = m_isCancelled || (type && *type == "cancel");
            m_waiting.push_back(std::move(**message));
            if (m_waiting.size() > mostWaiting) m_isGone = true;
        }
        return m_isCancelled || m_isGone;
    }

    // Runs that the agent makes by itself wait meanwhile.
    void setInRun(bool inRun) {
        if (m_extras.schedules && inRun != m_inRun) m_extras.schedules->busy() += inRun ? 1 : -1;
        m_inRun = inRun;
    }
    bool reply(const json& message) { return m_channel.send(message).has_value(); }
    bool refuse(const quantity::Problem& problem) { return reply(problemMessage(problem)); }

    // False ends the session.
    bool handle(const json& message) {
        const auto type = typeOf(message);
        if (!type) {
            refuse(type.error());
            return false;
        }
        if (!m_greeted) return greet(*type, message);
        if (*type == "alive") return true;
        if (*type == "facts") return reply({{"type", "facts"}, {"facts", m_performer.facts()}});
        if (*type == "prepare") return prepare(message);
        if (*type == "join") return join(message);
        if (*type == "idle") return idle();
        if (*type == "start") return start();
        if (*type == "forget") return forget();
        if (*type == "clock")
            return reply({{"type", "clock"},
                          {"utc_s", m_extras.schedules ? m_extras.schedules->wallClock() : wallSeconds()}});
        if (type->starts_with("schedule-") && m_extras.schedules)
            return reply(answerSchedule(*m_extras.schedules, *type, message));
        if (*type == "guest") return m_guest.tell();
        if (*type == "guest-run") return m_guest.begin(message);
        if (*type == "cancel") {
            m_performer.cancel();
            m_guest.cancel();
            setInRun(false);
            return reply({{"type", "cancelled"}});
        }
        refuse({"the order “" + *type + "” is not known", m_name,
                "use the same version of the program at both ends"});
        return false;
    }

    bool greet(const std::string& type, const json& message) {
        const auto version =
            fields::ifSound([&] { return fields::neededNumber(message, "protocol", 0, 1e6); });
        if (type != "hello" || !version) {
            refuse({"the first message was not a greeting", m_name,
                    "use the same version of the program at both ends"});
            return false;
        }
        if (*version != protocolVersion) {
            const bool older = *version < protocolVersion;
            refuse({std::string("the application there speaks ") + (older ? "an older" : "a newer") +
                        " protocol",
                    m_name, older ? "update the application" : "update the agent"});
            return false;
        }
        m_greeted = true;
        return reply({{"type", "hello"},
                      {"protocol", protocolVersion},
                      {"name", m_name},
                      {"simulated", m_performer.simulated()}});
    }

    bool prepare(const json& message) {
        const auto task = readTask(message);
        if (!task) return refuse(task.error());
        const std::string host = m_channel.localHost();
        // In-process there is no address yet; the controller says at which one the other endpoint can reach
        // us.
        const auto named = reading([&] { return fields::neededText(message, "host", 256); });
        if (host.empty() && !named) return refuse(named.error());
        const auto target = m_performer.prepare(*task, host.empty() ? *named : host);
        if (!target) return refuse(target.error());
        json answer = toJson(*target);
        answer.update({{"type", "prepared"}, {"run", task->run}});
        return reply(answer);
    }

    bool join(const json& message) {
        const auto task = readTask(message);
        if (!task) return refuse(task.error());
        const auto target = readTarget(message);
        if (!target) return refuse(target.error());
        m_isCancelled = false;
        const auto done = m_performer.join(*task, *target, [this] { return isInterrupted(); });
        if (m_isCancelled || m_isGone) return !m_isGone; // the order to cancel has its own answer
        if (!done) return refuse(done.error());
        return reply({{"type", "joined"}, {"run", task->run}});
    }

    bool idle() {
        m_isCancelled = false;
        const auto p = m_performer.idleDelay([this] { return isInterrupted(); });
        if (m_isCancelled || m_isGone) return !m_isGone;
        return reply({{"type", "idle"}, {"rtt_us", benchmark::toJson(p)}});
    }

    bool forget() {
        if (!m_extras.forget)
            return refuse({"this agent has its key from a file", m_name, "remove the key there"});
        if (const auto forgotten = m_extras.forget(); !forgotten) return refuse(forgotten.error());
        return reply({{"type", "forgotten"}});
    }

    bool start() {
        const auto started =
            m_performer.start([this](const json& event) { return m_channel.send(event).has_value(); });
        if (!started) return refuse(started.error());
        setInRun(true);
        return true;
    }

    Channel& m_channel;
    Performer& m_performer;
    const std::string& m_name;
    const SessionExtras& m_extras;
    GuestSession m_guest;
    std::deque<json> m_waiting;
    bool m_isCancelled = false;
    bool m_isGone = false;
    bool m_greeted = false;
    bool m_inRun = false;
};

} // namespace

void serveSession(Channel& channel, Performer& performer, const std::string& name,
                  const std::atomic<bool>& stop, const SessionExtras& extras) {
    Session(channel, performer, name, extras).serve(stop);
}

} // namespace metrodos::probe
