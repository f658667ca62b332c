// A real file over a mounted folder, beside what the network alone gave.
#pragma once

#include "desktop/test_page.h"

class QLineEdit;

namespace metrodos::desktop {

class CopyPage : public TestPage {
    Q_OBJECT

  public:
    CopyPage(JobModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] QStringList sentences(const nlohmann::json& report) const override;
    void paintReport(QPainter& painter, const QRectF& field, const nlohmann::json& report) override;

  private:
    QLineEdit* m_folder;
    QComboBox* m_size;
};

} // namespace metrodos::desktop
