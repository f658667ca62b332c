// Hours or days on the route: drop-outs and their times.
#pragma once

#include "benchmark/watch_report.h"
#include "desktop/measure/test_page.h"

class QLineEdit;

namespace metrodos::desktop {

class WatchPage : public TestPage {
    Q_OBJECT

  public:
    WatchPage(RouteModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] quantity::Result<std::vector<std::string>> take(const nlohmann::json& document) override;
    [[nodiscard]] bool keepsOnTheWay() const override { return true; }
    void paintReport(QPainter& painter, const QRectF& field) override;

  private:
    benchmark::WatchReport m_report; ///< that is shown
    QComboBox* m_direction;
    QComboBox* m_load;
    QLineEdit* m_lasting;
};

} // namespace metrodos::desktop
