#pragma once
// The whole board, small, in a corner of it, with the part that is in view; there only while something is out of view.
#include <QWidget>

namespace hue {

class Board;

class Overview : public QWidget {
    Q_OBJECT

  public:
    explicit Overview(Board& board);
    /// Follows what lies on the board and what is seen of it.
    void follow();
    void setWanted(bool wanted);
    bool wanted() const { return m_wanted; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;

  private:
    /// From the board to this picture.
    QTransform scale() const;
    void look(QPointF at);

    Board& m_board;
    bool m_wanted = true;
};

} // namespace hue
