// Hours or days on the route: drop-outs and their times.
#pragma once

#include "desktop/test_page.h"

class QLineEdit;

namespace metrodos::desktop {

class WatchPage : public TestPage {
    Q_OBJECT

  public:
    WatchPage(JobModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] QStringList sentences(const nlohmann::json& report) const override;
    void paintReport(QPainter& painter, const QRectF& field, const nlohmann::json& report) override;

  private:
    QComboBox* m_direction;
    QComboBox* m_load;
    QLineEdit* m_lasting;
};

} // namespace metrodos::desktop
