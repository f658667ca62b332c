// One run with everything that was taken of it, over its time and in figures, and another one beside it.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>
#include <optional>
#include <vector>

class QCPAxisRect;
class QCPLayer;
class QCustomPlot;
class QLabel;
class QTableWidget;

namespace metrodos::desktop {

class RunPage : public QWidget {
    Q_OBJECT

  public:
    explicit RunPage(RouteModel& model, QWidget* parent = nullptr);

    /// Of the chosen route; the newest where it has none of this id.
    void showRun(const std::string& id);
    /// What is drawn, in words, for screen readers and tests.
    [[nodiscard]] QString text() const;
    void restyle();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    [[nodiscard]] const benchmark::Run* run(const std::string& id) const;
    void fill();
    /// The next older run that this one can be laid beside: of its direction first.
    void compare();
    void step(int by);
    void draw(const benchmark::Run& run, bool isOther);
    void setRanges(double seconds);

    RouteModel& m_model;
    QLabel* m_title;
    QCustomPlot* m_plot;
    QCPAxisRect* m_rate;
    QCPAxisRect* m_delay;
    QCPAxisRect* m_window;
    QTableWidget* m_figures;
    std::string m_shown; ///< id; empty: the newest
    std::string m_other; ///< id of the one beside it; empty: none
    double m_most[3] = {};
};

} // namespace metrodos::desktop
