// Works in a thread of its own, so that the window never waits; only the newest question counts.
#pragma once

#include <condition_variable>
#include <cstdint>
#include <functional>
#include <mutex>
#include <optional>
#include <thread>

namespace metrodos::desktop {

template <typename Question, typename Answer>
class LatestWorker {
  public:
    using Work = std::function<Answer(const Question&)>;
    using Answered = std::function<void(std::uint64_t number, Answer)>;

    /// Both are called in the worker's thread.
    LatestWorker(Work work, Answered answered)
        : m_work(std::move(work))
        , m_answered(std::move(answered))
        , m_thread([this](const std::stop_token& stop) { run(stop); }) {}
    LatestWorker(const LatestWorker&) = delete;
    LatestWorker& operator=(const LatestWorker&) = delete;

    /// Returns the number that the answer will bear, rising from 1. A question that was not begun yet is
    /// dropped.
    std::uint64_t ask(Question question) {
        const std::lock_guard lock(m_mutex);
        m_next = std::move(question);
        m_wake.notify_one();
        return ++m_number;
    }

  private:
    void run(const std::stop_token& stop) {
        while (true) {
            std::optional<Question> question;
            std::uint64_t number = 0;
            {
                std::unique_lock lock(m_mutex);
                if (!m_wake.wait(lock, stop, [this] { return m_next.has_value(); })) return;
                question.swap(m_next);
                number = m_number;
            }
            m_answered(number, m_work(*question));
        }
    }

    Work m_work;
    Answered m_answered;
    std::mutex m_mutex;
    std::condition_variable_any m_wake;
    std::optional<Question> m_next;
    std::uint64_t m_number = 0;
    std::jthread m_thread; // last: it uses all of the above
};

} // namespace metrodos::desktop
