#include "desktop/model/test_runner.h"

namespace metrodos::desktop {

TestRunner::~TestRunner() {
    m_thread.request_stop();
}

void TestRunner::start(Work work) {
    if (m_running) return;
    m_running = true;
    m_thread = std::jthread([this, work = std::move(work)](const std::stop_token& stop) {
        const Progress progress([this](const QString& words, const nlohmann::json& soFar, double done) {
            QMetaObject::invokeMethod(
                this, [this, words, soFar, done] { Q_EMIT progressed(words, soFar, done); },
                Qt::QueuedConnection);
        });
        const auto outcome = work(progress, stop);
        QMetaObject::invokeMethod(
            this,
            [this, outcome] {
                m_running = false;
                if (outcome)
                    Q_EMIT finished(*outcome);
                else
                    Q_EMIT failed(QString::fromStdString(outcome.error().sentence()));
            },
            Qt::QueuedConnection);
    });
}

void TestRunner::stop() {
    m_thread.request_stop();
}

} // namespace metrodos::desktop
