// How wires look on the board.
#include "app/parts/theme.h"
#include "app/stations/graph/board.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <QPainter>
#include <QPainterPath>

namespace hue {
namespace {

qreal weightOf(Rate rate) { return rate == Rate::Frame ? 1.0 : rate == Rate::Pixel ? 2.4 : 1.6; }

QPointF pointOf(Point p) { return {p.x, p.y}; }

/// Level and upright, with rounded turns.
QPainterPath pathOf(const WayOfWire& way) {
    constexpr qreal radius = 7;
    QPainterPath path(pointOf(way.front()));
    const auto toward = [](QPointF a, QPointF b, qreal most) {
        const qreal l = QLineF(a, b).length();
        return l < 1e-6 ? a : a + (b - a) * (std::min(most, l / 2) / l);
    };
    for (size_t k = 1; k + 1 < way.size(); ++k) {
        const QPointF before = pointOf(way[k - 1]), at = pointOf(way[k]), next = pointOf(way[k + 1]);
        path.lineTo(toward(at, before, radius));
        path.quadTo(at, toward(at, next, radius));
    }
    path.lineTo(pointOf(way.back()));
    return path;
}

/// The name of an underpass, with the take at the end that is read.
QString nameOfUnderpass(const Source& source, bool withTake) {
    return QString::fromStdString(source.underpass + (withTake && !source.take.empty() ? "." + source.take : ""));
}
qreal plateWidth(const QString& name) { return std::min<qreal>(QFontMetricsF(textFont(11)).horizontalAdvance(name) + 12, kUnderpassWidth); }

/// On a wire that is computed per vertex: a triangle with its corners.
void paintCorners(QPainter& p, QPointF middle) {
    const QPointF corners[] = {middle + QPointF(-8, 6), middle + QPointF(8, 6), middle + QPointF(0, -8)};
    p.setPen(QPen(theme().ink, 1.2));
    p.setBrush(theme().board);
    p.drawPolygon(corners, 3);
    p.setBrush(theme().ink);
    for (const QPointF& corner : corners) p.drawEllipse(corner, 1.8, 1.8);
    p.setBrush(Qt::NoBrush);
}

QRectF spanOf(const WayOfWire& way) {
    QRectF out(pointOf(way.front()), QSizeF(1, 1));
    for (const Point& p : way) out |= QRectF(pointOf(p), QSizeF(1, 1));
    return out.adjusted(-40, -40, 40, 40);
}

} // namespace

QPointF Board::channelPin(const std::string& key) const {
    if (m_channels)
        for (const auto& [channel, y] : m_channels->channelPins())
            if (channel == key) return toBoard(QPointF(width(), mapFromGlobal(QPoint(0, y)).y()));
    return toBoard(QPointF(width(), height() / 2.0));
}

std::vector<WireLayout> Board::drawnWires() const {
    std::vector<WireLayout> out = m_layout.wires;
    std::vector<WireLayout> more = channelWires();
    out.insert(out.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
    return out;
}

std::vector<WireLayout> Board::channelWires() const {
    std::vector<WireLayout> out;
    const Master* master = m_session.master();
    if (!master) return out;
    std::vector<WireEnds> ends;
    std::map<Source, int, decltype([](const Source& a, const Source& b) { return std::tie(a.node, a.port) < std::tie(b.node, b.port); })>
        nets;
    for (const std::string& channel : railKeys()) {
        const auto wire = master->graph.channelWires.find(channel);
        if (wire == master->graph.channelWires.end()) continue;
        const auto from = m_layout.outputPin(wire->second);
        if (!from) continue;
        const QPointF to = channelPin(wire->first);
        const Point a{float(from->x()), float(from->y())}, b{float(to.x()), float(to.y())};
        out.push_back({{{}, wire->first}, wire->second, {a, b}});
        if (!wire->second.underpass.empty()) continue;
        const int net = nets.try_emplace(wire->second, int(nets.size())).first->second;
        ends.push_back({a, b, net});
    }
    const std::vector<WayOfWire> ways = m_router.ways(ends);
    size_t next = 0;
    for (WireLayout& wire : out)
        if (wire.source.underpass.empty()) wire.way = ways[next++];
    return out;
}

void Board::paintWires(QPainter& p, const QRectF& visible) {
    struct Seen {
        const WireLayout* wire;
        QPainterPath path;
    };
    std::vector<Seen> wires;
    const std::vector<WireLayout> toChannels = channelWires();
    const auto see = [&](const std::vector<WireLayout>& of) {
        for (const WireLayout& w : of)
            if (w.source.underpass.empty() && spanOf(w.way).intersects(visible)) wires.push_back({&w, {}});
    };
    see(m_layout.wires);
    see(toChannels);
    // Wires of one output are drawn together, each group with a rim of paper, so that one sees which passes over which.
    const auto sourceOf = [](const Seen& s) { return std::tie(s.wire->source.node, s.wire->source.port); };
    std::stable_sort(wires.begin(), wires.end(), [&](const Seen& a, const Seen& b) { return sourceOf(a) < sourceOf(b); });
    for (Seen& seen : wires) seen.path = pathOf(seen.wire->way);
    const auto faint = [&](const WireLayout& w) {
        return m_kin && !m_selection.empty() &&
               !(m_related.contains(w.source.node) && (w.end.node.empty() || m_related.contains(w.end.node)));
    };
    for (size_t first = 0; first < wires.size();) {
        size_t last = first;
        while (last < wires.size() && sourceOf(wires[last]) == sourceOf(wires[first])) ++last;
        p.setBrush(Qt::NoBrush);
        if (m_zoom >= kFar) {
            p.setPen(QPen(theme().board, 5.5));
            for (size_t k = first; k < last; ++k) p.drawPath(wires[k].path);
        }
        for (size_t k = first; k < last; ++k) {
            const WireLayout& wire = *wires[k].wire;
            p.setOpacity(faint(wire) ? 0.18 : 1);
            paintWire(p, wire, wires[k].path, m_selectedWire == wire.end);
        }
        p.setOpacity(1);
        first = last;
    }
    // What is said of wires at their ends lies on all of them.
    if (m_zoom < kFar) return;
    for (const Seen& seen : wires) {
        p.setOpacity(faint(*seen.wire) ? 0.18 : 1);
        paintMarks(p, *seen.wire);
    }
    p.setOpacity(1);
}

void Board::paintUnderpasses(QPainter& p, const QRectF& visible) {
    if (m_zoom < kFar || !m_session.master()) return;
    // Most boards have none, and ways need not be asked for again then.
    const auto under = [](const Source& wire) { return !wire.underpass.empty(); };
    const auto& intoChannels = m_session.master()->graph.channelWires;
    if (std::none_of(m_layout.wires.begin(), m_layout.wires.end(), [&](const WireLayout& w) { return under(w.source); }) &&
        std::none_of(intoChannels.begin(), intoChannels.end(), [&](const auto& w) { return under(w.second); }))
        return;
    for (const WireLayout& wire : drawnWires())
        if (!wire.source.underpass.empty() && spanOf(wire.way).intersects(visible)) paintUnderpass(p, wire, m_selectedWire == wire.end);
}

void Board::paintWire(QPainter& p, const WireLayout& wire, const QPainterPath& path, bool chosen) {
    const auto& ports = m_service.facts()->ports;
    auto it = ports.find({wire.source.node, wire.source.port});
    PortInfo info = it == ports.end() ? PortInfo{1, Meaning::Any, Rate::Pixel} : it->second;
    if (wire.source.perVertex) info.rate = std::min(info.rate, Rate::Vertex);
    const QPointF from = pointOf(wire.way.front()), to = pointOf(wire.way.back());
    // A wire that is chosen is so at every size.
    const qreal far = std::max(1.0, kFar / m_zoom);
    p.setBrush(Qt::NoBrush);
    if (chosen) {
        p.setPen(QPen(theme().card, weightOf(info.rate) + 6 * far));
        p.drawPath(path);
    }
    if (info.width == kFinishPort) return paintFinishWire(p, path, chosen, far);
    p.setPen(QPen(theme().ink, (chosen ? weightOf(info.rate) + 1.4 : weightOf(info.rate)) * far,
                  info.width == kMapPort ? Qt::DashLine : Qt::SolidLine));
    p.drawPath(path);
    if (m_zoom < kFar) return;
    // As in an electrician's single-line diagram: a slash with the number of conductors.
    if (info.width > 1 && to.x() - from.x() > 30) {
        p.setPen(QPen(theme().ink, 1.1));
        p.drawLine(from + QPointF(3, 4), from + QPointF(8, -5));
        p.setFont(codeFont(9));
        p.drawText(from + QPointF(8, -5), QString::number(info.width));
    }
}

void Board::paintFinishWire(QPainter& p, const QPainterPath& path, bool chosen, qreal far) {
    // A band between two lines, hatched across.
    const qreal wide = (chosen ? 9 : 7) * far;
    QPen pen(theme().ink, wide, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
    p.setPen(pen);
    p.drawPath(path);
    pen.setWidthF(wide - 2.2 * far);
    pen.setColor(theme().board);
    p.setPen(pen);
    p.drawPath(path);
    if (m_zoom < kFar) return;
    const QPen hatch(theme().ink, 1, Qt::SolidLine, Qt::FlatCap);
    p.setPen(hatch);
    const qreal length = path.length(), half = wide / 2 - 0.8;
    for (qreal at = 3; at < length; at += 5) {
        const qreal percent = path.percentAtLength(at), angle = path.angleAtPercent(percent) * M_PI / 180;
        const QPointF here = path.pointAtPercent(percent), along(std::cos(angle), -std::sin(angle)), across(-along.y(), along.x());
        p.drawLine(here + across * half - along * 1.5, here - across * half + along * 1.5);
    }
}

void Board::paintMarks(QPainter& p, const WireLayout& wire) {
    const QPointF to = pointOf(wire.way.back());
    qreal end = to.x() - 3;
    if (!wire.source.take.empty()) {
        const QString take = "." + QString::fromStdString(wire.source.take);
        p.setFont(codeFont(10));
        const qreal w = p.fontMetrics().horizontalAdvance(take) + 5;
        const QRectF tag(end - w, to.y() - 14, w, 13);
        p.fillRect(tag, theme().board);
        p.setPen(theme().ink);
        p.drawText(tag, Qt::AlignCenter, take);
        end -= w;
    }
    const auto info = m_service.facts()->ports.find({wire.source.node, wire.source.port});
    const bool numbers = info == m_service.facts()->ports.end() || carriesNumbers(info->second.width);
    if (wire.source.perVertex && numbers) paintCorners(p, QPointF(end - 13, to.y()));
}

QRectF Board::underpassLabel(const WireLayout& wire) const {
    const QPointF to = pointOf(wire.way.back());
    const qreal w = plateWidth(nameOfUnderpass(wire.source, true));
    return {to.x() - 10 - w, to.y() - 9, w, 17};
}

void Board::paintUnderpass(QPainter& p, const WireLayout& wire, bool chosen) {
    // Two stubs with the same name.
    const Theme& t = theme();
    const QPointF from = pointOf(wire.way.front());
    const QRectF there = underpassLabel(wire), here(from.x() + 8, from.y() - 9, plateWidth(nameOfUnderpass(wire.source, false)), 17);
    p.setPen(QPen(t.ink, 1.6));
    p.drawLine(QPointF(there.right(), there.center().y()), pointOf(wire.way.back()));
    p.drawLine(from, QPointF(here.left(), from.y()));
    p.setFont(textFont(11));
    for (const bool end : {false, true}) {
        p.setBrush(chosen ? t.ink : t.board);
        p.setPen(QPen(t.ink, 1));
        p.drawRect(end ? there : here);
        p.setPen(chosen ? t.card : t.ink);
        p.drawText(end ? there : here, Qt::AlignCenter,
                   p.fontMetrics().elidedText(nameOfUnderpass(wire.source, end), Qt::ElideMiddle, int(kUnderpassWidth) - 8));
    }
}

void Board::paintBay(QPainter& p, const BayLayout& layout) {
    const Master* master = m_session.master();
    const Bay* bay = nullptr;
    for (const Bay& b : master->graph.bays)
        if (b.id == layout.id) bay = &b;
    if (!bay) return;
    const Theme& t = theme();
    const bool chosen = m_chosenBay == layout.id;
    // A card at fault shows through its folded bay.
    const auto& broken = m_service.facts()->broken;
    const bool fault = layout.folded && std::any_of(broken.begin(), broken.end(), [&](const auto& b) {
                           const auto hidden = m_layout.folded.find(b.first);
                           return hidden != m_layout.folded.end() && hidden->second == layout.id;
                       });
    p.setPen(QPen(fault ? t.broken : chosen ? t.ink : t.ink2, chosen || fault ? 2 : 1.2, layout.folded ? Qt::SolidLine : Qt::DotLine));
    p.setBrush(layout.folded ? QBrush(t.panel) : bay->scratch ? QBrush(hatch(t.hairline)) : QBrush(Qt::NoBrush));
    p.drawRoundedRect(layout.rect, 3, 3);
    // The mark that folds: a level stroke, with an upright one when there is more to see.
    const QPointF c = layout.mark().center();
    p.setPen(QPen(t.ink2, 1.5));
    p.drawLine(c - QPointF(4, 0), c + QPointF(4, 0));
    if (layout.folded) p.drawLine(c - QPointF(0, 4), c + QPointF(0, 4));
    p.setFont(textFont(12, layout.folded));
    p.setPen(layout.folded ? t.ink : t.ink2);
    const QString name =
        QString::fromStdString(bay->name) + (bay->scratch ? tr(" (scratch)") : QString()) + (fault ? tr(" ! broken") : QString());
    const QRectF head = layout.head.adjusted(layout.head.height() + 2, 0, -6, 0);
    p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter, p.fontMetrics().elidedText(name, Qt::ElideRight, int(head.width())));
    if (!layout.folded) return;
    p.setFont(textFont(11));
    for (const BayLayout::Pin& pin : layout.pins) {
        p.setPen(QPen(t.ink, 2.2));
        p.drawLine(pin.at, pin.at + QPointF(pin.output ? kPinReach : -kPinReach, 0));
        p.setPen(t.ink2);
        const QRectF row(layout.rect.left() + 8, pin.at.y() - kRowHeight / 2, layout.rect.width() - 16, kRowHeight);
        const qreal half = row.width() / 2 - 4;
        p.drawText(row, (pin.output ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(pin.text, Qt::ElideRight, int(half)));
    }
}

} // namespace hue
