// A test that is not a run: its fields, one button, a drawing of what it found, and the reports kept in the
// job.
#pragma once

#include "desktop/endpoint_access.h"
#include "desktop/job_model.h"
#include "desktop/test_runner.h"

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
    TestPage(JobModel& model, AccessTo access, const QString& kind, const QString& purpose);
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
    [[nodiscard]] JobModel& model() const { return m_model; }
    [[nodiscard]] const AccessTo& access() const { return m_access; }
    /// The row of fields behind the button.
    void addField(const QString& label, QWidget* field);
    /// The work that the fields ask for; a Problem says which of them is wrong.
    [[nodiscard]] virtual quantity::Result<TestRunner::Work> work() = 0;
    /// What the report says, a sentence each: the first one large.
    [[nodiscard]] virtual QStringList sentences(const nlohmann::json& report) const = 0;
    virtual void paintReport(QPainter& painter, const QRectF& field, const nlohmann::json& report) = 0;
    virtual void pressed(const QPointF&, const QRectF&) {}
    /// The fields that a report needs to be drawn are there and of their types.
    [[nodiscard]] const nlohmann::json& report() const { return m_report; }
    void repaintReport();

  private:
    class Canvas;
    void fillKept();
    void show(const nlohmann::json& report);
    void setRunning(bool running, const QString& words);

    JobModel& m_model;
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
    nlohmann::json m_report;
    std::string m_about; ///< label of the route when the test that goes on began
    TestRunner m_runner;
};

} // namespace metrodos::desktop
