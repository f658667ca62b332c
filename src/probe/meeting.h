// The first meeting of a machine with a controller: eight words that one shows and the other is told, a key
// that is made for the two, and four words by which people see that both made the same.
//
// The eight words are 88 random bits, good for one meeting within ten minutes. They are the external
// pre-shared key of a TLS 1.3 handshake with a Diffie-Hellman exchange (psk_dhe_ke, RFC 8446, 2.2): who does
// not know them can neither take part nor stand between. The key of the pair is exported from that connection
// (RFC 8446, 7.5), so it never travels, and who learns the eight words later does not have it. Why not a
// shorter code with a password-authenticated exchange: of the libraries in the distribution that are fit for
// an agent of one file none offers one, and eight words are typed in a quarter of a minute.
#pragma once

#include "probe/channel.h"
#include "probe/key_ring.h"

#include <chrono>
#include <functional>
#include <memory>
#include <thread>

namespace metrodos::probe {

/// What is shown by the one and told to the other.
class MeetingCode {
  public:
    static constexpr std::size_t count = 8; ///< of words
    static MeetingCode generate();
    static quantity::Result<MeetingCode> parse(std::string_view words);

    [[nodiscard]] std::string words() const; ///< with blanks
    [[nodiscard]] Credential credential() const;

    friend bool operator==(const MeetingCode&, const MeetingCode&) = default;

  private:
    std::array<std::uint8_t, 11> m_bits{};
};

/// What both ends have made.
struct Pairing {
    Key key;
    std::string words; ///< four, the same at both ends
};

/// The agent's side: shows a code until somebody has met it, a new one after ten minutes, after ten wrong
/// tries, and after a meeting that came to nothing. What it calls comes from its own threads and those of the
/// agent.
struct MeetingDesk {
    std::function<void(const MeetingCode&)> show;
    /// Somebody is there: the four words, and what the controller calls itself.
    std::function<void(const std::string& words, const std::string& controller)> met;
    /// Both keep the key from now on.
    std::function<quantity::Result<void>(const Key&, const std::string& controller)> keep;
    std::chrono::seconds lifetime{600};
};

/// A meeting of an agent. Ends with the first key that was kept, or when destroyed.
class Meeting {
  public:
    Meeting(std::shared_ptr<KeyRing> ring, MeetingDesk desk);
    ~Meeting();
    Meeting(const Meeting&) = delete;
    Meeting& operator=(const Meeting&) = delete;

    /// Shows the first code. The agent listens already.
    void open();
    /// Leads one meeting over a channel that was opened on the code. `name`: what the agent is called.
    void serve(Channel& channel, const std::string& name);
    /// Somebody tried with other words.
    void countWrongTry();

  private:
    struct Impl;
    std::unique_ptr<Impl> m_impl;
};

/// The controller's side.
class MeetingCall {
  public:
    /// Meets the agent at `address`; `name` is what this controller calls itself there.
    static quantity::Result<MeetingCall> to(const std::string& address, const MeetingCode& code,
                                            const std::string& name);

    [[nodiscard]] const Pairing& pairing() const { return m_pairing; }
    [[nodiscard]] const std::string& agent() const { return m_agent; } ///< what it calls itself
    /// The agent keeps the key from now on; without this it forgets it.
    [[nodiscard]] quantity::Result<void> keep();

  private:
    MeetingCall() = default;
    std::unique_ptr<Channel> m_channel;
    Pairing m_pairing;
    std::string m_agent;
};

} // namespace metrodos::probe
