#pragma once
// The strip of live pictures.
#include "app/picture_service.h"

#include <QMimeData>
#include <QWidget>

class QHBoxLayout;
class QToolButton;

namespace hue {

class SpecimenView;

class LineupView : public QWidget {
    Q_OBJECT

  public:
    LineupView(Session& session, PictureService& pictures, QWidget* parent = nullptr);
    SpecimenView* specimen(size_t index) const { return index < m_views.size() ? m_views[index] : nullptr; }
    size_t count() const { return m_views.size(); }
    void setView(const QString& key);
    void nextView();
    void addSpecimen();
    static constexpr size_t kMost = 3;

  private:
    void refresh();
    void requestAll(bool onlyAnimated);
    void change(const std::function<void(Lineup&)>& change);
    /// As a step of undo; `change` is for the camera and what is viewed, which are none.
    void changeByEdit(const QString& name, const std::function<void(Lineup&)>& change);

    Session& m_session;
    PictureService& m_pictures;
    QHBoxLayout* m_row;
    QToolButton* m_add;
    std::vector<SpecimenView*> m_views;
};

/// One picture with its foot. Turns the shared orbit by dragging; takes masters, instances and meshes by dropping.
class SpecimenView : public QWidget {
    Q_OBJECT

  public:
    SpecimenView(Session& session, size_t index, QWidget* parent);
    /// Pictures of older requests than one that was shown are passed over.
    void show(const QImage& picture, const QString& problem, bool animated, quint64 serial);
    /// A picture of a newer state is on its way; `visibly`: the mark *updating* should say so.
    void expect(quint64 serial, bool visibly);
    const QImage& picture() const { return m_picture; }
    const QString& problem() const { return m_problem; }
    bool updating() const { return m_shown < m_expected; }
    bool animated() const { return m_animated; }
    int framesShown() const { return m_frames; }
    /// The sheet and the board show what the specimen wears.
    void editWorn();
    QSize pictureSize() const { return {width(), height() - kFoot}; }
    static constexpr int kFoot = 30;

  Q_SIGNALS:
    void orbited(float yaw, float pitch);
    void zoomed(float factor);
    void resized();
    void menuWanted(const QPoint& global);
    void dropped(const QMimeData* data);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override { editWorn(); }
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override { Q_EMIT resized(); }
    void contextMenuEvent(QContextMenuEvent* e) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    Session& m_session;
    size_t m_index;
    QImage m_picture;
    QString m_problem;
    QPointF m_last;
    bool m_updating = false, m_animated = false;
    quint64 m_shown = 0, m_expected = 0;
    int m_frames = 0;
};

} // namespace hue
