// The highest pace of datagrams that the route carries with hardly any loss.
#pragma once

#include "desktop/test_page.h"

class QLineEdit;

namespace metrodos::desktop {

class SearchPage : public TestPage {
    Q_OBJECT

  public:
    SearchPage(JobModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] QStringList sentences(const nlohmann::json& report) const override;
    void paintReport(QPainter& painter, const QRectF& field, const nlohmann::json& report) override;

  private:
    QComboBox* m_direction;
    QLineEdit* m_high;
    QComboBox* m_loss;
    QComboBox* m_seconds;
};

} // namespace metrodos::desktop
