#pragma once
// The head of the surface rail, where a finish feeds the surface as a whole.
#include <QWidget>

class QToolButton;

namespace hue {

class Session;

class WholeRow : public QWidget {
    Q_OBJECT

  public:
    explicit WholeRow(Session& session, QWidget* parent);
    void refresh();
    QToolButton* muteButton() const { return m_mute; }
    /// Where a wire ends, from the row's top.
    int pinHeight() const { return height() / 2; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    Session& m_session;
    QToolButton* m_mute;
    QString m_source; ///< the card that feeds it; empty: none
};

} // namespace hue
