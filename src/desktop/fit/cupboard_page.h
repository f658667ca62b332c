// The cupboard as a drawing: on the left what its cable ends are joined to, on the right where they go.
#pragma once

#include "desktop/model/job_model.h"
#include "fit/cupboard.h"

#include <QAbstractScrollArea>

class QLabel;

namespace metrodos::desktop {

/// Draws the map; up and down go from run to run.
class CupboardMap : public QAbstractScrollArea {
    Q_OBJECT

  public:
    explicit CupboardMap(QWidget* parent = nullptr);

    struct Row {
        QString joined; ///< empty: as the row above
        QString port;
        QString label; ///< of the run, with how it was found
        QString code;  ///< on its label
        QString far;
        QString room;
        house::Medium medium = house::Medium::data_cable;
        bool isWhole = false; ///< both ends are known, and this one is joined
    };
    void setRows(std::vector<Row> rows);
    [[nodiscard]] const std::vector<Row>& rows() const { return m_rows; }
    [[nodiscard]] int current() const { return m_current; }

  Q_SIGNALS:
    void chosen(int row);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    void setCurrent(int row);
    void setRange();

    std::vector<Row> m_rows;
    int m_current = -1;
};

class CupboardPage : public QWidget {
    Q_OBJECT

  public:
    explicit CupboardPage(JobModel& job, QWidget* parent = nullptr);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void refresh();
    void found(house::FoundBy how);

    JobModel& m_job;
    fit::Cupboard m_cupboard;
    bool m_isStale = true;
    QLabel* m_title;
    QLabel* m_hint;
    CupboardMap* m_map;
};

} // namespace metrodos::desktop
