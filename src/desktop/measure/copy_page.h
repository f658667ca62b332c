// A real file over a mounted folder, beside what the network alone gave.
#pragma once

#include "benchmark/copy_report.h"
#include "desktop/measure/test_page.h"

class QLineEdit;

namespace metrodos::desktop {

class CopyPage : public TestPage {
    Q_OBJECT

  public:
    CopyPage(RouteModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] quantity::Result<std::vector<std::string>> take(const nlohmann::json& document) override;
    void paintReport(QPainter& painter, const QRectF& field) override;

  private:
    benchmark::CopyReport m_report; ///< that is shown
    QLineEdit* m_folder;
    QComboBox* m_size;
};

} // namespace metrodos::desktop
