#include "probe/session.h"

#include "benchmark/run_parts.h"
#include "probe/peer_clock.h"
#include "probe/schedule_messages.h"
#include "quantity/text.h"

#include <algorithm>
#include <array>
#include <deque>
#include <thread>

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using Clock = std::chrono::steady_clock;
using nlohmann::json;
using quantity::Result;

constexpr std::chrono::seconds silenceInRun{3}; // a controller says "alive" every second
constexpr std::chrono::seconds silenceOutside{60};
constexpr std::chrono::milliseconds longestPause{50}; // between two messages of who says too much

// What one end of a run has to be told.
bool isOfRuns(const std::string& order) {
    constexpr std::array<std::string_view, 7> orders{"prepare", "join",  "idle", "start",
                                                     "cancel",  "alive", "clock"};
    return std::find(orders.begin(), orders.end(), order) != orders.end();
}

// Those that read the machine or write files take more of it than others.
bool isCostly(const std::string& order) {
    return order == "facts" || order == "guest" || order == "grant" || order == "file" ||
           order.starts_with("schedule-");
}

// Overwrites what may have been a key.
void wipeTexts(json& value) {
    if (value.is_string()) wipe(value.get_ref<std::string&>());
    if (value.is_structured())
        for (json& one : value)
            wipeTexts(one);
}

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
        while (!stop.load() && !m_isGone && mayStay()) {
            auto message = next();
            if (!message) break;
            const auto now = Clock::now();
            if (*message) {
                heard = now;
                const bool goesOn = carryOut(**message);
                wipeTexts(**message);
                if (!goesOn) break;
            }
            if (now - heard > silenceOutside) break;
            if ((m_inRun || m_guest.isRunning()) && now - m_runHeard > silenceInRun) break;
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
    // A key that was taken away ends what goes on with it.
    [[nodiscard]] bool mayStay() const { return !m_extras.right || m_extras.right().has_value(); }
    [[nodiscard]] bool mayCommand() const {
        return !m_extras.right || m_extras.right() == std::optional(Right::command);
    }

    // Whatever goes wrong in an order — no thread, no memory — is its answer, and the session goes on.
    bool carryOut(const json& message) {
        try {
            return handle(message);
        } catch (const std::exception& failure) {
            m_performer.cancel();
            setInRun(false);
            return refuse({std::string("the machine there could not do it: ") + failure.what(), m_name,
                           "try again; if it stays so, look at its memory and its limits"});
        }
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
        if (m_extras.budget != nullptr) {
            const auto pause = m_extras.budget->take(isCostly(*type) ? MessageBudget::ofFacts : 1);
            std::this_thread::sleep_for(std::min<Clock::duration>(pause, longestPause));
        }
        if (!m_greeted) return greet(*type, message);
        if (!isOfRuns(*type) && !mayCommand())
            return refuse({"the key that was shown lets its holder take part in runs only", m_name,
                           "use a key that may command this agent"});
        if (*type == "alive") return hearOfRun(message);
        if (*type == "facts") return reply({{"type", "facts"}, {"facts", m_performer.facts()}});
        if (*type == "file") return makeFile(message);
        if (*type == "prepare") return prepare(message);
        if (*type == "join") return join(message);
        if (*type == "idle") return idle();
        if (*type == "start") return start();
        if (*type == "forget") return forget(message);
        if (*type == "grant") return grant(message);
        if (*type == "clock")
            return reply({{"type", "clock"},
                          {"utc_s", m_extras.schedules ? m_extras.schedules->wallClock() : wallSeconds()}});
        if (type->starts_with("schedule-") && m_extras.schedules)
            return reply(answerSchedule(*m_extras.schedules, *type, message));
        if (*type == "guest") return m_guest.tell();
        if (*type == "guest-run") {
            m_runHeard = Clock::now();
            return m_guest.begin(message);
        }
        if (*type == "cancel") {
            m_performer.cancel();
            m_performer.dropFile();
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

    // A file is written for who may command only.
    [[nodiscard]] bool mayDo(const RunTask& task) const { return !task.onDisk || mayCommand(); }
    bool refuseFile() {
        return refuse({"the key that was shown lets its holder have no file written", m_name,
                       "use a key that may command this agent"});
    }

    bool makeFile(const json& message) {
        const auto order = readFileOrder(message);
        if (!order) return refuse(order.error());
        m_isCancelled = false;
        const auto made = m_performer.makeFile(*order, [this] { return isInterrupted(); });
        if (m_isCancelled || m_isGone) return !m_isGone;
        return made ? reply(toJson(*made)) : refuse(made.error());
    }

    bool prepare(const json& message) {
        const auto task = readTask(message);
        if (!task) return refuse(task.error());
        if (!mayDo(*task)) return refuseFile();
        const std::string host = m_channel.localHost();
        // In-process there is no address yet; the controller says at which one the other endpoint can reach
        // us.
        const auto named = reading([&] { return fields::neededText(message, "host", 256); });
        if (host.empty() && !named) return refuse(named.error());
        const auto target = m_performer.prepare(*task, host.empty() ? *named : host);
        if (!target) return refuse(target.error());
        m_run = task->run;
        json answer = toJson(*target);
        answer.update({{"type", "prepared"}, {"run", task->run}});
        return reply(answer);
    }

    bool join(const json& message) {
        const auto task = readTask(message);
        if (!task) return refuse(task.error());
        if (!mayDo(*task)) return refuseFile();
        const auto target = readTarget(message);
        if (!target) return refuse(target.error());
        m_isCancelled = false;
        const auto done = m_performer.join(*task, *target, [this] { return isInterrupted(); });
        if (m_isCancelled || m_isGone) return !m_isGone; // the order to cancel has its own answer
        if (!done) return refuse(done.error());
        m_run = task->run;
        return reply({{"type", "joined"}, {"run", task->run}});
    }

    bool idle() {
        m_isCancelled = false;
        const auto p = m_performer.idleDelay([this] { return isInterrupted(); });
        if (m_isCancelled || m_isGone) return !m_isGone;
        return reply({{"type", "idle"}, {"rtt_us", benchmark::toJson(p)}});
    }

    bool hearOfRun(const json& message) {
        const auto run = fields::ifSound([&] { return fields::text(message, "run", maxRunName); });
        if (run && !run->empty() && (*run == m_run || *run == guestRunName)) m_runHeard = Clock::now();
        return true;
    }

    // The key that was shown, or another one. Its sessions end.
    bool forget(const json& message) {
        if (m_extras.kept == nullptr)
            return refuse({"this endpoint keeps no keys", m_name, "remove the key at its machine"});
        const auto named = reading([&] { return fields::text(message, "identity", 64); });
        if (!named) return refuse(named.error());
        const std::string identity = named->empty() ? m_channel.identity() : *named;
        if (const auto forgotten = m_extras.kept->forget(identity); !forgotten)
            return refuse(forgotten.error());
        return reply({{"type", "forgotten"}});
    }

    bool grant(const json& message) {
        const auto asked = reading([&] {
            return std::pair(fields::word(message, "right", &right),
                             fields::neededText(message, "for", maxHolderBytes));
        });
        if (!asked) return refuse(asked.error());
        if (m_extras.kept == nullptr)
            return refuse({"this endpoint keeps no keys", m_name, "start its agent with --pairs"});
        const auto made = m_extras.kept->grant(asked->first, quantity::oneLine(asked->second));
        if (!made) return refuse(made.error());
        json answer{{"type", "granted"}, {"key", made->text()}};
        const bool isSent = reply(answer);
        wipeTexts(answer);
        return isSent;
    }

    bool start() {
        const auto started =
            m_performer.start([this](const json& event) { return m_channel.send(event).has_value(); });
        if (!started) return refuse(started.error());
        m_runHeard = Clock::now();
        setInRun(true);
        return true;
    }

    Channel& m_channel;
    Performer& m_performer;
    const std::string& m_name;
    const SessionExtras& m_extras;
    GuestSession m_guest;
    std::deque<json> m_waiting;
    std::string m_run; // that was opened last
    Clock::time_point m_runHeard = Clock::now();
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
