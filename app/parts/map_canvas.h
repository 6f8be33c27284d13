#pragma once
// A picture of a map that can be zoomed and moved; several can look at the same place together.
#include <QImage>
#include <QWidget>
#include <functional>
#include <memory>

namespace hue {

/// Where canvases look; shared by those that move together.
struct CanvasPlace {
    double zoom = 0;          ///< screen pixels a picture pixel; 0: fitted
    QPointF middle{0.5, 0.5}; ///< of the picture, shares
};

class MapCanvas : public QWidget {
    Q_OBJECT

  public:
    explicit MapCanvas(const QString& name, QWidget* parent = nullptr);
    void setImage(const QImage& image);
    const QImage& image() const { return m_image; }
    /// Words on the picture's foot; the readout takes their place under the pointer.
    void setCaption(const QString& caption);
    QString caption() const { return m_caption; }
    /// What is told about the place under the pointer; empty beside the picture.
    const QString& readoutText() const { return m_readoutText; }
    void setReadout(std::function<QString(QPointF share)> readout) { m_readout = std::move(readout); }
    void follow(std::shared_ptr<CanvasPlace> place) { m_place = std::move(place); }
    void setEmptyText(const QString& text) { m_empty = text; }
    /// The place of the picture on the widget.
    QRectF pictureRect() const;
    /// Wheel, drag and double click for zoom, pan and fit; the other canvases of the group are told by moved().
    QSize sizeHint() const override { return {180, 180}; }

  Q_SIGNALS:
    void moved();

  protected:
    void paintEvent(QPaintEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    QRect area() const { return rect().adjusted(0, 0, 0, -kFoot); }

    static constexpr int kFoot = 20;

  private:
    double scale() const;
    void zoomAt(QPointF at, double factor);

    QImage m_image;
    QString m_caption, m_empty, m_readoutText;
    std::function<QString(QPointF)> m_readout;
    std::shared_ptr<CanvasPlace> m_place = std::make_shared<CanvasPlace>();
    QPointF m_from;
};

} // namespace hue
