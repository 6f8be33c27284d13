#pragma once
// The specimen, large, under the brush.
#include "app/lineup/picture_service.h"
#include "app/stations/paint/decal_desk.h"
#include "app/stations/paint/decal_handles.h"
#include "core/picture/sight.h"

#include <QWidget>

namespace hue {

/// Left button paints, with Shift along a straight line from where the last stroke ended, with Ctrl the other way around. Right button
/// turns, middle button moves; the wheel comes nearer, with Ctrl it sizes the brush. With decals in hand the left button takes hold of
/// them.
class PaintCanvas : public QWidget {
    Q_OBJECT

  public:
    PaintCanvas(Session& session, PictureService& pictures, PaintDesk& desk, DecalDesk& decals, QWidget* parent = nullptr);

    void setOverlay(bool vertices, bool edges);
    bool showsVertices() const { return m_vertices; }
    bool showsEdges() const { return m_edges; }
    /// Makes the brush larger or smaller by a factor.
    void resizeBrush(float factor);
    const QImage& picture() const { return m_shown.picture; }
    bool updating() const { return m_got < m_asked; }
    /// Where the brush is; nothing beside the mesh.
    const std::optional<MeshPoint>& at() const { return m_at; }
    /// Vertices that a touch there would reach.
    size_t reached() const { return m_reached; }
    /// The surface in the middle of the view.
    std::optional<MeshPoint> middle() const;
    /// The handles of the chosen decal; nothing where decals are not in hand.
    std::optional<DecalHandles> handles() const;
    /// The line of sight through a point of the widget.
    Ray sight(const QPointF& at) const;
    QSize sizeHint() const override { return {820, 460}; }

  protected:
    bool event(QEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void tabletEvent(QTabletEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void showEvent(QShowEvent*) override { request(); }
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void request();
    RenderSettings settings() const;
    void followView();
    void look(const QPointF& at);
    void hold(const QPointF& at);
    void dragDecal(const QPointF& at);
    bool decalKey(QKeyEvent*);
    void press(const QPointF& at, float pressure, Qt::KeyboardModifiers keys);
    /// Metres, where the brush is.
    float radiusHere() const;
    void turn(const std::function<void(Orbit&)>& how);
    void paintRings(QPainter& p) const;
    void paintMesh(QPainter& p) const;
    void paintWords(QPainter& p) const;

    Session& m_session;
    PictureService& m_pictures;
    PaintDesk& m_desk;
    DecalDesk& m_decals;
    DecalHandles::Grip m_grip = DecalHandles::Grip::None;
    QPointF m_gripped; ///< from where the decal's middle lies in the picture to where it was taken hold of
    FinishedPicture m_shown;
    quint64 m_asked = 0, m_got = 0;
    View m_view;
    std::optional<MeshPoint> m_at;
    QPointF m_pointer, m_last;
    size_t m_reached = 0;
    bool m_vertices = false, m_edges = false, m_tablet = false;
    std::optional<Ray> m_strokeEnd;
    std::vector<std::array<float, 3>> m_ring, m_innerRing;
    mutable std::vector<bool> m_inSight; ///< by place; empty: not asked for
};

} // namespace hue
