// The routes of the job: made, renamed, changed and removed; those that the survey asks for are proposed.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QListWidget;
class QTableView;

namespace metrodos::desktop {

class SurveyTableModel;

class RoutesPage : public QWidget {
    Q_OBJECT

  public:
    explicit RoutesPage(RouteModel& model, QWidget* parent = nullptr);

    /// Makes a route from this machine, a device, to the service, or finds it, and shows it in the strip.
    void toService(const house::Id& machine);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  private:
    void fill();
    void add(const house::Id& from, const house::Id& to);
    void addProposed(int row);
    void addAll();
    void removeRoute();
    void showChosen();
    bool eventFilter(QObject* watched, QEvent* event) override;

    RouteModel& m_model;
    SurveyTableModel* m_table;
    QTableView* m_routes;
    QComboBox* m_from;
    QComboBox* m_to;
    QLabel* m_heading;
    QListWidget* m_proposed;
    std::vector<house::Route> m_offers; // by row
};

} // namespace metrodos::desktop
