#include "probe/guest_flow.h"

#include "probe/load.h"
#include "probe/socket.h"

#include <sys/socket.h>

#include <algorithm>
#include <thread>

namespace metrodos::probe {
namespace {

using Clock = std::chrono::steady_clock;

constexpr std::size_t blockBytes = 1U << 20U; // sent or read at a time
constexpr std::size_t smallLoad = 8U << 20U;  // of one answer to a browser that cannot read while it loads
constexpr std::chrono::milliseconds betweenPings{20};

// To its end, or a finite piece after another for browsers that only see a whole answer.
bool download(HttpConnection& c, GuestRun& mine, GuestRun::Stream& own, bool small,
              const std::vector<std::string>& fields, const std::atomic<bool>& stop) {
    static const std::vector<unsigned char> block = [] {
        std::vector<unsigned char> out(blockBytes);
        fillPayload(out, 7);
        return out;
    }();
    if (small) {
        std::string start = "HTTP/1.1 200 OK\r\n";
        for (const std::string& f : fields)
            start += f + "\r\n";
        start += "Content-Type: application/octet-stream\r\nContent-Length: " + std::to_string(smallLoad) +
                 "\r\n\r\n";
        if (!c.send(start.data(), start.size())) return false;
    } else if (!c.beginEndless(fields)) {
        return false;
    }
    std::uint64_t sent = 0;
    while (!mine.over.load() && (!small || sent < smallLoad)) {
        // Small enough that the end of the run is seen while the kernel's buffer is full.
        const std::size_t size = std::min<std::size_t>(block.size(), small ? smallLoad - sent : block.size());
        const ssize_t got = ::send(c.fd(), block.data(), size, MSG_NOSIGNAL);
        if (got > 0) {
            sent += static_cast<std::uint64_t>(got);
            own.bytes.fetch_add(static_cast<std::uint64_t>(got));
            continue;
        }
        if (!isTransient()) return false;
        (void)waitFor(c.fd(), true, std::chrono::milliseconds(50));
        if (stop.load()) return false;
    }
    if (mine.over.load()) resetOnClose(c.fd()); // what is queued is of no more use
    return small && !mine.over.load();
}

bool upload(HttpConnection& c, GuestRun& mine, GuestRun::Stream& own,
            const std::vector<std::string>& fields) {
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

} // namespace

bool carryStream(HttpConnection& c, GuestRun& mine, bool small, const std::vector<std::string>& fields,
                 const std::atomic<bool>& stop) {
    GuestRun::Stream* own = nullptr;
    {
        const std::lock_guard lock(mine.mutex);
        const auto open = std::count_if(mine.streams.begin(), mine.streams.end(),
                                        [](const GuestRun::Stream& s) { return s.fd >= 0; });
        if (open < mine.config.streams) {
            own = &mine.streams.emplace_back();
            own->fd = c.fd();
        }
    }
    if (own == nullptr)
        return c.skipBody() && c.answer(409, "text/plain; charset=utf-8", "all streams are open", fields) &&
               false;
    while (!mine.go.load() && !mine.over.load() && !stop.load())
        std::this_thread::sleep_for(std::chrono::microseconds(500));
    const bool goesOn =
        mine.sends() ? download(c, mine, *own, small, fields, stop) : upload(c, mine, *own, fields);
    mine.close(*own);
    return goesOn;
}

bool answerPings(HttpConnection& c, const std::string& target,
                 const std::vector<std::shared_ptr<GuestRun>>& group,
                 const std::vector<std::string>& fields) {
    const auto isOver = [&] {
        return std::all_of(group.begin(), group.end(), [](const auto& run) { return run->over.load(); });
    };
    while (true) {
        std::this_thread::sleep_for(betweenPings); // here, so that no timer of a browser is in the figure
        if (isOver() || !c.answer(204, "", "", fields)) return false;
        const auto answered = Clock::now();
        const auto again = c.read();
        if (!again || again->target != target) return false;
        const double us = std::chrono::duration<double, std::micro>(Clock::now() - answered).count();
        for (const auto& run : group) {
            const std::lock_guard lock(run->mutex);
            run->pingsUs.push_back(us);
        }
    }
}

} // namespace metrodos::probe
