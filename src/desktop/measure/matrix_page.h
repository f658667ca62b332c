// Every pair: each machine of the job against every other.
#pragma once

#include "benchmark/matrix_report.h"
#include "desktop/measure/test_page.h"

#include <set>

class QCheckBox;
class QSpinBox;

namespace metrodos::desktop {

class MatrixPage : public TestPage {
    Q_OBJECT

  public:
    MatrixPage(RouteModel& model, AccessTo access);

    /// The next test runs only these, alone and then at once; ends are endpoints of the job. False where one
    /// of them has no address.
    bool choosePairs(const std::vector<std::pair<house::Id, house::Id>>& pairs);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] quantity::Result<std::vector<std::string>> take(const nlohmann::json& document) override;
    void paintReport(QPainter& painter, const QRectF& field) override;
    void pressed(const QPointF& at, const QRectF& field) override;
    bool keyPressed(int key) override;

  private:
    [[nodiscard]] int shownCount() const; ///< of the endpoints of the report
    benchmark::MatrixReport m_report;     ///< that is shown
    QComboBox* m_seconds;
    QSpinBox* m_repeats;
    QCheckBox* m_only;
    void choose(int from, int to);
    std::set<std::pair<int, int>> m_chosen; ///< cells that the next test runs at once
    std::pair<int, int> m_at{0, 1};         ///< the cell that keys speak of
};

} // namespace metrodos::desktop
