// Rows of ranges on one logarithmic axis: ways between two places, or one jack against all others.
#pragma once

#include "capacity/distribution.h"

#include <QAbstractScrollArea>
#include <optional>
#include <vector>

namespace metrodos::desktop {

struct RangeRow {
    QString id;
    QString title;
    QString note;                                ///< quiet, behind the title
    std::optional<catalog::RateSpread> forward;  ///< nothing: ruled out or not known
    std::optional<catalog::RateSpread> backward; ///< drawn below where it differs
    QString instead;                             ///< shown where there is no range
    bool isBest = false;
    QString best = {};                                  ///< of what; empty: of its room
    QString detail = {};                                ///< a second line below the title
    std::optional<quantity::BitRate> need = {};         ///< a tick across the bar
    std::optional<quantity::BitRate> promise = {};      ///< of the box: an open mark
    std::optional<quantity::BitRate> measured = {};     ///< a solid mark
    std::optional<quantity::BitRate> needBackward = {}; ///< the same across the lower bar
    std::optional<quantity::BitRate> measuredBackward = {};
    QString forwardName = {}; ///< of the upper bar: "towards the spot"
    QString backwardName = {};
    bool isShort = false;                         ///< the need is not carried
    std::optional<quantity::BitRate> figure = {}; ///< at the right, in place of the lower median
};

/// One row is chosen; up and down move, a click chooses. The median stands at the right in figures.
class RangeList : public QAbstractScrollArea {
    Q_OBJECT

  public:
    explicit RangeList(QWidget* parent = nullptr);

    void setRows(std::vector<RangeRow> rows);
    void setEmptyText(const QString& text) { m_empty = text; }
    [[nodiscard]] const std::vector<RangeRow>& rows() const { return m_rows; }
    [[nodiscard]] int current() const { return m_current; }
    void setCurrent(int row);
    /// Whether a row has two bars: something differs between its directions.
    [[nodiscard]] static bool hasTwoBars(const RangeRow& row);
    /// What hovering over a row says: every figure of it in bits and in bytes.
    [[nodiscard]] static QString tipOf(const RangeRow& row);
    /// Row texts for screen readers and tests.
    [[nodiscard]] QStringList texts() const;
    /// The titles and details that do not fit into three lines.
    [[nodiscard]] QStringList cutTexts() const;

  Q_SIGNALS:
    void chosen(int row);

  protected:
    bool viewportEvent(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    // How the texts of a row are set: over three lines at most.
    struct Setting {
        int top = 0;
        int height = 0;
        int titleHeight = 0;
        int detailHeight = 0;
        bool isCut = false;
    };
    void setTexts();
    [[nodiscard]] QString titleOf(const RangeRow& row) const;
    [[nodiscard]] int rowAt(int y) const; ///< of the viewport; −1: none
    std::vector<RangeRow> m_rows;
    std::vector<Setting> m_settings; // by row
    QString m_empty;
    int m_current = -1;
};

} // namespace metrodos::desktop
