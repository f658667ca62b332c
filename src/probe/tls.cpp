// Both ends know 128 random bits before they meet; from those TLS derives the keys of a connection. They are
// the external pre-shared key of RFC 8446, 4.2.11: the client names it by its identity, and proves in
// its first message that it has it by a binder, an HMAC over that message. A Diffie-Hellman exchange is mixed
// in (psk_dhe_ke), so that whoever records a connection and learns the key later still cannot read it.
// OpenSSL takes such a key as a session that was never opened, with the cipher whose hash goes with it
// (SHA-256). Why no certificates: there is nobody in a house to issue them, and one that is accepted unseen
// keeps nobody out; and the older kind of pre-shared key in TLS 1.2 has no exchange mixed in. A stranger
// costs one key exchange and ends as a handshake that failed; the guess is one in 2^128.
#include "probe/tls.h"

#include "probe/deadline.h"
#include "probe/meeting.h"
#include "probe/words.h"

#include <atomic>
#include <cerrno>
#include <cstring>
#include <mutex>
#include <openssl/err.h>
#include <openssl/ssl.h>
#include <stdexcept>

namespace metrodos::probe {
namespace {

using nlohmann::json;
using quantity::problem;

constexpr std::chrono::seconds sendLimit{5};

using SslPointer = std::unique_ptr<SSL, decltype(&SSL_free)>;
using Secret = SecretBytes<unsigned char, 32>;

// What a context's callbacks look keys up in; lives as long as the context.
struct Keys {
    std::optional<Credential> own;       // offered by a client, accepted by a server
    std::shared_ptr<const KeyRing> ring; // accepted by a server; nullptr: its own only

    [[nodiscard]] std::optional<Credential> find(std::string_view identity) const {
        if (ring) return ring->find(identity);
        return own && own->identity == identity ? own : std::nullopt;
    }
};

SSL_SESSION* sessionFor(SSL* ssl, const Secret& secret) {
    static constexpr unsigned char aes128GcmSha256[] = {0x13, 0x01};
    const SSL_CIPHER* cipher = SSL_CIPHER_find(ssl, aes128GcmSha256);
    SSL_SESSION* session = SSL_SESSION_new();
    if (session == nullptr || cipher == nullptr ||
        SSL_SESSION_set1_master_key(session, secret.data(), secret.size()) != 1 ||
        SSL_SESSION_set_cipher(session, cipher) != 1 ||
        SSL_SESSION_set_protocol_version(session, TLS1_3_VERSION) != 1) {
        SSL_SESSION_free(session);
        return nullptr;
    }
    return session;
}

const Keys& keysOf(SSL* ssl) {
    return *static_cast<const Keys*>(SSL_CTX_get_app_data(SSL_get_SSL_CTX(ssl)));
}
// The identity that was named in a handshake, while it goes on.
std::string& namedIn(SSL* ssl) {
    return *static_cast<std::string*>(SSL_get_app_data(ssl));
}

int offerSession(SSL* ssl, const EVP_MD*, const unsigned char** id, std::size_t* length,
                 SSL_SESSION** session) {
    const auto& own = keysOf(ssl).own;
    if (!own) return 0;
    namedIn(ssl) = own->identity;
    *id = reinterpret_cast<const unsigned char*>(own->identity.data());
    *length = own->identity.size();
    *session = sessionFor(ssl, own->secret);
    return *session != nullptr ? 1 : 0;
}

int findSession(SSL* ssl, const unsigned char* id, std::size_t length, SSL_SESSION** session) {
    *session = nullptr;
    const std::string_view identity(reinterpret_cast<const char*>(id), length);
    if (const auto known = keysOf(ssl).find(identity)) {
        namedIn(ssl) = known->identity;
        *session = sessionFor(ssl, known->secret);
    }
    return 1; // without a session the handshake fails for want of a certificate
}

// The key of the pair and the words to compare, from the secrets of this very connection (RFC 8446, 7.5).
std::optional<Pairing> exportPairing(SSL* ssl) {
    constexpr std::string_view keyLabel = "EXPORTER-metrodos-pair";
    constexpr std::string_view wordsLabel = "EXPORTER-metrodos-words";
    constexpr std::size_t comparedWords = 4;
    std::array<std::uint8_t, 16> key{};
    std::array<std::uint8_t, 6> words{}; // 44 bits of 48
    if (SSL_export_keying_material(ssl, key.data(), key.size(), keyLabel.data(), keyLabel.size(), nullptr, 0,
                                   0) != 1 ||
        SSL_export_keying_material(ssl, words.data(), words.size(), wordsLabel.data(), wordsLabel.size(),
                                   nullptr, 0, 0) != 1)
        return std::nullopt;
    return Pairing{Key(key), toWords(words, comparedWords)};
}

/// One TLS connection. OpenSSL objects are not for two threads at once, so calls take the lock and never
/// block inside it.
class TlsChannel final : public Channel {
  public:
    TlsChannel(Fd socket, SslPointer ssl, std::string identity)
        : m_socket(std::move(socket))
        , m_ssl(std::move(ssl))
        , m_local(localAddress(m_socket.get()).host())
        , m_peer(peerAddress(m_socket.get()).host())
        , m_identity(std::move(identity)) {
        if (m_identity == meetingIdentity) m_pairing = exportPairing(m_ssl.get());
    }
    ~TlsChannel() override {
        TlsChannel::close();
        wipe(m_buffer);
    }

    quantity::Result<void> send(const json& message) override {
        std::string body = message.dump(-1, ' ', false, json::error_handler_t::replace);
        const WipedAtEnd wiped(body); // some carry a key
        if (body.size() > maxMessage) return problem("a message was too large to send");
        std::string bytes(4, '\0');
        const WipedAtEnd wipedToo(bytes);
        bytes.reserve(bytes.size() + body.size());
        for (std::size_t i = 0; i < 4; ++i)
            bytes[i] = static_cast<char>((body.size() >> (24 - 8 * i)) & 0xffU);
        bytes += body;
        const std::lock_guard sending(m_sending); // whole messages, in order
        const Deadline end(sendLimit);
        std::size_t done = 0;
        while (done < bytes.size()) {
            std::size_t step = 0;
            int want = 0;
            {
                const std::lock_guard lock(m_mutex);
                if (m_closed) return closed();
                ERR_clear_error();
                const int ok = SSL_write_ex(m_ssl.get(), bytes.data() + done, bytes.size() - done, &step);
                if (ok != 1) want = SSL_get_error(m_ssl.get(), ok);
            }
            done += step;
            if (want == 0) continue;
            if ((want != SSL_ERROR_WANT_READ && want != SSL_ERROR_WANT_WRITE) || !wait(want, end)) {
                close();
                return problem("the other end does not take messages any more", m_peer,
                               "check the connection and try again");
            }
        }
        return {};
    }

    quantity::Result<std::optional<json>> receive(std::chrono::milliseconds limit) override {
        for (const Deadline end(limit);;) {
            if (auto whole = takeMessage(); !whole || *whole) return whole;
            std::array<char, 16384> chunk{};
            std::size_t step = 0;
            int want = 0;
            {
                const std::lock_guard lock(m_mutex);
                if (m_closed) return closed();
                ERR_clear_error();
                const int ok = SSL_read_ex(m_ssl.get(), chunk.data(), chunk.size(), &step);
                if (ok != 1) want = SSL_get_error(m_ssl.get(), ok);
            }
            append({chunk.data(), step});
            OPENSSL_cleanse(chunk.data(), step);
            if (want == 0) continue;
            if (want != SSL_ERROR_WANT_READ && want != SSL_ERROR_WANT_WRITE) {
                close();
                return closed();
            }
            if (!wait(want, end)) return std::nullopt;
        }
    }

    void close() override {
        const std::lock_guard lock(m_mutex);
        if (m_closed) return;
        m_closed = true;
        SSL_shutdown(m_ssl.get());
        ::shutdown(m_socket.get(), SHUT_RDWR); // wakes whoever waits in poll
    }

    [[nodiscard]] std::string localHost() const override { return m_local; }
    [[nodiscard]] std::string peerHost() const override { return m_peer; }
    [[nodiscard]] std::string identity() const override { return m_identity; }
    [[nodiscard]] const Pairing* pairing() const override { return m_pairing ? &*m_pairing : nullptr; }

  private:
    [[nodiscard]] tl::unexpected<quantity::Problem> closed() const {
        return problem("the other end has closed the connection", m_peer, "check that it still runs");
    }

    bool wait(int want, const Deadline& end) const {
        return !end.isOver() && waitFor(m_socket.get(), want == SSL_ERROR_WANT_WRITE, end.left());
    }

    // Where the text has to move, its old place is wiped.
    void append(std::string_view bytes) {
        if (m_buffer.capacity() < m_buffer.size() + bytes.size()) {
            std::string larger;
            larger.reserve(2 * (m_buffer.size() + bytes.size()));
            larger += m_buffer;
            wipe(m_buffer);
            m_buffer.swap(larger);
        }
        m_buffer += bytes;
    }

    quantity::Result<std::optional<json>> takeMessage() {
        if (m_buffer.size() < 4) return std::nullopt;
        std::size_t size = 0;
        for (std::size_t i = 0; i < 4; ++i)
            size = (size << 8) | static_cast<unsigned char>(m_buffer[i]);
        if (size == 0 || size > maxMessage) {
            close();
            return problem("a message was longer than allowed", m_peer,
                           "use the same version of the program at both ends");
        }
        if (m_buffer.size() < 4 + size) return std::nullopt;
        auto message = parseMessage(std::string_view(m_buffer).substr(4, size));
        std::string rest = m_buffer.substr(4 + size);
        wipe(m_buffer);
        m_buffer.swap(rest);
        if (!message) {
            close();
            return tl::unexpected(message.error());
        }
        return std::move(*message);
    }

    Fd m_socket;
    std::mutex m_mutex;   // the SSL object
    std::mutex m_sending; // one message at a time
    SslPointer m_ssl;
    bool m_closed = false;
    std::string m_buffer; // only for the receiving thread
    std::string m_local;
    std::string m_peer;
    std::string m_identity;
    std::optional<Pairing> m_pairing;
};

} // namespace

struct Handshake::Impl {
    Impl(Fd connected, SslPointer object, bool listens)
        : socket(std::move(connected))
        , ssl(std::move(object))
        , peer(peerAddress(socket.get()))
        , isServer(listens) {
        SSL_set_app_data(ssl.get(), &named);
        isServer ? SSL_set_accept_state(ssl.get()) : SSL_set_connect_state(ssl.get());
    }

    [[nodiscard]] quantity::Result<Wants> step() {
        ERR_clear_error();
        const int ok = SSL_do_handshake(ssl.get());
        if (ok != 1) {
            const int want = SSL_get_error(ssl.get(), ok);
            if (want == SSL_ERROR_WANT_READ) return Wants::toRead;
            if (want == SSL_ERROR_WANT_WRITE) return Wants::toWrite;
            return failed();
        }
        // A certificate is never asked for: only a handshake on the shared key counts.
        if (SSL_session_reused(ssl.get()) != 1)
            return problem("what answers there does not know the key", peer.text(),
                           "check the address and the key file");
        return Wants::nothing;
    }

    [[nodiscard]] tl::unexpected<quantity::Problem> failed() const {
        if (isServer) return problem("a peer without the key was turned away", peer.text());
        const bool isAlert = ERR_GET_REASON(ERR_peek_error()) >= SSL_AD_REASON_OFFSET;
        return problem(
            isAlert ? "the agent there does not accept this key" : "what answers there is not an agent",
            peer.text(),
            isAlert ? "copy the key file of that agent to this machine" : "check the address and port");
    }

    Fd socket;
    SslPointer ssl;
    Address peer;
    std::string named;
    bool isServer;
};

Handshake::Handshake(std::unique_ptr<Impl> impl)
    : m_impl(std::move(impl)) {}
Handshake::Handshake(Handshake&&) noexcept = default;
Handshake& Handshake::operator=(Handshake&&) noexcept = default;
Handshake::~Handshake() = default;

quantity::Result<Handshake::Wants> Handshake::step() {
    return m_impl->step();
}

std::unique_ptr<Channel> Handshake::finish() {
    SSL_set_app_data(m_impl->ssl.get(), nullptr);
    return std::make_unique<TlsChannel>(std::move(m_impl->socket), std::move(m_impl->ssl), m_impl->named);
}

int Handshake::socket() const {
    return m_impl->socket.get();
}

const Address& Handshake::peer() const {
    return m_impl->peer;
}

const std::string& Handshake::named() const {
    return m_impl->named;
}

struct TlsContext::Impl {
    explicit Impl(Keys known)
        : keys(std::move(known))
        , context(SSL_CTX_new(TLS_method()), &SSL_CTX_free) {
        SSL_CTX* c = context.get();
        if (c == nullptr || SSL_CTX_set_min_proto_version(c, TLS1_3_VERSION) != 1 ||
            SSL_CTX_set_max_proto_version(c, TLS1_3_VERSION) != 1 ||
            SSL_CTX_set_ciphersuites(c, "TLS_AES_128_GCM_SHA256") != 1)
            throw std::runtime_error("TLS 1.3 is not available in this system's OpenSSL");
        SSL_CTX_set_app_data(c, &keys);
        SSL_CTX_set_psk_use_session_callback(c, offerSession);
        SSL_CTX_set_psk_find_session_callback(c, findSession);
        SSL_CTX_set_session_cache_mode(c, SSL_SESS_CACHE_OFF);
        SSL_CTX_set_num_tickets(c, 0);
        SSL_CTX_set_mode(c, SSL_MODE_ENABLE_PARTIAL_WRITE | SSL_MODE_ACCEPT_MOVING_WRITE_BUFFER |
                                SSL_MODE_RELEASE_BUFFERS);
    }

    [[nodiscard]] quantity::Result<Handshake> begin(Fd socket, bool isServer) const {
        setBlocking(socket.get(), false);
        setTimeouts(socket.get(), sendLimit, true);
        SslPointer ssl(SSL_new(context.get()), &SSL_free);
        if (!ssl || SSL_set_fd(ssl.get(), socket.get()) != 1) return problem("TLS could not be set up");
        auto made = std::make_unique<Handshake::Impl>(std::move(socket), std::move(ssl), isServer);
        return Handshake(std::move(made));
    }

    [[nodiscard]] quantity::Result<std::unique_ptr<Channel>>
    handshake(Fd socket, std::chrono::milliseconds limit, bool isServer) const {
        const Deadline end(limit);
        auto going = begin(std::move(socket), isServer);
        if (!going) return tl::unexpected(going.error());
        for (;;) {
            const auto wants = going->step();
            if (!wants) return tl::unexpected(wants.error());
            if (*wants == Handshake::Wants::nothing) return going->finish();
            if (end.isOver() || !waitFor(going->socket(), *wants == Handshake::Wants::toWrite, end.left()))
                return problem("what answers there does not speak as an agent", going->peer().text(),
                               "check the address and port");
        }
    }

    Keys keys;
    std::unique_ptr<SSL_CTX, decltype(&SSL_CTX_free)> context;
};

TlsContext::TlsContext(const Key& key)
    : TlsContext(credentialOf(key)) {}
TlsContext::TlsContext(Credential own)
    : m_impl(std::make_unique<Impl>(Keys{std::move(own), nullptr})) {}
TlsContext::TlsContext(std::shared_ptr<const KeyRing> keys)
    : m_impl(std::make_unique<Impl>(Keys{std::nullopt, std::move(keys)})) {}
TlsContext::~TlsContext() = default;
TlsContext::TlsContext(TlsContext&&) noexcept = default;
TlsContext& TlsContext::operator=(TlsContext&&) noexcept = default;

quantity::Result<Handshake> TlsContext::begin(Fd socket) const {
    return m_impl->begin(std::move(socket), true);
}

quantity::Result<std::unique_ptr<Channel>> TlsContext::accept(Fd socket,
                                                              std::chrono::milliseconds limit) const {
    return m_impl->handshake(std::move(socket), limit, true);
}

quantity::Result<std::unique_ptr<Channel>> TlsContext::connect(Fd socket,
                                                               std::chrono::milliseconds limit) const {
    return m_impl->handshake(std::move(socket), limit, false);
}

} // namespace metrodos::probe
