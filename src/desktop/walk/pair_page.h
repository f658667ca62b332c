// One jack against all others of its medium: what a pair of adapters would carry, and what takes it away.
#pragma once

#include "capacity/mains_channel.h"
#include "desktop/model/job_model.h"

#include <QWidget>

class QComboBox;
class QLabel;

namespace metrodos::desktop {

class LossView;
class RangeList;

class PairPage : public QWidget {
    Q_OBJECT

  public:
    /// For coax or mains.
    PairPage(JobModel& model, house::JackKind kind, QWidget* parent = nullptr);
    /// Brings the page up to date; called when it is shown and when the house changes while it is.
    void refresh();

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fillJacks();
    void fillRows();
    void showPair(int row);
    void showCoaxPair(const house::Id& from, const house::Id& to);
    [[nodiscard]] capacity::MainsQuestion mainsQuestion(const house::Id& from, const house::Id& to) const;
    void showMainsPair(const house::Id& from, const house::Id& to);

    JobModel& m_model;
    house::JackKind m_kind;
    QComboBox* m_from;
    QComboBox* m_class;
    QLabel* m_use;
    RangeList* m_list;
    LossView* m_losses;
    std::vector<house::Id> m_others; // by row
};

} // namespace metrodos::desktop
