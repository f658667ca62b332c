#include "probe/channel.h"

#include <condition_variable>
#include <deque>
#include <mutex>

namespace metrodos::probe {
namespace {

using nlohmann::json;

// What the two ends share: one queue each way.
struct Shared {
    std::mutex mutex;
    std::condition_variable changed;
    std::deque<json> queue[2];
    bool closed = false;
};

class LocalChannel final : public Channel {
  public:
    LocalChannel(std::shared_ptr<Shared> shared, int side)
        : m_shared(std::move(shared))
        , m_side(side) {}
    ~LocalChannel() override { LocalChannel::close(); }

    quantity::Result<void> send(const json& message) override {
        const std::lock_guard lock(m_shared->mutex);
        if (m_shared->closed) return quantity::problem("the endpoint has closed");
        m_shared->queue[1 - m_side].push_back(message);
        m_shared->changed.notify_all();
        return {};
    }

    quantity::Result<std::optional<json>> receive(std::chrono::milliseconds limit) override {
        std::unique_lock lock(m_shared->mutex);
        std::deque<json>& queue = m_shared->queue[m_side];
        m_shared->changed.wait_for(lock, limit, [&] { return !queue.empty() || m_shared->closed; });
        if (queue.empty()) {
            if (m_shared->closed) return quantity::problem("the endpoint has closed");
            return std::nullopt;
        }
        json message = std::move(queue.front());
        queue.pop_front();
        return message;
    }

    void close() override {
        const std::lock_guard lock(m_shared->mutex);
        m_shared->closed = true;
        m_shared->changed.notify_all();
    }

  private:
    std::shared_ptr<Shared> m_shared;
    int m_side;
};

} // namespace

std::pair<std::unique_ptr<Channel>, std::unique_ptr<Channel>> localChannel() {
    auto shared = std::make_shared<Shared>();
    return {std::make_unique<LocalChannel>(shared, 0), std::make_unique<LocalChannel>(shared, 1)};
}

quantity::Result<json> parseMessage(std::string_view bytes) {
    bool tooDeep = false;
    const auto limitDepth = [&](int depth, json::parse_event_t, json&) {
        if (depth > maxDepth) tooDeep = true;
        return !tooDeep;
    };
    json message = json::parse(bytes, limitDepth, false);
    if (tooDeep || !message.is_object())
        return quantity::problem("a message was not well formed", "",
                                 "use the same version of the program at both ends");
    return message;
}

} // namespace metrodos::probe
