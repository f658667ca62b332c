// All jobs of a folder: client, places, date, what limits and what is open, found by words.
#pragma once

#include "desktop/log/library_model.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QTableWidget;

namespace metrodos::desktop {

class LibraryPage : public QWidget {
    Q_OBJECT

  public:
    explicit LibraryPage(LibraryModel& library, QWidget* parent = nullptr);

    [[nodiscard]] QString sentence() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);
    void jobAsked(const QString& file);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fill();
    void askFolder();

    LibraryModel& m_library;
    bool m_isRead = false;
    QLineEdit* m_words;
    QLabel* m_folder;
    QTableWidget* m_list;
    QLabel* m_detail;
};

} // namespace metrodos::desktop
