// How the board looks.
#include "app/parts/theme.h"
#include "app/parts/value_text.h"
#include "app/stations/graph/board.h"
#include "core/edits/edits.h"
#include "core/surface/channels.h"

#include <QPainter>
#include <QPainterPath>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

qreal weightOf(Rate rate) { return rate == Rate::Frame ? 1.0 : rate == Rate::Pixel ? 2.4 : 1.6; }

} // namespace

QPainterPath Board::wirePath(QPointF from, QPointF to, int lane) const {
    // Level out of the source, one turn in the gap before the target, level in.
    constexpr qreal radius = 7;
    QPainterPath path(from);
    const qreal dy = to.y() - from.y();
    auto corner = [&](QPointF at, QPointF next) {
        const QPointF before = path.currentPosition();
        const auto toward = [](QPointF a, QPointF b, qreal d) {
            const qreal l = QLineF(a, b).length();
            return l < 1e-6 ? a : a + (b - a) * (std::min(d, l / 2) / l);
        };
        path.lineTo(toward(at, before, radius));
        path.quadTo(at, toward(at, next, radius));
    };
    if (std::fabs(dy) < 0.5 && to.x() > from.x()) {
        path.lineTo(to);
    } else if (to.x() - from.x() > 24) {
        const qreal x = std::max(from.x() + 10, to.x() - 12 - 5 * lane);
        corner({x, from.y()}, {x, to.y()});
        corner({x, to.y()}, to);
        path.lineTo(to);
    } else {
        const qreal right = from.x() + 10 + 4 * lane, left = to.x() - 10 - 5 * lane, middle = (from.y() + to.y()) / 2;
        corner({right, from.y()}, {right, middle});
        corner({right, middle}, {left, middle});
        corner({left, middle}, {left, to.y()});
        corner({left, to.y()}, to);
        path.lineTo(to);
    }
    return path;
}

std::optional<QPointF> Board::outputPin(const Source& source) const {
    auto it = m_layout.cards.find(source.node);
    if (it == m_layout.cards.end()) return {};
    const CardRow* row = it->second.row(CardRow::Kind::Output, source.port);
    if (!row) return {};
    return row->pin + QPointF(kPinReach, 0);
}

QPointF Board::channelPin(const std::string& key) const {
    if (m_channels)
        for (const auto& [channel, y] : m_channels->channelPins())
            if (channel == key) return toBoard(QPointF(width(), mapFromGlobal(QPoint(0, y)).y()));
    return toBoard(QPointF(width(), height() / 2.0));
}

void Board::forEachWire(const std::function<void(const WireEnd&, const Source&, QPointF, QPointF, int)>& visit) const {
    const Master* master = m_session.master();
    if (!master) return;
    int lane = 0;
    for (const auto& [id, node] : master->graph.nodes) {
        auto card = m_layout.cards.find(id);
        if (card == m_layout.cards.end()) continue;
        lane = 0;
        for (const CardRow& row : card->second.rows) {
            const auto found = row.kind == CardRow::Kind::Input ? node->wires.find(row.key) : node->wires.end();
            if (found == node->wires.end()) continue;
            const auto& [port, wire] = *found;
            const auto from = outputPin(wire);
            if (from) visit({id, port}, wire, *from, row.pin - QPointF(kPinReach, 0), lane++);
        }
    }
    lane = 0;
    for (const ChannelDef& channel : channels()) {
        const auto wire = master->graph.channelWires.find(std::string(channel.key));
        if (wire == master->graph.channelWires.end()) continue;
        if (const auto from = outputPin(wire->second)) visit({{}, wire->first}, wire->second, *from, channelPin(wire->first), lane++);
    }
}

void Board::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme().board);
    paintBackground(p);
    p.save();
    p.translate(m_origin);
    p.scale(m_zoom, m_zoom);
    const QRectF visible(toBoard(QPointF(0, 0)), toBoard(QPointF(width(), height())));
    for (const auto& [id, r] : m_layout.bays) paintBay(p, id, r);
    forEachWire([&](const WireEnd& end, const Source& source, QPointF from, QPointF to, int lane) {
        const QRectF span = QRectF(from, to).normalized().adjusted(-40, -40, 40, 40);
        if (span.intersects(visible)) paintWire(p, wirePath(from, to, lane), from, to, source, m_selectedWire == end);
    });
    for (const auto& [id, card] : m_layout.cards)
        if (card.rect.adjusted(-8, 0, 8, 0).intersects(visible)) paintCard(p, id, card);
    if (m_mode == Mode::Wire)
        if (const auto from = outputPin(m_wireFrom)) {
            p.setPen(QPen(theme().ink, 2, Qt::DashLine));
            p.setBrush(Qt::NoBrush);
            p.drawPath(wirePath(*from, toBoard(m_nowWidget)));
        }
    p.restore();
    if (m_mode == Mode::Band) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(m_pressWidget, m_nowWidget).normalized());
    }
    if (m_mode == Mode::Cut) {
        p.setPen(QPen(theme().ink, 1.5, Qt::DashLine));
        p.drawLine(m_pressWidget, m_nowWidget);
    }
    const Master* master = m_session.master();
    if (master && master->graph.nodes.empty()) {
        p.setPen(theme().ink2);
        p.setFont(textFont(15));
        p.drawText(rect(), Qt::AlignCenter,
                   tr("Nothing is wired yet.\n\nType a node's name, a number or a color to add a card,\nor drop a map file here."));
    }
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void Board::paintBackground(QPainter& p) {
    const qreal step = 24 * m_zoom;
    if (step < 8) return;
    p.setPen(QPen(theme().boardRule, 1));
    for (qreal y = std::fmod(m_origin.y(), step); y < height(); y += step) p.drawLine(QPointF(0, y), QPointF(width(), y));
}

void Board::paintBay(QPainter& p, const Id& id, const QRectF& r) {
    const Master* master = m_session.master();
    const Bay* bay = nullptr;
    for (const Bay& b : master->graph.bays)
        if (b.id == id) bay = &b;
    if (!bay) return;
    p.setPen(QPen(theme().ink2, 1.2, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(r, 3, 3);
    p.setFont(textFont(12));
    p.setPen(theme().ink2);
    p.drawText(r.adjusted(8, 4, -8, 0), Qt::AlignLeft | Qt::AlignTop, QString::fromStdString(bay->name));
}

void Board::paintWire(QPainter& p, const QPainterPath& path, QPointF from, QPointF to, const Source& source, bool chosen) {
    const auto& ports = m_service.facts()->ports;
    auto it = ports.find({source.node, source.port});
    const PortInfo info = it == ports.end() ? PortInfo{1, Meaning::Any, Rate::Pixel} : it->second;
    p.setBrush(Qt::NoBrush);
    if (chosen) {
        p.setPen(QPen(theme().card, weightOf(info.rate) + 6));
        p.drawPath(path);
    }
    p.setPen(
        QPen(theme().ink, chosen ? weightOf(info.rate) + 1.4 : weightOf(info.rate), info.width == kMapPort ? Qt::DashLine : Qt::SolidLine));
    p.drawPath(path);
    // As in an electrician's single-line diagram: a slash with the number of conductors.
    if (info.width > 1 && to.x() - from.x() > 30) {
        p.setPen(QPen(theme().ink, 1.1));
        p.drawLine(from + QPointF(3, 4), from + QPointF(8, -5));
        p.setFont(codeFont(9));
        p.drawText(from + QPointF(8, -5), QString::number(info.width));
    }
    if (!source.take.empty()) {
        const QString take = "." + QString::fromStdString(source.take);
        p.setFont(codeFont(10));
        const qreal w = p.fontMetrics().horizontalAdvance(take) + 5;
        const QRectF tag(to.x() - w - 3, to.y() - 14, w, 13);
        p.fillRect(tag, theme().board);
        p.setPen(theme().ink);
        p.drawText(tag, Qt::AlignCenter, take);
    }
}

void Board::paintPin(QPainter& p, const CardRow& row, bool wired, bool emphasised) {
    const bool output = row.kind == CardRow::Kind::Output;
    const qreal x = row.pin.x(), y = row.pin.y();
    const qreal x0 = output ? x : x - kPinReach, x1 = output ? x + kPinReach : x;
    p.setPen(QPen(theme().ink, emphasised ? 3 : wired ? 2.2 : 1.5));
    if (row.width == kMapPort) {
        p.setBrush(wired ? theme().ink : theme().card);
        p.drawRect(QRectF(x - 3.5, y - 3.5, 7, 7));
        return;
    }
    const int ticks = std::clamp(row.width, 1, 4);
    for (int k = 0; k < ticks; ++k) {
        const qreal at = y + (k - (ticks - 1) / 2.0) * 3.4;
        p.drawLine(QPointF(x0, at), QPointF(x1, at));
    }
}

bool Board::showsColor(const Node& node, const PortDef& port) const {
    const Value value = constantOf(node, port);
    if (value.width != 3 && port.width != 3) return false;
    if (port.meaning == Meaning::Color || node.kind == "constant") return true;
    auto out = m_service.facts()->ports.find({node.id, "out"});
    return port.width == kAnyWidth && out != m_service.facts()->ports.end() && out->second.meaning == Meaning::Color;
}

void Board::paintRow(QPainter& p, const Node& node, const CardLayout& card, const CardRow& row) {
    const bool output = row.kind == CardRow::Kind::Output;
    if (row.hasPin) {
        const bool chosen = output && m_selectedOutput && m_selectedOutput->node == node.id && m_selectedOutput->port == row.key;
        paintPin(p, row, row.wired || output, chosen);
    }
    if (row.rect.isNull()) return;
    p.setFont(textFont(12));
    p.setPen(theme().ink2);
    const QRectF r = row.rect.adjusted(2, 0, -8, 0);
    const QString key = text(row.key);
    if (output) {
        p.drawText(r, Qt::AlignRight | Qt::AlignVCenter, key);
        return;
    }
    p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, key);
    QString value;
    if (row.kind == CardRow::Kind::Setting) {
        value = text(settingOf(node, *card.def, row.key)).simplified() + " \u25BE";
    } else if (row.width == kMapPort && !row.wired) {
        const MapFile* map = m_session.project().map(std::string(settingOf(node, *card.def, row.key)));
        value = (map ? QString::fromStdString(map->name) : tr("choose")) + " \u25BE";
    } else if (!row.wired) {
        const PortDef* port = card.def->input(row.key);
        if (port->unwired == Unwired::Constant) value = valueText(constantOf(node, *port), showsColor(node, *port));
        if (!value.isEmpty() && !port->unit.empty()) value += " " + text(port->unit);
    }
    if (value.isEmpty()) return;
    p.setFont(row.kind == CardRow::Kind::Setting || row.width == kMapPort ? textFont(12) : codeFont(11));
    p.setPen(theme().ink);
    const qreal left = p.fontMetrics().horizontalAdvance(key) + 10;
    p.drawText(r.adjusted(left, 0, 0, 0), Qt::AlignRight | Qt::AlignVCenter,
               p.fontMetrics().elidedText(value, Qt::ElideRight, int(r.width() - left)));
}

void Board::paintCurve(QPainter& p, const QRectF& swatch, const CardCurve& curve) const {
    const Theme& t = theme();
    const QRectF box = swatch.adjusted(2, 3, -2, -3);
    const float low = std::min(0.f, curve.low), high = std::max(curve.high, low + 1e-3f);
    QPolygonF line;
    for (size_t i = 0; i < curve.values.size(); ++i)
        line << QPointF(box.left() + box.width() * double(i) / double(curve.values.size() - 1),
                        box.bottom() - box.height() * double((curve.values[i] - low) / (high - low)));
    // Over time the flat swatch says little, so the plot takes its place.
    if (curve.over == "time") p.fillRect(swatch, t.card);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.card, 3.6));
    p.drawPolyline(line);
    p.setPen(QPen(t.ink, 1.5));
    p.drawPolyline(line);
}

void Board::paintCard(QPainter& p, const Id& id, const CardLayout& card) {
    const Master* master = m_session.master();
    const Node* node = master ? master->graph.find(id) : nullptr;
    if (!node) return;
    const Theme& t = theme();
    const BoardFactsPtr facts = m_service.facts();
    const bool chosen = m_selection.contains(id);
    const auto broken = facts->broken.find(id);
    p.setPen(QPen(chosen ? t.ink : t.hairline, chosen ? 2 : 1, node->muted ? Qt::DashLine : Qt::SolidLine));
    p.setBrush(node->muted ? QBrush(Qt::NoBrush) : QBrush(t.card));
    p.drawRoundedRect(card.rect, 3, 3);
    if (card.isParameter) {
        QPainterPath band;
        band.addRoundedRect(QRectF(card.rect.left(), card.rect.top(), 5, card.rect.height()), 2, 2);
        p.fillPath(band, t.ink);
    }
    // The swatch shows the first output.
    if (card.def && !card.def->outputs.empty()) {
        auto it = facts->swatches.find(id + "." + std::string(card.def->outputs[0].key));
        if (it == facts->swatches.end() && card.def->outputs.size() > 1) it = facts->swatches.find(id + ".r");
        if (it != facts->swatches.end()) p.drawImage(card.swatch, it->second);
        else p.fillRect(card.swatch, hatch(t.hairline));
        if (auto curve = facts->curves.find(id); curve != facts->curves.end()) paintCurve(p, card.swatch, curve->second);
        p.setPen(QPen(t.hairline, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(card.swatch);
    }
    p.setFont(textFont(13, true));
    p.setPen(node->muted ? t.ink2 : t.ink);
    p.drawText(card.title, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(QString::fromStdString(cardTitle(*master, *node)), Qt::ElideRight, int(card.title.width())));
    for (const CardRow& row : card.rows) paintRow(p, *node, card, row);

    p.setPen(QPen(t.hairline, 0.8));
    p.drawLine(QPointF(card.rect.left() + (card.isParameter ? 5 : 0), card.foot.top()), QPointF(card.rect.right(), card.foot.top()));
    QString foot;
    if (broken != facts->broken.end()) {
        foot = tr("! broken");
    } else if (node->muted) {
        foot = tr("muted");
    } else if (auto cost = facts->cards.find(id); cost != facts->cards.end()) {
        const CardCost& c = cost->second;
        const QString rate = text(nameOf(c.rate));
        if (c.operations) foot = tr("%1 op").arg(c.operations);
        if (c.fetches) foot += (foot.isEmpty() ? "" : " \u00B7 ") + tr("%1 fetch").arg(c.fetches);
        if (foot.isEmpty() || c.rate != Rate::Pixel) foot += (foot.isEmpty() ? "" : " \u00B7 ") + rate;
    } else if (card.def && !card.def->outputs.empty()) {
        auto port = facts->ports.find({id, std::string(card.def->outputs[0].key)});
        foot = port == facts->ports.end()                              ? QString()
               : card.isParameter || port->second.rate <= Rate::Vertex ? text(nameOf(port->second.rate))
                                                                       : tr("free");
    }
    p.setFont(codeFont(10));
    p.setPen(broken != facts->broken.end() ? t.broken : t.ink2);
    p.drawText(card.foot.adjusted(10, 0, -8, 0), Qt::AlignLeft | Qt::AlignVCenter, foot);
    if (broken != facts->broken.end()) {
        p.setPen(QPen(t.broken, 2));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(card.rect.adjusted(-3, -3, 3, 3), 4, 4);
    }
}

} // namespace hue
