// The loss-free rate of a route: the highest rate of datagrams with hardly any loss (RFC 2544, 26.1).
#pragma once

#include "benchmark/search_report.h"
#include "desktop/measure/test_page.h"

class QLineEdit;

namespace metrodos::desktop {

class SearchPage : public TestPage {
    Q_OBJECT

  public:
    SearchPage(RouteModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] quantity::Result<std::vector<std::string>> take(const nlohmann::json& document) override;
    void paintReport(QPainter& painter, const QRectF& field) override;

  private:
    benchmark::SearchReport m_report; ///< that is shown
    QComboBox* m_direction;
    QLineEdit* m_high;
    QComboBox* m_loss;
    QComboBox* m_seconds;
};

} // namespace metrodos::desktop
