// A suggested test that has been taken: what to set up, in large type, and what the runs then did not pass.
#pragma once

#include "trace/diagnose.h"

#include <QFrame>
#include <optional>

class QLabel;

namespace metrodos::desktop {

/// Shows only while a test is prepared.
class PreparedTest : public QFrame {
    Q_OBJECT

  public:
    explicit PreparedTest(QWidget* parent = nullptr);
    /// `route`: that the test is of.
    void prepare(const trace::NextTest& test, const house::Id& route);
    void drop();
    /// Drops a test of another route: what it leaves out means nothing there.
    void keepFor(const house::Id& route);
    [[nodiscard]] const trace::NextTest* test() const { return m_test ? &*m_test : nullptr; }
    /// What Space runs: four streams, ten seconds, in both directions.
    [[nodiscard]] std::vector<std::vector<benchmark::RunConfig>> configs() const;

  Q_SIGNALS:
    void shown(); ///< a test is prepared, or no longer

  private:
    std::optional<trace::NextTest> m_test;
    house::Id m_route;
    QLabel* m_text;
    QLabel* m_hint;
};

} // namespace metrodos::desktop
