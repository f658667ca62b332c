// What one's own houses say: of each class and situation against the catalog; and how good our statements
// were.
#pragma once

#include "desktop/log/library_model.h"

#include <QWidget>

class QLabel;
class QCheckBox;

namespace metrodos::desktop {

class RangeList;

/// The share of statements that held over the probability that they were made with.
class CalibrationPlot : public QWidget {
    Q_OBJECT

  public:
    explicit CalibrationPlot(QWidget* parent = nullptr);
    void setCalibration(std::vector<benchmark::Calibration> spans);
    [[nodiscard]] QSize sizeHint() const override { return {260, 220}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    std::vector<benchmark::Calibration> m_spans;
};

class OwnHousesPage : public QWidget {
    Q_OBJECT

  public:
    explicit OwnHousesPage(LibraryModel& library, QWidget* parent = nullptr);

    [[nodiscard]] QString sentence() const;
    void exportTo(const QString& file);
    void importFrom(const QString& file);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fill();
    void askForFile(bool isExport);

    LibraryModel& m_library;
    bool m_isRead = false;
    QCheckBox* m_used;
    RangeList* m_figures;
    QLabel* m_detail;
    CalibrationPlot* m_plot;
    QLabel* m_statements;
};

} // namespace metrodos::desktop
