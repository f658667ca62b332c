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
    void prepare(const trace::NextTest& test);
    void drop();
    [[nodiscard]] const trace::NextTest* test() const { return m_test ? &*m_test : nullptr; }
    /// What Space runs: four streams, ten seconds, in both directions.
    [[nodiscard]] std::vector<std::vector<benchmark::RunOrder>> orders() const;

  Q_SIGNALS:
    void shown(); ///< a test is prepared, or no longer

  private:
    std::optional<trace::NextTest> m_test;
    QLabel* m_text;
};

} // namespace metrodos::desktop
