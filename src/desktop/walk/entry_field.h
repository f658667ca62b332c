// The line of fast entry: shows what can be said next, completes fields while they are typed, takes a dozen
// lines at once.
#pragma once

#include "desktop/model/job_model.h"

#include <QLineEdit>

class QCompleter;
class QStandardItemModel;

namespace metrodos::desktop {

/// Enter takes the line; a line that is not understood stays, with the field that is wrong selected. Tab
/// takes the first offer, the down key shows the offers, the up key brings the last lines back.
class EntryField : public QLineEdit {
    Q_OBJECT

  public:
    explicit EntryField(JobModel& model, QWidget* parent = nullptr);

    /// Takes several lines, as one step of undo, up to the first that is not understood: that one stays to be
    /// mended, and the rest follows it.
    void enterLines(const QString& lines);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    bool event(QEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    struct Offer {
        QString line;  ///< the whole line with it
        QString shown; ///< in the list
    };
    void enter();
    void markWrongField();
    void offer();
    bool takeFirstOffer();
    bool takePasted();
    void recall(int by);
    [[nodiscard]] std::vector<Offer> offers() const;
    [[nodiscard]] QString withLastField(const QString& field) const;

    JobModel& m_model;
    QStandardItemModel* m_offers;
    QCompleter* m_completer;
    QStringList m_waiting; ///< pasted lines behind one that was not understood
    QStringList m_typed;   ///< lines that were taken, the newest last
    qsizetype m_recalled = 0;
};

} // namespace metrodos::desktop
