#include "app/stations/graph/overview.h"

#include "app/parts/theme.h"
#include "app/stations/graph/board.h"

#include <QMouseEvent>
#include <QPainter>

namespace hue {

Overview::Overview(Board& board) : QWidget(&board), m_board(board) {
    setObjectName("overview");
    setAccessibleName(tr("Overview of the board"));
    setToolTip(tr("The whole board; click or drag to look elsewhere"));
    setFixedSize(176, 112);
    setCursor(Qt::PointingHandCursor);
    hide();
}

void Overview::setWanted(bool wanted) {
    m_wanted = wanted;
    follow();
}

void Overview::follow() {
    const QRectF all = m_board.layout().bounds();
    const QRectF seen(m_board.toBoard({0, 0}), m_board.toBoard(QPointF(m_board.width(), m_board.height())));
    // A card that is cut by the edge is still in sight.
    const bool needed = m_wanted && !all.isNull() && !seen.adjusted(-40, -40, 40, 40).contains(all) && m_board.width() > 2 * width();
    move(12, m_board.height() - height() - 12);
    setVisible(needed);
    if (needed) update();
}

QTransform Overview::scale() const {
    const QRectF seen(m_board.toBoard({0, 0}), m_board.toBoard(QPointF(m_board.width(), m_board.height())));
    const QRectF all = (m_board.layout().bounds() | seen).adjusted(-20, -20, 20, 20);
    const qreal s = std::min((width() - 4) / all.width(), (height() - 4) / all.height());
    QTransform t;
    t.translate(width() / 2.0, height() / 2.0);
    t.scale(s, s);
    t.translate(-all.center().x(), -all.center().y());
    return t;
}

void Overview::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    const QTransform to = scale();
    p.setPen(QPen(t.ink2, 1, Qt::DotLine));
    for (const BayLayout& bay : m_board.layout().bays)
        if (!bay.folded) p.drawRect(to.mapRect(bay.rect));
    for (const auto& [id, card] : m_board.layout().cards)
        p.fillRect(to.mapRect(card.rect), m_board.selection().contains(id) ? t.ink : t.ink2);
    for (const BayLayout& bay : m_board.layout().bays)
        if (bay.folded) p.fillRect(to.mapRect(bay.rect), t.ink2);
    p.setPen(QPen(t.ink, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawRect(to.mapRect(QRectF(m_board.toBoard({0, 0}), m_board.toBoard(QPointF(m_board.width(), m_board.height())))));
    p.setPen(QPen(t.hairline, 1));
    p.drawRect(rect().adjusted(0, 0, -1, -1));
}

void Overview::look(QPointF at) { m_board.lookAt(scale().inverted().map(at)); }

void Overview::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton) look(e->position());
}

void Overview::mouseMoveEvent(QMouseEvent* e) {
    if (e->buttons() & Qt::LeftButton) look(e->position());
}

} // namespace hue
