// Weigh: the spots with their needs and chosen ways at the left, and at the right what can be looked at about
// them.
#pragma once

#include "weigh/objectives.h"

#include <QTabWidget>
#include <QWidget>
#include <map>

class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QToolButton;

namespace metrodos::desktop {

class ComparePage;
class FrontChart;
class GrowthChart;
class PartsPage;
class PricesPage;
class RangeList;
class StepsPage;
class WeighModel;

class WeighView : public QWidget {
    Q_OBJECT

  public:
    explicit WeighView(WeighModel& model);
    /// "ways", "front", "parts", "compare", "growth" or "prices".
    /// The tab at this place (desktop/model/pages.h).
    void setTab(int tab) { m_pages->setCurrentIndex(tab); }
    void restyle();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    void fill();
    void fillSpots();
    void fillWays();
    void fillPage();
    void showProgress();
    void noteUses();
    void pinCurrent();
    void askSave();
    void showWay(int row);
    void sayWay(int row);

    WeighModel& m_model;
    std::map<weigh::Objective, QToolButton*> m_objectives;
    QLabel* m_headline;
    QLabel* m_notes;
    QProgressBar* m_progress;
    QLabel* m_left; ///< time
    QToolButton* m_stop;
    RangeList* m_spots;
    QLabel* m_needWords;
    QLineEdit* m_uses;
    QTabWidget* m_pages;
    RangeList* m_ways;
    FrontChart* m_front;
    PartsPage* m_parts;
    ComparePage* m_compare;
    GrowthChart* m_growth;
    PricesPage* m_prices;
    QToolButton* m_apply;
    QToolButton* m_drilling;
    QComboBox* m_share;
    QComboBox* m_atOnce;
    QComboBox* m_years;
    QToolButton* m_classes; ///< lists each class of adapter
    QToolButton* m_save;
    QLabel* m_wayWords;
    int m_spot = 0;
    std::vector<std::size_t> m_config; ///< of the ways, as they are listed
};

} // namespace metrodos::desktop
