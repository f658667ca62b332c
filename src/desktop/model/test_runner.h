// Does one long piece of work in a thread of its own and tells the window how it goes.
#pragma once

#include "quantity/problem.h"

#include <QObject>
#include <functional>
#include <nlohmann/json.hpp>
#include <thread>

namespace metrodos::desktop {

class TestRunner : public QObject {
    Q_OBJECT

  public:
    static constexpr double unknownShare = -1;
    /// How far it is: in words, what there is so far (a report, or null), and which share of the work is
    /// done, 0–1.
    class Progress {
      public:
        using Tell = std::function<void(const QString& words, const nlohmann::json& soFar, double done)>;
        explicit Progress(Tell tell)
            : m_tell(std::move(tell)) {}
        void operator()(const QString& words, const nlohmann::json& soFar, double done = unknownShare) const {
            m_tell(words, soFar, done);
        }

      private:
        Tell m_tell;
    };
    using Work = std::function<quantity::Result<nlohmann::json>(const Progress& progress,
                                                                const std::stop_token& stop)>;

    using QObject::QObject;
    ~TestRunner() override;

    [[nodiscard]] bool isRunning() const { return m_running; }
    /// Starts unless something runs already.
    void start(Work work);
    void stop();

  Q_SIGNALS:
    void progressed(const QString& words, const nlohmann::json& soFar, double done);
    void finished(const nlohmann::json& report);
    void failed(const QString& sentence);

  private:
    bool m_running = false;
    std::jthread m_thread;
};

} // namespace metrodos::desktop
