#pragma once
// Problems, time controls, save state.
#include "app/parts/commands.h"
#include "app/session/session.h"

#include <QFrame>

class QLabel;
class QListWidget;
class QToolButton;
class QSlider;
class QVBoxLayout;

namespace hue {

class StatusBar : public QWidget {
    Q_OBJECT

  public:
    StatusBar(Session& session, Commands& commands, QWidget* parent = nullptr);
    /// Opens the list of problems above the bar.
    void toggleProblems();
    int listWidth() const;
    void nextProblem();
    void refreshSaved();
    /// In use, of the whole project.
    void setBuilds(size_t builds);
    /// Says when pictures are drawn with fewer pixels to keep up.
    void showPace(float scale, double seconds);
    /// Whether the effect loops: difference of its first and last frame.
    void showSeam(float difference);
    QString seamText() const;

  Q_SIGNALS:
    void placeWanted(const hue::Place& place);

  protected:
    /// Colors that are set by hand follow the theme.
    void changeEvent(QEvent*) override;

  private:
    void refreshProblems();
    void refreshTime();
    void fillList();
    void relocate(const Id& file);

    Session& m_session;
    QToolButton *m_problems, *m_play, *m_loop, *m_speed;
    size_t m_builds = 0;
    QLabel *m_message, *m_time, *m_saved, *m_seam, *m_pace;
    QSlider* m_scrub;
    QFrame* m_list;
    QVBoxLayout* m_listColumn;
    size_t m_next = 0;
};

} // namespace hue
