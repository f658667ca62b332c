// Walk: the survey. One line of fast entry above; below it the section, the tables, the pairs, what is to be
// found.
#pragma once

#include "desktop/job_model.h"

#include <QWidget>

class QTabWidget;

namespace metrodos::desktop {

class EntryField;
class WaysPage;

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

  private:
    void duplicateRoom();
    void pasteTable();
    void importTable();
    void exportFile();
    void addTable(const std::string& csv, const QString& from);

    JobModel& m_model;
    EntryField* m_entry;
    QTabWidget* m_pages;
    WaysPage* m_ways;
};

} // namespace metrodos::desktop
