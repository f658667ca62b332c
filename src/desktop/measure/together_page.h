// Ways that are used at the same time: what each would get, what they share, and a run of them together.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>
#include <set>

class QLabel;
class QTableWidget;

namespace metrodos::desktop {

class TogetherPage : public QWidget {
    Q_OBJECT

  public:
    explicit TogetherPage(RouteModel& model, QWidget* parent = nullptr);

    /// What stands under the list, for screen readers and tests.
    [[nodiscard]] QString text() const;

  Q_SIGNALS:
    void said(const QString& sentence, bool isProblem);
    /// The chosen ways are to be run at once, between these machines: who sends, and to whom.
    void runAsked(const std::vector<std::pair<house::Id, house::Id>>& pairs);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    /// One direction of a way.
    struct Flow {
        house::Id route;
        bool forward = true;
        friend auto operator<=>(const Flow&, const Flow&) = default;
    };
    void fill();
    void toggle(int row);
    void forecast();
    void askRun();
    [[nodiscard]] QString name(const Flow& flow) const;

    RouteModel& m_model;
    QTableWidget* m_list;
    QLabel* m_sentence;
    std::vector<Flow> m_flows;
    std::set<Flow> m_chosen;
};

} // namespace metrodos::desktop
