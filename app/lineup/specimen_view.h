#pragma once
// One picture of the lineup with its foot.
#include "app/lineup/picture_service.h"

#include <QMimeData>
#include <QWidget>

namespace hue {

/// Turns the orbit by dragging, pans with Shift, drags the line of a split yardstick, tells what lies under the pointer;
/// takes masters, instances, meshes and maps by dropping.
class SpecimenView : public QWidget {
    Q_OBJECT

  public:
    SpecimenView(Session& session, size_t index, QWidget* parent);
    /// Pictures of older requests than one that was shown are passed over.
    void show(const FinishedPicture& picture);
    /// Nothing is shown until a picture comes that is asked for from now on.
    void clear();
    /// A picture of a newer state is on its way; `visibly`: the mark *updating* should say so.
    void expect(quint64 serial, bool visibly);
    const QImage& picture() const { return m_shown.picture; }
    const FinishedPicture& finished() const { return m_shown; }
    const QString& problem() const { return m_problem; }
    bool updating() const { return m_serial < m_expected; }
    bool animated() const { return m_shown.animated; }
    int framesShown() const { return m_frames; }
    size_t index() const { return m_index; }
    /// The sheet and the board show what the specimen wears.
    void editWorn();
    /// What the picture area shows; half as wide when the yardstick stands beside.
    QSize pictureSize() const;
    QRect pictureRect() const;
    /// The words at the lower edge while the pointer rests on something.
    void setReadout(const QString& text);
    const QString& readout() const { return m_readout; }
    /// The next click takes the color under the pointer.
    void setPicking(bool picking);
    QString footText() const;
    static constexpr int kFoot = 30;

  Q_SIGNALS:
    void orbited(float yaw, float pitch, bool alone);
    void panned(float x, float y, bool alone);
    void zoomed(float factor, bool alone);
    void fitted(bool alone);
    void thingMoved(float right, float up, float near);
    void splitMoved(float at);
    void resized();
    void menuWanted(const QPoint& global);
    void dropped(const QMimeData* data, const QPoint& at);
    void hovered(int x, int y); ///< in pixels of the picture; -1 when the pointer has left
    void picked(int x, int y);
    void fillWanted();

  protected:
    bool event(QEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override { editWorn(); }
    void leaveEvent(QEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override { Q_EMIT resized(); }
    void contextMenuEvent(QContextMenuEvent* e) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    bool beside() const;
    const Yardstick* yardstick() const;
    void paintPicture(QPainter& p) const;
    /// Where a picture lies in a place: all of it, or the middle where it was made for other proportions.
    static QRect placeOf(const QImage& picture, const QRect& place);
    void paintFoot(QPainter& p) const;
    void paintNumbers(QPainter& p) const;

    Session& m_session;
    size_t m_index;
    FinishedPicture m_shown;
    QString m_problem, m_readout;
    QPointF m_last;
    bool m_updating = false, m_splitting = false, m_picking = false;
    quint64 m_serial = 0, m_expected = 0;
    quint64 m_least = 0; ///< pictures of older requests are of something else
    int m_frames = 0;
};

} // namespace hue
