// The house as a section, and the ways between any two of its places, best first.
#pragma once

#include "capacity/ways.h"
#include "desktop/model/route_model.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QToolButton;

namespace metrodos::desktop {

class RangeList;
class SectionView;
class ThingPanel;

class WaysPage : public QWidget {
    Q_OBJECT

  public:
    explicit WaysPage(RouteModel& model, QWidget* parent = nullptr);

    /// Chooses both places, or one thing where the second is empty.
    void showWays(const QString& from, const QString& to);
    /// Takes the thing, or the places and the ways between them, away; false where none was chosen.
    bool closeWays();
    /// Writes the section as .svg or .png; false when that cannot be done.
    [[nodiscard]] bool saveSection(const QString& file);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);
    void serviceAsked(const QString& machine); ///< a route from it to the service

  private:
    void fillPlaces();
    void showThing(const house::Id& id);
    void choosePlace(const QString& id);
    void findWays();
    void showWay(int row);
    void keepRoute();

    RouteModel& m_model;
    SectionView* m_section;
    QComboBox* m_from;
    QComboBox* m_to;
    QWidget* m_panel;    ///< the ways between the two; comes with them
    ThingPanel* m_thing; ///< the thing that was chosen; gives way to the ways
    QLabel* m_between;
    RangeList* m_ways;
    QToolButton* m_keep;
    std::vector<capacity::Way> m_found;
    bool m_nextIsSecond = false;
};

} // namespace metrodos::desktop
