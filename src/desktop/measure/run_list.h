// The runs of the chosen route, the newest first: opened, left out with a reason, removed.
#pragma once

#include "desktop/model/route_model.h"

#include <QWidget>
#include <functional>

class QLineEdit;
class QTableWidget;

namespace metrodos::desktop {

class RunList : public QWidget {
    Q_OBJECT

  public:
    explicit RunList(RouteModel& model, QWidget* parent = nullptr);

    void fill();
    /// Of those that are listed; the first of them becomes the current one.
    void choose(const QStringList& ids);
    void clearChoice();
    /// While a run goes on nothing is removed or left out.
    void setLocked(bool isLocked) { m_isLocked = isLocked; }

  Q_SIGNALS:
    void chosen(const QString& id);
    /// Everything that was taken of this run is wanted.
    void opened(const QString& id);
    void said(const QString& sentence, bool isProblem);

  protected:
    bool event(QEvent* event) override;
    /// O, A and G speak of the chosen runs while the list has the focus.
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    [[nodiscard]] QString noteOf(const benchmark::Run& run) const;
    [[nodiscard]] QString partText(const house::Id& element) const;
    [[nodiscard]] QString idAt(int row) const;
    [[nodiscard]] std::vector<std::string> chosenIds() const;
    void remove();
    void askReason();
    void takeReason();
    void turnOthers();
    void askAppliances();
    void askChange();
    void takeChange();
    void note(const std::function<void(benchmark::Conditions&)>& note, const QString& sentence);
    [[nodiscard]] const benchmark::Run* chosenRun() const; ///< the current one
    void nextOrder();
    void askFilter();
    [[nodiscard]] std::vector<const benchmark::Run*> shownRuns() const; ///< in their order

    RouteModel& m_model;
    QTableWidget* m_table;
    QLineEdit* m_reason;  ///< why a run does not count
    QLineEdit* m_changed; ///< what was different during the chosen ones
    QLineEdit* m_filter;  ///< which runs are listed
    enum class Order { newest, fastest, slowest, longestDelay };
    Order m_order = Order::newest;
    bool m_isLocked = false;
};

/// What a run says about itself, a sentence each, behind its direction; empty: nothing.
[[nodiscard]] QString remarkText(const benchmark::Run& run);

} // namespace metrodos::desktop
