#pragma once
// The strip of live pictures: one to six specimens, and above them what they all share.
#include "app/lineup/specimen_view.h"
#include "app/parts/commands.h"

#include <QPointer>

class QHBoxLayout;
class QLabel;
class QMenu;
class QToolButton;

namespace hue {

class ScenePanel;
class YardstickPanel;

class LineupView : public QWidget {
    Q_OBJECT

  public:
    LineupView(Session& session, PictureService& pictures, Commands& commands, QWidget* parent = nullptr);
    SpecimenView* specimen(size_t index) const { return index < m_views.size() ? m_views[index] : nullptr; }
    size_t count() const { return m_views.size(); }
    void setView(const QString& key);
    void nextView();
    /// The view "wire" shows this wire of the session's master.
    void showWire(const Source& wire);
    void addSpecimen();
    void toggleYardstick();
    /// One specimen takes the whole lineup, or all stand side by side again.
    void fill(int index);
    int filled() const { return m_filled; }
    /// Only the row of buttons stays.
    void setFolded(bool folded);
    bool folded() const { return m_folded; }
    /// The specimen that keys and commands mean.
    size_t current() const;
    /// The next click on a specimen takes its unlit color.
    void pickColor(std::function<void(const Value&)> take);
    ScenePanel* scenePanel() const { return m_scenePanel; }
    YardstickPanel* yardstickPanel() const { return m_yardstickPanel; }
    /// Range that an unlit view shows from black to white: what the picture of the first specimen holds.
    void stretchView();
    static constexpr size_t kMost = 6;

  Q_SIGNALS:
    void recordWanted();
    /// One specimen fills the window, or all are back.
    void filledChanged(bool filled);
    /// Resolution while something moves, and the time of a frame.
    void paceChanged(float scale, double seconds);

  private:
    void refresh();
    void refreshHead();
    void fillViewMenu(QMenu* menu, QMenu* ofLayers);
    void connectSpecimen(SpecimenView* view);
    void requestAll(bool onlyAnimated);
    PictureRequest requestFor(size_t index, bool moving);
    /// For the camera and what is viewed, which are no steps of undo.
    void change(const std::function<void(Lineup&)>& change);
    void changeOrbit(size_t index, bool alone, const std::function<void(Orbit&)>& change);
    void changeByEdit(const QString& name, const std::function<void(Lineup&)>& change, const QString& key = {});
    void showMenu(size_t index, const QPoint& global);
    void fillMeshMenu(QMenu* menu, size_t index);
    void fillPlacementsMenu(QMenu* menu, size_t index);
    void fillThingsMenu(QMenu* menu, size_t index);
    bool dropMapSet(size_t index, const QMimeData* mime);
    void wearUnder(size_t index, const QPoint& at, const Id& worn);
    void showReadout(int place, int x, int y, const Probe& probe);
    void pasteDropped(size_t index, const QMimeData* mime, const QPoint& at);
    void measureSeamSoon();

    friend class ScenePanel;
    friend class YardstickPanel;

    Session& m_session;
    PictureService& m_pictures;
    QWidget* m_head;
    QHBoxLayout* m_row;
    QToolButton *m_viewButton, *m_rangeButton, *m_lightButton, *m_yardstickButton, *m_add;
    ScenePanel* m_scenePanel;
    YardstickPanel* m_yardstickPanel;
    std::vector<SpecimenView*> m_views;
    std::vector<Specimen> m_shown; ///< what the views stand for
    std::function<void(const Value&)> m_take;
    QPointer<class QShortcut> m_keepColor; ///< ends the choice of a color
    std::optional<std::pair<size_t, Id>> m_pendingWear;
    Yardstick m_lastYardstick;
    QTimer m_seamTimer;
    std::string m_lightProblem; ///< said already
    int m_filled = -1;
    bool m_folded = false;
    QWidget* m_body;
};

} // namespace hue
