// What lies between two jacks: each loss as a step of a stair, what it costs, what would help, the hours.
#pragma once

#include "capacity/contribution.h"

#include <QWidget>
#include <optional>
#include <vector>

namespace metrodos::desktop {

struct LossPicture {
    QString title;
    QString sentence;    ///< the answer in one line
    QStringList rulings; ///< what rules it out or takes away, in the warm colour
    std::vector<capacity::Contribution> steps;
    catalog::Spread<double> totalDb;
    std::optional<double> fullUpToDb; ///< coax: full rate up to here
    std::optional<double> goneAtDb;   ///< and nothing beyond
    std::vector<capacity::Improvement> improvements;
    std::vector<double> byHour; ///< bit/s, 24 or none
};

class LossView : public QWidget {
    Q_OBJECT

  public:
    explicit LossView(QWidget* parent = nullptr);
    void setPicture(LossPicture picture);
    /// All that is drawn, as text for screen readers and tests.
    [[nodiscard]] QString text() const;
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    // Each paints from y down and returns where the next one begins.
    double paintHead(QPainter& p) const;
    double paintSteps(QPainter& p, double y) const;
    double paintHours(QPainter& p, double y) const;
    void paintImprovements(QPainter& p, double y) const;

    LossPicture m_picture;
};

} // namespace metrodos::desktop
