// Fast entry: one line is one thing of the house, with offers of what fits into the field being typed.
#pragma once

#include "desktop/model/job_model.h"

#include <QLineEdit>

class QCompleter;
class QStringListModel;

namespace metrodos::desktop {

class EntryField : public QLineEdit {
    Q_OBJECT

  public:
    explicit EntryField(JobModel& model, QWidget* parent = nullptr);

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);

  protected:
    /// Tab takes the first offer; Down opens the list.
    bool event(QEvent* event) override;

  private:
    void enter();
    void offerCompletions();
    bool takeFirstOffer();
    [[nodiscard]] QStringList offers() const;
    /// The line with its last field replaced.
    [[nodiscard]] QString withLastField(const QString& field) const;

    JobModel& m_model;
    QStringListModel* m_offers;
    QCompleter* m_completer;
};

} // namespace metrodos::desktop
