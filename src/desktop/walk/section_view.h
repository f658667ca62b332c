// The house as a section through its floors: pan, zoom, choose two places.
#pragma once

#include "desktop/model/job_model.h"
#include "report/section.h"

#include <QWidget>
#include <set>

namespace metrodos::desktop {

/// Wheel or + and − zoom, dragging or the arrow keys move, 0 fits; comma and full stop go from thing to
/// thing. A click or Enter chooses the first place, the next the second. Letters are never below 11 pixels:
/// from afar rooms show how much of each kind they have, near by each thing its name. What is chosen, pointed
/// at or gone to shows its name whole. Drawn from the survey only.
class SectionView : public QWidget {
    Q_OBJECT

  public:
    explicit SectionView(JobModel& model, QWidget* parent = nullptr);

    void setMedium(house::Medium medium, bool shown);
    [[nodiscard]] bool shows(house::Medium medium) const { return m_media.contains(medium); }
    void setPlaces(const house::Id& from, const house::Id& to);
    /// Wires that are shown full while the others fade: of a way, by the ids of runs and circuits. Empty:
    /// those of the places that are chosen.
    void setEmphasis(std::set<house::Id> wires);
    [[nodiscard]] bool isFaded(const report::DrawnWire& wire) const;
    [[nodiscard]] bool showsNames() const;
    /// The label of the thing that the keys have gone to; empty: none.
    [[nodiscard]] QString current() const;
    /// Writes what is shown as .svg or .png. False when the file cannot be written.
    bool save(const QString& file);
    [[nodiscard]] QSize minimumSizeHint() const override { return {320, 200}; }
    [[nodiscard]] double scale() const { return m_scale; }

  Q_SIGNALS:
    void placeChosen(const QString& id);  ///< a room or a thing that stands in one
    void serviceAsked(const QString& id); ///< a route from this thing to the service

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void rebuild();
    void fit();
    void zoom(double factor, QPointF around);
    void paint(QPainter& p, const QRectF& visible, double scale) const;
    void paintWires(QPainter& p, const QRectF& visible) const;
    void paintMark(QPainter& p, const report::DrawnMark& mark, double scale) const;
    void paintName(QPainter& p, const report::DrawnMark& mark, const QRectF& visible, double scale) const;
    void paintCounts(QPainter& p, const report::DrawnRoom& room, double scale) const;
    void go(int by);
    [[nodiscard]] int markAt(QPointF drawing) const; ///< −1: none
    [[nodiscard]] QPointF toDrawing(QPointF widget) const { return (widget - m_offset) / m_scale; }
    [[nodiscard]] QString placeAt(QPointF drawing) const;
    [[nodiscard]] bool isThing(const house::Id& id) const;

    JobModel& m_model;
    report::Section m_section;
    std::set<house::Medium> m_media;
    house::Id m_from;
    house::Id m_to;
    std::set<house::Id> m_emphasis;
    int m_pointed = -1; ///< mark under the mouse
    int m_current = -1; ///< mark that the keys have gone to
    double m_scale = 1;
    QPointF m_offset;
    QPointF m_pressed;
    QPointF m_last;
    bool m_dragging = false;
    bool m_fitted = true;
};

} // namespace metrodos::desktop
