#pragma once
// What is painted: the paintwork, its channels by the names that the master gives them, how they are seen, and rules that fill them.
#include "app/stations/paint/paint_desk.h"

#include <QWidget>

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QToolButton;

namespace hue {

class ChannelPanel : public QWidget {
    Q_OBJECT

  public:
    ChannelPanel(Session& session, PaintDesk& desk, QWidget* parent = nullptr);
    /// Puts the cursor where a rule is typed.
    void typeRule();

  Q_SIGNALS:
    void overlayChanged(bool vertices, bool edges);
    /// To the station Graph, where a card was placed.
    void graphWanted();

  private:
    void refresh();
    void refreshShares();
    void refreshSwatches();
    void refreshLive();
    /// As the list stands now, the first below the others; rows without words do not count.
    std::vector<std::string> rulesShown() const;
    /// They become the channel's.
    void liveEdited();
    void fillMenu();
    void chooseName();

    Session& m_session;
    PaintDesk& m_desk;
    QComboBox *m_specimen, *m_paintwork;
    QToolButton* m_menuButton;
    QListWidget *m_channels, *m_live;
    QButtonGroup* m_shown;
    QCheckBox *m_vertices, *m_edges;
    QLineEdit* m_rule;
    QLabel *m_ruleHelp, *m_liveHead, *m_hint;
    QPushButton *m_fill, *m_keepLive, *m_place, *m_mixOver;
    bool m_refreshing = false;
};

} // namespace hue
