#include "probe/meeting.h"

#include "probe/guarded.h"
#include "probe/message.h"
#include "probe/socket.h"
#include "probe/tls.h"
#include "probe/words.h"
#include "quantity/text.h"

#include <openssl/evp.h>

#include <condition_variable>

namespace metrodos::probe {
namespace {

namespace fields = quantity::fields;
using nlohmann::json;
using quantity::problem;
using quantity::Result;

constexpr std::chrono::seconds answerTime{5};
constexpr std::chrono::minutes timeToCompare{2};
constexpr int maxWrongTries = 10;
constexpr std::size_t maxNameSaid = 100; // bytes

Result<std::string> nameIn(const json& message) {
    return reading([&] { return quantity::oneLine(fields::neededText(message, "name", maxNameSaid)); });
}

// The next message, which must be of that type.
Result<json> receive(Channel& channel, const char* type, std::chrono::milliseconds limit) {
    auto message = channel.receive(limit);
    if (!message) return tl::unexpected(message.error());
    if (!*message) return problem("the other end says nothing", "", "try again");
    const auto said = typeOf(**message);
    if (!said) return tl::unexpected(said.error());
    if (*said == "problem") return tl::unexpected(readProblem(**message));
    if (*said != type)
        return problem("the other end has ended the meeting", "", "begin again with its new words");
    return std::move(**message);
}

} // namespace

MeetingCode MeetingCode::generate() {
    MeetingCode out;
    fillRandom(out.m_bits.data(), out.m_bits.size());
    return out;
}

Result<MeetingCode> MeetingCode::parse(std::string_view words) {
    const auto numbers = readWords(words, count);
    if (!numbers) return tl::unexpected(numbers.error());
    MeetingCode out;
    for (std::size_t bit = 0; bit < count * bitsOfWord; ++bit)
        if (((*numbers)[bit / bitsOfWord] >> (bitsOfWord - 1 - bit % bitsOfWord) & 1U) != 0)
            out.m_bits[bit / 8] = static_cast<std::uint8_t>(out.m_bits[bit / 8] | 0x80U >> bit % 8);
    return out;
}

std::string MeetingCode::words() const {
    return toWords(m_bits, count);
}

Credential MeetingCode::credential() const {
    Credential out;
    out.identity = meetingIdentity;
    std::string input = "metrodos meeting 1";
    input.append(reinterpret_cast<const char*>(m_bits.data()), m_bits.size());
    EVP_Digest(input.data(), input.size(), out.secret.data(), nullptr, EVP_sha256(), nullptr);
    return out;
}

struct Meeting::Impl {
    std::shared_ptr<KeyRing> ring;
    MeetingDesk desk;
    std::mutex mutex;
    std::condition_variable_any changed;
    MeetingCode code;
    bool isWanted = true; // a code; no longer once a key was kept
    bool isStale = true;  // the code
    int wrongTries = 0;
    std::jthread shower; // last: it uses what stands above

    // Shows a code, and a new one whenever the last is of no more use.
    void keepShowing(const std::stop_token& stop) {
        std::unique_lock lock(mutex);
        while (!stop.stop_requested() && isWanted) {
            code = MeetingCode::generate();
            isStale = false;
            wrongTries = 0;
            ring->setMeeting(code.credential());
            const MeetingCode shown = code;
            lock.unlock();
            desk.show(shown);
            lock.lock();
            changed.wait_for(lock, stop, desk.lifetime, [&] { return isStale || !isWanted; });
        }
        ring->setMeeting(std::nullopt);
    }

    void renew() {
        const std::lock_guard lock(mutex);
        isStale = true;
        changed.notify_all();
    }

    // Whether both have the key now.
    Result<void> lead(Channel& channel, const std::string& name) {
        const auto greeting = receive(channel, "meet", answerTime);
        if (!greeting) return tl::unexpected(greeting.error());
        const auto controller = nameIn(*greeting);
        if (!controller) return tl::unexpected(controller.error());
        if (auto sent = channel.send({{"type", "met"}, {"name", quantity::cutTo(name, maxNameSaid)}}); !sent)
            return sent;
        desk.met(channel.pairing()->words, *controller);
        if (const auto said = receive(channel, "keep", timeToCompare); !said)
            return tl::unexpected(said.error());
        if (auto kept = desk.keep(channel.pairing()->key, *controller); !kept) {
            (void)channel.send(problemMessage(kept.error()));
            return kept;
        }
        ring->add(channel.pairing()->key);
        (void)channel.send({{"type", "kept"}});
        return {};
    }
};

Meeting::Meeting(std::shared_ptr<KeyRing> ring, MeetingDesk desk)
    : m_impl(std::make_unique<Impl>()) {
    m_impl->ring = std::move(ring);
    m_impl->desk = std::move(desk);
}

void Meeting::open() {
    m_impl->shower = std::jthread(
        guarded([impl = m_impl.get()](const std::stop_token& stop) { impl->keepShowing(stop); }));
}

Meeting::~Meeting() = default;

void Meeting::serve(Channel& channel, const std::string& name) {
    {
        const std::lock_guard lock(m_impl->mutex);
        // The code is used up, whatever comes of it; of two at once only the first goes on.
        if (!m_impl->ring->endMeeting(m_impl->code.credential())) return channel.close();
    }
    const auto done = m_impl->lead(channel, name);
    channel.close();
    if (!done) return m_impl->renew();
    const std::lock_guard lock(m_impl->mutex);
    m_impl->isWanted = false;
    m_impl->changed.notify_all();
}

void Meeting::countWrongTry() {
    const std::lock_guard lock(m_impl->mutex);
    if (++m_impl->wrongTries < maxWrongTries) return;
    m_impl->isStale = true;
    m_impl->changed.notify_all();
}

Result<MeetingCall> MeetingCall::to(const std::string& address, const MeetingCode& code,
                                    const std::string& name) {
    const auto resolved = resolve(address);
    if (!resolved) return tl::unexpected(resolved.error());
    auto socket = connectTo(*resolved, answerTime);
    if (!socket) return tl::unexpected(socket.error());
    auto channel = TlsContext(code.credential()).connect(std::move(*socket), answerTime);
    if (!channel) return tl::unexpected(channel.error());
    if ((*channel)->pairing() == nullptr)
        return problem("no key could be made with the agent", address, "try again with its new words");
    MeetingCall out;
    out.m_channel = std::move(*channel);
    out.m_pairing = *out.m_channel->pairing();
    if (const auto sent =
            out.m_channel->send({{"type", "meet"}, {"name", quantity::cutTo(name, maxNameSaid)}});
        !sent)
        return tl::unexpected(sent.error());
    const auto answer = receive(*out.m_channel, "met", answerTime);
    if (!answer) return tl::unexpected(answer.error());
    auto agent = nameIn(*answer);
    if (!agent) return tl::unexpected(agent.error());
    out.m_agent = std::move(*agent);
    return out;
}

Result<void> MeetingCall::keep() {
    if (auto sent = m_channel->send({{"type", "keep"}}); !sent) return sent;
    const auto answer = receive(*m_channel, "kept", answerTime);
    m_channel->close();
    return answer ? Result<void>() : tl::unexpected(answer.error());
}

} // namespace metrodos::probe
