#pragma once
// Draws a black-and-white mask on the spot.
#include "app/stations/maps/map_panes.h"
#include "core/maps/mask.h"

class QToolButton;

namespace hue {

/// The mask under construction: drag a box, or click the points of a polygon or line.
class MaskCanvas : public MapCanvas {
    Q_OBJECT

  public:
    using MapCanvas::MapCanvas;
    void setKind(MaskShape::Kind kind);

  Q_SIGNALS:
    /// A box was dragged, or points were finished with a double click or Enter.
    void drawn(const hue::MaskShape& shape);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QPointF share(QPointF at) const;
    void finish();
    MaskShape::Kind m_kind = MaskShape::Kind::Rectangle;
    std::vector<std::pair<float, float>> m_points;
    QPointF m_start, m_now;
    bool m_dragging = false;
};

class MapDrawPane : public MapPane {
    Q_OBJECT

  public:
    MapDrawPane(Session& session, MapService& service);
    void show(const Id& map) override;
    MaskCanvas* canvas() const { return m_canvas; }
    const MaskDrawing& drawing() const { return m_drawing; }

  private:
    void redraw();
    void keep();
    MaskDrawing m_drawing;
    MaskCanvas* m_canvas;
    QButtonGroup* m_kinds;
    QLineEdit* m_text;
    QSlider *m_soft, *m_thickness;
    QCheckBox *m_black, *m_seamless;
    QComboBox* m_size;
    QLineEdit* m_name;
    QPushButton *m_keep, *m_back;
};

} // namespace hue
