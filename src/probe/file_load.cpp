#include "probe/file_load.h"

#include "probe/guarded.h"
#include "probe/socket.h"

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <unistd.h>

namespace metrodos::probe {
namespace {

constexpr std::size_t pieceBytes = 1024 * 1024; // what a file system reads ahead at once and more
constexpr std::chrono::milliseconds lookAtStop{50};

} // namespace

FileLoad::FileLoad(Fd socket, std::shared_ptr<ScratchFile> file, bool sending, std::uint64_t bytes)
    : m_file(std::move(file))
    , m_sending(sending)
    , m_maximum(bytes) {
    m_sockets.push_back(std::move(socket));
    setBlocking(m_sockets.front().get(), true);
    setTimeouts(m_sockets.front().get(), lookAtStop, false);
}

FileLoad::~FileLoad() {
    stop(true);
}

void FileLoad::start() {
    m_thread = std::thread(guarded(
        [this] {
            m_sending ? send() : receive();
            m_ended = true;
        },
        [this](const std::string&) { m_ended = true; }));
}

void FileLoad::stop(bool reset) {
    m_stop = true;
    if (m_thread.joinable()) m_thread.join();
    if (m_sockets.empty()) return;
    if (reset)
        resetOnClose(m_sockets.front().get());
    else if (m_sending)
        ::shutdown(m_sockets.front().get(), SHUT_WR);
    if (reset) m_sockets.clear();
}

std::optional<double> FileLoad::syncSeconds() const {
    const double seconds = m_syncSeconds.load();
    return seconds < 0 ? std::nullopt : std::optional(seconds);
}

void FileLoad::send() {
    std::vector<unsigned char> piece(pieceBytes);
    const int fd = m_sockets.front().get();
    std::uint64_t done = 0;
    while (!m_stop && done < m_maximum) {
        const std::size_t wanted =
            static_cast<std::size_t>(std::min<std::uint64_t>(pieceBytes, m_maximum - done));
        const auto read =
            TEMP_FAILURE_RETRY(::pread(m_file->fd(), piece.data(), wanted, static_cast<off_t>(done)));
        if (read <= 0) return; // the receiver sees that bytes are missing
        for (std::size_t sent = 0; sent < static_cast<std::size_t>(read) && !m_stop;) {
            const auto n =
                ::send(fd, piece.data() + sent, static_cast<std::size_t>(read) - sent, MSG_NOSIGNAL);
            if (n > 0) {
                sent += static_cast<std::size_t>(n);
                m_bytes.store(done += static_cast<std::uint64_t>(n), std::memory_order_relaxed);
            } else if (!isTransient()) {
                return;
            }
        }
    }
    ::shutdown(fd, SHUT_WR);
}

std::optional<double> FileLoad::movedSeconds() const {
    const double seconds = m_movedSeconds.load();
    return seconds < 0 ? std::nullopt : std::optional(seconds);
}

void FileLoad::receive() {
    using Clock = std::chrono::steady_clock;
    const auto since = [](Clock::time_point then) {
        return std::chrono::duration<double>(Clock::now() - then).count();
    };
    std::vector<unsigned char> piece(pieceBytes);
    const int fd = m_sockets.front().get();
    std::uint64_t done = 0;
    auto first = Clock::now();
    while (!m_stop) {
        const auto n = ::recv(fd, piece.data(), piece.size(), 0);
        if (n == 0) break;
        if (n < 0) {
            if (isTransient()) continue;
            return;
        }
        if (done == 0) first = Clock::now();
        // No more than was ordered reaches the disk, whatever the peer sends.
        const auto kept = static_cast<std::size_t>(
            std::min<std::uint64_t>(static_cast<std::uint64_t>(n), m_maximum - done));
        for (std::size_t written = 0; written < kept;) {
            const auto w = TEMP_FAILURE_RETRY(::pwrite(m_file->fd(), piece.data() + written, kept - written,
                                                       static_cast<off_t>(done + written)));
            if (w <= 0) {
                resetConnection(fd); // the disk is full: the sender shall not wait for it
                return;
            }
            written += static_cast<std::size_t>(w);
        }
        m_bytes.store(done += kept, std::memory_order_relaxed);
    }
    if (m_stop || done < m_maximum) return;
    const auto last = Clock::now();
    if (::fdatasync(m_file->fd()) != 0) return;
    m_syncSeconds = since(last);
    m_movedSeconds = since(first);
}

} // namespace metrodos::probe
