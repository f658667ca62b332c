// The pages of a PDF one below the other, as wide as the view.
#pragma once

#include <QAbstractScrollArea>
#include <QCache>
#include <QImage>
#include <memory>

namespace Poppler {
class Document;
}

namespace metrodos::desktop {

class PageView : public QAbstractScrollArea {
    Q_OBJECT

  public:
    explicit PageView(QWidget* parent = nullptr);
    ~PageView() override;

    /// Shows the pages of a PDF file; where the last one stood, as far as there are so many.
    void setPdf(const QByteArray& bytes);
    /// Moves to where the outline has this entry.
    void showEntry(const QString& title);
    /// All that stands on the pages, in the order of reading.
    [[nodiscard]] QString text() const;
    [[nodiscard]] int pages() const;
    [[nodiscard]] QSizeF paper(int page) const; ///< points
    /// One page as it is printed, `dpi` to the inch.
    [[nodiscard]] QImage picture(int page, double dpi) const;

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void changeEvent(QEvent* event) override;

  private:
    [[nodiscard]] double scale() const; ///< pixels to a point
    void arrange();

    std::unique_ptr<Poppler::Document> m_pdf;
    std::vector<double> m_tops; ///< of each page, px; then the end
    mutable QCache<int, QImage> m_pictures;
    double m_picturesScale = 0;
};

} // namespace metrodos::desktop
