// All pairs: every machine of the job against every other.
#pragma once

#include "desktop/test_page.h"

#include <set>

class QSpinBox;

namespace metrodos::desktop {

class MatrixPage : public TestPage {
    Q_OBJECT

  public:
    MatrixPage(JobModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] QStringList sentences(const nlohmann::json& report) const override;
    void paintReport(QPainter& painter, const QRectF& field, const nlohmann::json& report) override;
    void pressed(const QPointF& at, const QRectF& field) override;

  private:
    QComboBox* m_seconds;
    QSpinBox* m_repeats;
    std::set<std::pair<int, int>> m_chosen; ///< cells that the next test runs at once
};

} // namespace metrodos::desktop
