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
    /// How far it is, in words, and what there is so far: a report, or null.
    using Progress = std::function<void(const QString& words, const nlohmann::json& soFar)>;
    using Work = std::function<quantity::Result<nlohmann::json>(const Progress& progress,
                                                                const std::stop_token& stop)>;

    using QObject::QObject;
    ~TestRunner() override;

    [[nodiscard]] bool isRunning() const { return m_running; }
    /// Starts unless something runs already.
    void start(Work work);
    void stop();

  Q_SIGNALS:
    void progressed(const QString& words, const nlohmann::json& soFar);
    void finished(const nlohmann::json& report);
    void failed(const QString& sentence);

  private:
    bool m_running = false;
    std::jthread m_thread;
};

} // namespace metrodos::desktop
