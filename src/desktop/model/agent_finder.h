// The agents that announce themselves on the network, as they were seen since the window opened.
#pragma once

#include "desktop/model/test_runner.h"

#include <QObject>
#include <vector>

namespace metrodos::desktop {

struct SeenAgent {
    QString name;
    QString address; ///< host:port
    QString seen;    ///< at what time, last
};

class AgentFinder : public QObject {
    Q_OBJECT

  public:
    explicit AgentFinder(QObject* parent = nullptr);

    /// Looks for three seconds; nothing while it looks already.
    void look();
    [[nodiscard]] bool isLooking() const { return m_runner.isRunning(); }
    [[nodiscard]] const std::vector<SeenAgent>& agents() const { return m_agents; }

  Q_SIGNALS:
    void looked(); ///< what was found is in agents()
    void failed(const QString& sentence);

  private:
    std::vector<SeenAgent> m_agents; ///< by name and address
    TestRunner m_runner;
};

} // namespace metrodos::desktop
