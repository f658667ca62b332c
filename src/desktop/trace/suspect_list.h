// The suspects of a diagnosis by probability, each with what speaks for and against it.
#pragma once

#include "trace/diagnose.h"

#include <QWidget>

class QVBoxLayout;

namespace metrodos::desktop {

class SuspectList : public QWidget {
    Q_OBJECT

  public:
    explicit SuspectList(QWidget* parent = nullptr);
    void setSuspects(const std::vector<trace::Suspect>& suspects);

  Q_SIGNALS:
    void chosen(const QString& element);
    /// The runs that a piece of evidence stands on are wanted.
    void runsAsked(const QStringList& ids);

  private:
    QVBoxLayout* m_rows;
};

} // namespace metrodos::desktop
