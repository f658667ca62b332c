// The thing that was chosen in the section: its fields to fill in, what joins it, what to mind.
#pragma once

#include "desktop/model/job_model.h"

#include <QWidget>

class QFormLayout;
class QLabel;
class QToolButton;

namespace metrodos::desktop {

class SurveyTableModel;

class ThingPanel : public QWidget {
    Q_OBJECT

  public:
    explicit ThingPanel(JobModel& model, QWidget* parent = nullptr);

    /// Shows a room, jack, part, panel, circuit, appliance or device; another id shows nothing.
    void setThing(const house::Id& id);
    [[nodiscard]] const house::Id& thing() const { return m_thing; }
    /// Whether a route to the service can be made of it.
    [[nodiscard]] bool canReachService() const;

  Q_SIGNALS:
    void serviceAsked(const QString& machine); ///< a route from it to the service
    void closeAsked();

  private:
    void fill();
    void addFields(SurveyTableModel* table, int row, const QString& title);
    void remove();
    [[nodiscard]] QStringList joined() const;

    JobModel& m_model;
    house::Id m_thing;
    QLabel* m_title;
    QWidget* m_body = nullptr;
    QFormLayout* m_form = nullptr;
    QToolButton* m_service;
    QToolButton* m_remove;
};

} // namespace metrodos::desktop
