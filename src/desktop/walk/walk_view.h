// Walk: the survey. One line of fast entry above; below it the section, the tables, the pairs, what is to be
// found.
#pragma once

#include "desktop/model/route_model.h"

#include <QTabWidget>

namespace metrodos::desktop {

class EntryField;
class WaysPage;

class WalkView : public QWidget {
    Q_OBJECT

  public:
    explicit WalkView(RouteModel& model, QWidget* parent = nullptr);

    /// Puts the keyboard into the entry line.
    void focusEntry();
    /// The tab at this place (desktop/model/pages.h).
    void setTab(int tab) { m_pages->setCurrentIndex(tab); }
    /// Chooses both places, or one thing where the second is empty.
    void showWays(const QString& from, const QString& to);
    /// Closes the ways between two places; false where none are shown.
    bool closeWays();

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    void hideEvent(QHideEvent* event) override;

  private:
    void duplicateRoom();
    void pasteTable();
    void importTable();
    void exportFile();
    void addTable(const std::string& csv, const QString& from);

    RouteModel& m_model;
    EntryField* m_entry;
    QTabWidget* m_pages;
    WaysPage* m_ways;
};

} // namespace metrodos::desktop
