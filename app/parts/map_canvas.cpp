#include "app/parts/map_canvas.h"

#include "app/parts/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

namespace hue {

MapCanvas::MapCanvas(const QString& name, QWidget* parent) : QWidget(parent) {
    setAccessibleName(name);
    setToolTip(tr("Wheel zooms, drag moves, double click fits"));
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(60, 60);
}

void MapCanvas::setImage(const QImage& image) {
    m_image = image;
    update();
}

void MapCanvas::setCaption(const QString& caption) {
    m_caption = caption;
    setAccessibleDescription(caption);
    update();
}

double MapCanvas::scale() const {
    if (m_image.isNull()) return 1;
    if (m_place->zoom > 0) return m_place->zoom;
    return std::min(area().width() / double(m_image.width()), area().height() / double(m_image.height()));
}

QRectF MapCanvas::pictureRect() const {
    const double s = scale();
    const QSizeF size = QSizeF(m_image.size()) * s;
    const QPointF middle = m_place->zoom > 0 ? m_place->middle : QPointF(0.5, 0.5);
    return QRectF(QPointF(area().center()) - QPointF(middle.x() * size.width(), middle.y() * size.height()), size);
}

void MapCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.fillRect(rect(), t.panel);
    p.fillRect(area(), t.surround);
    if (m_image.isNull()) {
        p.setPen(t.card);
        p.setFont(textFont(12));
        p.drawText(area().adjusted(10, 10, -10, -10), Qt::AlignCenter | Qt::TextWordWrap, m_empty);
    } else {
        p.setClipRect(area());
        p.setRenderHint(QPainter::SmoothPixmapTransform, scale() < 1.5);
        p.drawImage(pictureRect(), m_image);
        p.setClipping(false);
    }
    if (hasFocus()) {
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.drawRect(area().adjusted(1, 1, -2, -2));
    }
    p.setFont(m_readoutText.isEmpty() ? textFont(12) : codeFont(11));
    p.setPen(t.ink);
    const QRect foot(4, height() - kFoot, width() - 8, kFoot);
    p.drawText(foot, Qt::AlignVCenter | Qt::AlignLeft,
               p.fontMetrics().elidedText(m_readoutText.isEmpty() ? m_caption : m_readoutText, Qt::ElideRight, foot.width()));
}

void MapCanvas::zoomAt(QPointF at, double factor) {
    if (m_image.isNull()) return;
    const QRectF before = pictureRect();
    const QPointF share((at.x() - before.left()) / before.width(), (at.y() - before.top()) / before.height());
    m_place->zoom = std::clamp(scale() * factor, 0.01, 64.0);
    const QSizeF size = QSizeF(m_image.size()) * m_place->zoom;
    const QPointF corner = at - QPointF(share.x() * size.width(), share.y() * size.height());
    m_place->middle = QPointF((area().center().x() - corner.x()) / size.width(), (area().center().y() - corner.y()) / size.height());
    update();
    Q_EMIT moved();
}

void MapCanvas::wheelEvent(QWheelEvent* e) {
    zoomAt(e->position(), std::pow(1.2, e->angleDelta().y() / 120.0));
    e->accept();
}

void MapCanvas::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Plus) return zoomAt(area().center(), 1.25);
    if (e->key() == Qt::Key_Minus) return zoomAt(area().center(), 0.8);
    if (e->key() == Qt::Key_0) return mouseDoubleClickEvent(nullptr);
    QWidget::keyPressEvent(e);
}

void MapCanvas::mousePressEvent(QMouseEvent* e) {
    setFocus();
    m_from = e->position();
}

void MapCanvas::mouseMoveEvent(QMouseEvent* e) {
    if ((e->buttons() & Qt::LeftButton) && !m_image.isNull()) {
        if (m_place->zoom <= 0) m_place->zoom = scale(), m_place->middle = {0.5, 0.5};
        const QSizeF size = QSizeF(m_image.size()) * m_place->zoom;
        const QPointF by = e->position() - m_from;
        m_place->middle -= QPointF(by.x() / size.width(), by.y() / size.height());
        m_from = e->position();
        Q_EMIT moved();
    }
    const QRectF r = pictureRect();
    m_readoutText = m_readout && !m_image.isNull() && r.contains(e->position())
                        ? m_readout({(e->position().x() - r.left()) / r.width(), (e->position().y() - r.top()) / r.height()})
                        : QString();
    update();
}

void MapCanvas::mouseDoubleClickEvent(QMouseEvent*) {
    m_place->zoom = 0;
    update();
    Q_EMIT moved();
}

void MapCanvas::leaveEvent(QEvent*) {
    m_readoutText.clear();
    update();
}

} // namespace hue
