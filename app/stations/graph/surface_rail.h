#pragma once
// The channels of the surface, always in view at the right of the board.
#include "app/stations/graph/board.h"

class QVBoxLayout;
class QLabel;

namespace hue {

class ChannelRow;
class WholeRow;

class SurfaceRail : public QWidget, public ChannelTargets {
    Q_OBJECT

  public:
    SurfaceRail(Session& session, BoardService& service, QWidget* parent = nullptr);
    std::vector<std::pair<std::string, int>> channelPins() const override;
    std::string channelAt(const QPoint& global) const override;
    ChannelRow* row(const std::string& channel) const;
    WholeRow* whole() const { return m_whole; }
    QToolButton* kindButton() const { return m_kind; }
    QToolButton* moreButton() const { return m_more; }
    /// What was announced last.
    QString announced() const;

  Q_SIGNALS:
    /// A channel's swatch was clicked: the lineup should show it.
    void viewWanted(const QString& view);
    /// Rows have moved; wires must follow.
    void moved();
    /// A channel should become a parameter.
    void exposeWanted(const QString& channel);

  private:
    void refresh();
    void changeSurface(const QString& name, const std::function<void(SurfaceSettings&)>& change);
    void fillKindMenu(class QMenu* menu);
    void chooseKind(const struct SurfaceKind& kind);
    /// Says which channels a choice has added, with their meaning and range.
    void announce(const QString& title, const std::vector<std::string>& lines);

    Session& m_session;
    BoardService& m_service;
    class QToolButton* m_alphaMode;
    QToolButton* m_sides;
    QToolButton* m_kind;
    QToolButton* m_more;
    class QScrollArea* m_scroll;
    class QFrame* m_announcement;
    QLabel* m_announced;
    bool m_showsAll = false;
    class ValueField* m_cutoff;
    QLabel* m_cutoffLabel;
    WholeRow* m_whole;
    std::vector<ChannelRow*> m_rows;
};

/// One channel: swatch, name, value or reason, mute mark.
class ChannelRow : public QWidget {
    Q_OBJECT

  public:
    ChannelRow(Session& session, const struct ChannelDef& channel, QWidget* parent);
    const ChannelDef& channel() const { return m_channel; }
    /// `fed`: by the finish of the whole. `inactive`: why the channel does not count, or empty; `wake`: the words of the switch that
    /// changes that.
    void refresh(const QImage& swatch, bool wired, bool fed, bool muted, const QString& inactive, const QString& wake);
    ValueField* field() const { return m_field; }
    class QPushButton* switchButton() const {
        return m_switch;
    }
    QToolButton* muteButton() const { return m_mute; }

  Q_SIGNALS:
    void swatchClicked();
    void switchClicked();
    void exposeWanted();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;

  private:
    Session& m_session;
    const ChannelDef& m_channel;
    QImage m_swatch;
    bool m_wired = false, m_fed = false, m_muted = false;
    QString m_inactive;
    ValueField* m_field;
    QPushButton* m_switch;
    QToolButton* m_mute;
};

} // namespace hue
