#include "app/stations/graph/whole_row.h"

#include "app/parts/theme.h"
#include "app/session/session.h"
#include "core/edits/edits.h"
#include "core/nodes/finish.h"

#include <QKeyEvent>
#include <QPainter>
#include <QToolButton>

namespace hue {

WholeRow::WholeRow(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName("channel_finish");
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(30);
    setToolTip(tr("Lead a finish here and it feeds every channel that has no wire of its own.\nDelete takes the wire away."));
    m_mute = new QToolButton(this);
    m_mute->setText("\u2298");
    m_mute->setCheckable(true);
    m_mute->setAccessibleName(tr("Mute the finish"));
    m_mute->setToolTip(tr("Mute: show the surface without the finish; its wire stays"));
    connect(m_mute, &QToolButton::clicked, this, [this](bool on) {
        m_session.apply(on ? tr("mute the finish") : tr("unmute the finish"),
                        [&](const Project& p) { return edit::muteChannel(p, m_session.masterId(), std::string(kWholeSurface), on); });
    });
}

void WholeRow::refresh() {
    const Master* m = m_session.master();
    const auto wire = m ? m->graph.channelWires.find(std::string(kWholeSurface)) : decltype(m->graph.channelWires.end()){};
    const bool wired = m && wire != m->graph.channelWires.end();
    m_source = wired ? QString::fromStdString(cardTitle(m_session.project(), *m, wire->second.node)) : QString();
    m_mute->setVisible(wired);
    m_mute->setChecked(wired && !feedsWhole(m->graph));
    setAccessibleName(wired ? tr("Finish of the whole surface, from %1").arg(m_source) : tr("Finish of the whole surface, none"));
    update();
}

void WholeRow::resizeEvent(QResizeEvent*) { m_mute->setGeometry(width() - 34, 3, 26, 24); }

void WholeRow::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_Delete || m_source.isEmpty()) return QWidget::keyPressEvent(e);
    m_session.apply(tr("delete wire"),
                    [&](const Project& p) { return edit::disconnectChannel(p, m_session.masterId(), std::string(kWholeSurface)); });
}

void WholeRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const bool wired = !m_source.isEmpty(), counts = wired && !m_mute->isChecked();
    // A tall bar, as at every port of a finish.
    p.fillRect(QRect(0, height() / 2 - 8, 5, 16), wired ? t.ink : t.ink2);
    p.setFont(textFont(13, wired));
    p.setPen(counts ? t.ink : t.ink2);
    const QString name = tr("Finish");
    p.drawText(QRect(12, 0, width() - 24, height()), Qt::AlignLeft | Qt::AlignVCenter, name);
    const int left = 12 + p.fontMetrics().horizontalAdvance(name) + 10, room = width() - left - (wired ? 38 : 12);
    p.setFont(textFont(12));
    p.setPen(t.ink2);
    p.drawText(QRect(left, 0, room, height()), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(wired ? m_source : tr("none, channel by channel"), Qt::ElideRight, room));
    if (hasFocus()) {
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(8, 1, -2, -2));
    }
}

} // namespace hue
