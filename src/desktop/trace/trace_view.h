// Trace: which element is the limit, why, what to test next, and what something else in its place would
// bring.
#pragma once

#include "desktop/model/route_model.h"

#include <QPointer>
#include <QWidget>

class QLabel;
class QVBoxLayout;

namespace metrodos::desktop {

class NextTestPanel;
class SuspectList;

class TraceView : public QWidget {
    Q_OBJECT

  public:
    explicit TraceView(RouteModel& model, QWidget* parent = nullptr);
    void restyle() { fill(); }
    void focusReading();

  Q_SIGNALS:
    void nextTestAsked();
    /// The runs that a piece of evidence stands on.
    void runsAsked(const QStringList& ids);
    void refused(const QString& sentence);

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    void fill();
    void fillVerdict(const trace::Diagnosis& diagnosis);
    void fillReplacing(const trace::Diagnosis& diagnosis);
    RouteModel& m_model;
    QPointer<RouteModel> m_alive; ///< a window that closes hides its views after its model has gone
    QLabel* m_verdict;
    QLabel* m_figures;
    SuspectList* m_suspects;
    NextTestPanel* m_next;
    QLabel* m_replacing;
    QLabel* m_warnings;
    QLabel* m_warningsHeading;
};

} // namespace metrodos::desktop
