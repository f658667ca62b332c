// A test that is not a run: its fields, one button, a drawing of what it found, and the reports kept in the
// job.
#pragma once

#include "desktop/model/endpoint_access.h"
#include "desktop/model/route_model.h"
#include "desktop/model/test_runner.h"

#include <QElapsedTimer>
#include <QWidget>
#include <optional>

class QComboBox;
class QHBoxLayout;
class QLabel;
class QPushButton;

namespace metrodos::desktop {

class TestPage : public QWidget {
    Q_OBJECT

  public:
    /// `kind` is that of its reports; `purpose` stands where nothing was found yet.
    TestPage(RouteModel& model, AccessTo access, const QString& kind, const QString& purpose);
    ~TestPage() override;

    [[nodiscard]] bool isRunning() const { return m_runner.isRunning(); }
    /// Begins the test, or stops it.
    void toggle();
    /// What is drawn, in words, for screen readers and tests.
    [[nodiscard]] QString text() const;

  Q_SIGNALS:
    void toggleAsked();
    void said(const QString& sentence, bool isProblem);

  protected:
    [[nodiscard]] RouteModel& model() const { return m_model; }
    [[nodiscard]] const AccessTo& access() const { return m_access; }
    /// The row of fields behind the button.
    void addField(const QString& label, QWidget* field);
    /// The work that the fields ask for; a Problem says which of them is wrong.
    [[nodiscard]] virtual quantity::Result<TestRunner::Work> work() = 0;
    /// Makes a report the one that is shown, and says it a sentence each: the first one large. A Problem
    /// where it does not hold together: a job may have come from anywhere.
    [[nodiscard]] virtual quantity::Result<std::vector<std::string>> take(const nlohmann::json& document) = 0;
    /// Draws the one that was taken last.
    virtual void paintReport(QPainter& painter, const QRectF& field) = 0;
    virtual void pressed(const QPointF&, const QRectF&) {}
    /// A Qt::Key while the drawing has the focus; false where it means nothing to it.
    virtual bool keyPressed(int) { return false; }
    /// Lets the drawing have the focus.
    void takeKeys();
    [[nodiscard]] bool hasDrawingFocus() const;
    /// Whether what there is so far is kept in the job every minute, because the test lasts for hours.
    [[nodiscard]] virtual bool keepsOnTheWay() const { return false; }
    [[nodiscard]] bool showsReport() const { return m_showsReport; }
    void repaintReport();

  private:
    class Canvas;
    void fillKept();
    void showReport(const nlohmann::json& document);
    void keep(nlohmann::json document);
    void setRunning(bool running, const QString& words);
    [[nodiscard]] QString timeLeft(double done) const;

    RouteModel& m_model;
    AccessTo m_access;
    QString m_kind;
    QString m_purpose;
    QPushButton* m_run;
    QWidget* m_fields;
    QHBoxLayout* m_row;
    QLabel* m_progress;
    QComboBox* m_kept;
    QLabel* m_headline;
    QLabel* m_more;
    Canvas* m_canvas;
    bool m_showsReport = false;
    std::optional<std::int64_t> m_keptAs; ///< number of the report of the running test
    QElapsedTimer m_sinceKept;
    QElapsedTimer m_begun; ///< when the running test began
    std::string m_about;   ///< label of the route when the running test began
    house::Id m_route;     ///< and its id
    TestRunner m_runner;
};

} // namespace metrodos::desktop
