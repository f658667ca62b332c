// Walk: the survey. One line of fast entry above; below it the section, the tables, the pairs, what is to be
// found.
#pragma once

#include "capacity/ways.h"
#include "desktop/job_model.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QStringListModel;
class QTabWidget;
class QTableView;
class QToolButton;

namespace metrodos::desktop {

class RangeList;
class SectionView;
class SurveyTable;

class WalkView : public QWidget {
    Q_OBJECT

  public:
    explicit WalkView(JobModel& model, QWidget* parent = nullptr);

    /// Puts the keyboard into the entry line.
    void focusEntry();
    void restyle();
    /// The page by its name: "section", "things", "coax", "mains", "find".
    void setPage(const QString& name);
    /// Chooses both places.
    void showWays(const QString& from, const QString& to);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void hideEvent(QHideEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QWidget* buildSection();
    QWidget* buildThings();
    void enter();
    void offerCompletions();
    void duplicateRoom();
    void pasteTable();
    void importTable();
    void exportFile();
    void addTable(const std::string& csv, const QString& from);
    void fillPlaces();
    void choosePlace(const QString& id);
    void findWays();
    void showWay(int row);
    void removeThing();
    void keepRoute();

    JobModel& m_model;
    QLineEdit* m_entry;
    QStringListModel* m_offers;
    QTabWidget* m_pages;
    SectionView* m_section;
    QComboBox* m_from;
    QComboBox* m_to;
    RangeList* m_ways;
    QToolButton* m_keep;
    std::vector<capacity::Way> m_found;
    SurveyTable* m_table;
    QTableView* m_tableView;
    bool m_nextIsSecond = false;
};

} // namespace metrodos::desktop
