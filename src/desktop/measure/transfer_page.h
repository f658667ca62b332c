// A file copied between the two ends of the route by their agents: network, disks and caches each by
// themselves, and all together.
#pragma once

#include "benchmark/transfer_report.h"
#include "desktop/measure/test_page.h"

class QComboBox;
class QLineEdit;

namespace metrodos::desktop {

class TransferPage : public TestPage {
    Q_OBJECT

  public:
    TransferPage(RouteModel& model, AccessTo access);

  protected:
    [[nodiscard]] quantity::Result<TestRunner::Work> work() override;
    [[nodiscard]] quantity::Result<std::vector<std::string>> take(const nlohmann::json& document) override;
    void paintReport(QPainter& painter, const QRectF& field) override;

  private:
    QComboBox* m_direction;
    QComboBox* m_size;
    QLineEdit* m_folder; ///< on this machine, where it is one of the ends
    benchmark::TransferReport m_report;
};

} // namespace metrodos::desktop
