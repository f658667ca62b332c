// Labels for jacks, cables and boxes: their codes, the sheet as it will be printed, and where it goes.
#pragma once

#include "desktop/model/job_model.h"
#include "report/label_sheet.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QPainter;
class QTableWidget;

namespace metrodos::desktop {

/// Draws a page of a sheet; one millimetre is `scale` units of the painter.
void drawPage(QPainter& painter, const report::PrintedPage& page, double scale);

class LabelsPage : public QWidget {
    Q_OBJECT

  public:
    explicit LabelsPage(JobModel& job, QWidget* parent = nullptr);

    /// Writes the sheet: by extension .pdf or .csv. The codes are recorded, so that they stay.
    void exportTo(const QString& file);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    class Preview;
    void refresh();
    void keepCodes();
    void print();
    void askExport();
    [[nodiscard]] report::Paper paper() const;

    JobModel& m_job;
    std::vector<fit::Label> m_labels;
    report::PrintedSheet m_sheet;
    bool m_isStale = true;
    QLabel* m_title;
    QTableWidget* m_list;
    QComboBox* m_paper;
    Preview* m_preview;
};

} // namespace metrodos::desktop
