#include "app/stations/budget/fit_plot.h"

#include "app/parts/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace hue {

FitPlot::FitPlot(QWidget* parent) : QWidget(parent) {
    setFixedHeight(120);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Cost over difference"));
    setToolTip(tr("Each dot is a state on the way: the further right, the more is seen of it; the lower, the less it costs. A click or the "
                  "arrow keys "
                  "choose one."));
}

void FitPlot::set(const std::optional<Fit>& fit) {
    m_fit = fit;
    m_chosen = fit ? int(fit->steps.size()) - 1 : -1;
    m_mostSeen = 0.1, m_mostCost = 1;
    if (fit)
        for (const FitStep& s : fit->steps) {
            m_mostSeen = std::max(m_mostSeen, s.difference);
            m_mostCost = std::max(m_mostCost, double(s.verdict.cost.operationsPerPixel()));
        }
    update();
    Q_EMIT chosenChanged();
}

QPointF FitPlot::placeOf(size_t k) const {
    const QRectF r = QRectF(rect()).adjusted(34, 10, -14, -20);
    const FitStep& s = m_fit->steps[k];
    return {r.left() + r.width() * s.difference / m_mostSeen,
            r.bottom() - r.height() * double(s.verdict.cost.operationsPerPixel()) / m_mostCost};
}

void FitPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const QRectF r = QRectF(rect()).adjusted(34.5, 10.5, -14.5, -20.5);
    p.setPen(QPen(t.ink2, 1));
    p.drawLine(r.bottomLeft(), r.bottomRight());
    p.drawLine(r.bottomLeft(), r.topLeft());
    p.setFont(codeFont(10));
    p.drawText(QRectF(0, r.top() - 6, 31, 14), Qt::AlignRight, QString::number(int(m_mostCost)));
    p.drawText(QRectF(r.left(), r.bottom() + 3, r.width(), 14), Qt::AlignRight, tr("seen %1").arg(m_mostSeen, 0, 'f', 2));
    p.drawText(QRectF(r.left(), r.bottom() + 3, r.width(), 14), Qt::AlignLeft, "0");
    if (!m_fit) {
        p.setFont(textFont(12));
        p.drawText(r, Qt::AlignCenter | Qt::TextWordWrap, tr("The way to the target is drawn here"));
    } else {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(t.ink, 1.2));
        for (size_t k = 0; k + 1 < m_fit->steps.size(); ++k) {
            const QPointF a = placeOf(k), b = placeOf(k + 1);
            p.drawLine(a, QPointF(b.x(), a.y()));
            p.drawLine(QPointF(b.x(), a.y()), b);
        }
        for (size_t k = 0; k < m_fit->steps.size(); ++k) {
            p.setBrush(int(k) == m_chosen ? t.ink : t.card);
            p.drawEllipse(placeOf(k), int(k) == m_chosen ? 5 : 3.5, int(k) == m_chosen ? 5 : 3.5);
        }
    }
    if (hasFocus()) {
        p.setRenderHint(QPainter::Antialiasing, false);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void FitPlot::choose(int step) {
    if (!m_fit) return;
    m_chosen = std::clamp(step, 0, int(m_fit->steps.size()) - 1);
    update();
    Q_EMIT chosenChanged();
}

void FitPlot::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (!m_fit) return;
    int best = 0;
    for (size_t k = 0; k < m_fit->steps.size(); ++k)
        if ((placeOf(k) - e->position()).manhattanLength() < (placeOf(size_t(best)) - e->position()).manhattanLength()) best = int(k);
    choose(best);
}

void FitPlot::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Up) return choose(m_chosen - 1);
    if (e->key() == Qt::Key_Right || e->key() == Qt::Key_Down) return choose(m_chosen + 1);
    QWidget::keyPressEvent(e);
}

} // namespace hue
