// How the board looks.
#include "app/parts/theme.h"
#include "app/parts/value_text.h"
#include "app/stations/graph/board.h"
#include "core/document/drawn.h"
#include "core/edits/edits.h"
#include "core/nodes/finish.h"
#include "core/nodes/port_title.h"
#include "core/surface/channels.h"

#include <QPainter>
#include <QPainterPath>

namespace hue {
namespace {

/// What a fetch weighs against an operation, where both are one shade.
constexpr int kFetchWeight = 8;
int weightOf(const CardCost& c) { return c.operations + kFetchWeight * c.fetches; }

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

} // namespace

void Board::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme().board);
    m_mostCost = 1;
    if (m_heat && m_measuredHeat.empty())
        for (const auto& [id, cost] : m_service.facts()->cards) m_mostCost = std::max(m_mostCost, double(weightOf(cost)));
    for (const auto& [id, saved] : m_measuredHeat) m_mostCost = std::max(m_mostCost, saved);
    paintBackground(p);
    p.save();
    p.translate(m_origin);
    p.scale(m_zoom, m_zoom);
    const QRectF visible(toBoard(QPointF(0, 0)), toBoard(QPointF(width(), height())));
    for (const BayLayout& bay : m_layout.bays)
        if (!bay.folded) paintBay(p, bay);
    paintWires(p, visible);
    for (const BayLayout& bay : m_layout.bays)
        if (bay.folded) paintBay(p, bay);
    for (const auto& [id, card] : m_layout.cards) {
        if (!card.rect.adjusted(-8, 0, 8, 0).intersects(visible)) continue;
        p.setOpacity(m_kin && !m_selection.empty() && !m_related.contains(id) ? 0.25 : 1);
        if (card.isNote) paintNote(p, id, card);
        else m_zoom < kFar ? paintFar(p, id, card) : paintCard(p, id, card);
    }
    p.setOpacity(1);
    paintUnderpasses(p, visible);
    if (m_mode == Mode::Wire)
        if (const auto from = m_layout.outputPin(m_wireFrom)) {
            p.setPen(QPen(theme().ink, m_allWires ? 4 : 2, Qt::DashLine));
            p.setBrush(Qt::NoBrush);
            const QPointF to = toBoard(m_nowWidget);
            const qreal middle = std::max(from->x() + 11, to.x() - 11);
            p.drawPolyline(QPolygonF{*from, {middle, from->y()}, {middle, to.y()}, to});
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
    // Whole pixels, filled: lines between pixels would take a third of a frame.
    for (qreal y = std::fmod(m_origin.y(), step); y < height(); y += step)
        p.fillRect(QRect(0, int(std::floor(y)), width(), 1), theme().boardRule);
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
    if (row.width == kFinishPort) {
        p.setBrush(wired ? theme().ink : theme().card);
        p.setPen(QPen(theme().ink, emphasised ? 2 : 1.2));
        p.drawRect(QRectF(x - 2.5, y - 7.5, 5, 15));
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
    const QString key = row.kind == CardRow::Kind::Input ? QString::fromStdString(portTitle(*m_session.master(), node, row.key))
                                                         : text(row.key).replace('_', ' ');
    if (output) {
        p.drawText(r, Qt::AlignRight | Qt::AlignVCenter, key);
        return;
    }
    p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, key);
    QString value;
    if (row.kind == CardRow::Kind::Setting) {
        value = text(settingOf(node, *card.def, row.key)).simplified();
        if (node.kind == kFinishOfKind) {
            const Parameter* filled = m_session.master() ? finishParameter(*m_session.master(), node) : nullptr;
            const std::string name = filled ? filled->name : m_session.project().nameOf(value.toStdString());
            value = name.empty() ? tr("choose") : QString::fromStdString(name);
        }
        value += " \u25BE";
    } else if (row.width == kMapPort && !row.wired) {
        const MapFile* map = m_session.project().map(std::string(settingOf(node, *card.def, row.key)));
        const bool drawn = isDrawn(settingOf(node, *card.def, row.key));
        value = (map ? QString::fromStdString(map->name) : drawn ? tr("as drawn") : tr("choose")) + " \u25BE";
    } else if (!row.wired) {
        const PortDef* port = card.def->input(row.key);
        if (port->unwired == Unwired::Constant && carriesNumbers(row.width))
            value = valueText(constantOf(node, *port), showsColor(node, *port));
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

QColor Board::groundOf(const Id& id, const Node& node) const {
    const Theme& t = theme();
    if (!m_heat || node.muted) return t.card;
    const BoardFactsPtr facts = m_service.facts();
    const auto cost = facts->cards.find(id);
    const auto saved = m_measuredHeat.find(id);
    const qreal share = !m_measuredHeat.empty()      ? (saved == m_measuredHeat.end() ? 0 : std::max(0., saved->second) / m_mostCost)
                        : cost == facts->cards.end() ? 0
                                                     : qreal(weightOf(cost->second)) / m_mostCost;
    // Up to half of the way to ink, so that what stands on it can be read.
    const qreal k = 0.5 * std::sqrt(share);
    const auto mixed = [&](int a, int b) { return int(a + (b - a) * k); };
    return QColor(mixed(t.card.red(), t.ink.red()), mixed(t.card.green(), t.ink.green()), mixed(t.card.blue(), t.ink.blue()));
}

void Board::paintSwatch(QPainter& p, const Id& id, const CardLayout& card, const QRectF& at) {
    if (!card.def) return;
    const BoardFactsPtr facts = m_service.facts();
    if (card.def->outputs.empty()) {
        // What is given away looks like what comes in.
        const Node* node = m_session.master()->graph.find(id);
        const auto wire = node ? node->wires.find("in") : std::map<std::string, Source>::const_iterator{};
        if (!node || wire == node->wires.end()) return;
        const auto given = facts->swatches.find(wire->second.node + "." + wire->second.port);
        if (given != facts->swatches.end()) p.drawImage(at, given->second);
        return;
    }
    // The swatch shows the first output.
    auto it = facts->swatches.find(id + "." + std::string(card.def->outputs[0].key));
    if (it == facts->swatches.end() && card.def->outputs.size() > 1) it = facts->swatches.find(id + ".r");
    if (it != facts->swatches.end()) p.drawImage(at, it->second);
    else p.fillRect(at, hatch(theme().hairline));
}

void Board::paintNote(QPainter& p, const Id& id, const CardLayout& card) {
    const Theme& t = theme();
    const Node* node = m_session.master()->graph.find(id);
    const bool chosen = m_selection.contains(id), marked = m_marked.contains(id);
    // A sheet with a bent corner.
    constexpr qreal bend = 10;
    const QRectF r = card.rect;
    const QPolygonF sheet{r.topLeft(), {r.right() - bend, r.top()}, {r.right(), r.top() + bend}, r.bottomRight(), r.bottomLeft()};
    p.setPen(QPen(chosen || marked ? t.ink : t.hairline,
                  (chosen   ? 2.5
                   : marked ? 2
                            : 1) *
                      std::max(1.0, kFar / m_zoom),
                  marked && !chosen ? Qt::DashLine : Qt::SolidLine));
    p.setBrush(t.panel);
    p.drawPolygon(sheet);
    p.drawPolyline(QPolygonF{{r.right() - bend, r.top()}, {r.right() - bend, r.top() + bend}, {r.right(), r.top() + bend}});
    const QString words = node && card.def ? text(settingOf(*node, *card.def, "text")) : QString();
    p.setFont(textFont(13));
    p.setPen(words.isEmpty() ? t.ink2 : t.ink);
    p.drawText(card.title, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words.isEmpty() ? tr("An empty note") : words);
}

void Board::paintFar(QPainter& p, const Id& id, const CardLayout& card) {
    const Master* master = m_session.master();
    const Node* node = master ? master->graph.find(id) : nullptr;
    if (!node) return;
    const Theme& t = theme();
    const bool chosen = m_selection.contains(id), marked = m_marked.contains(id), broken = m_service.facts()->broken.contains(id);
    // Lines keep their weight on the screen.
    const qreal line = 1 / m_zoom;
    p.fillRect(card.rect, node->muted ? t.board : groundOf(id, *node));
    const qreal side = std::min(card.rect.width(), card.rect.height()) - 8;
    const QRectF swatch(card.rect.center() - QPointF(side / 2, side / 2), QSizeF(side, side));
    paintSwatch(p, id, card, swatch);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(broken             ? t.broken
                  : chosen || marked ? t.ink
                                     : t.hairline,
                  (chosen             ? 3.5
                   : marked || broken ? 2.5
                                      : 1) *
                      line,
                  marked && !chosen ? Qt::DashLine : Qt::SolidLine));
    p.drawRect(card.rect);
    if (card.isParameter) p.fillRect(QRectF(card.rect.left(), card.rect.top(), 4 * line, card.rect.height()), t.ink);
    // The title has the same size on the screen at every zoom; where cards are narrower than a few letters it would only be in the way.
    const qreal wide = card.rect.width() * m_zoom;
    if (wide < 22) return;
    p.save();
    p.translate(card.rect.center().x(), card.rect.bottom());
    p.scale(line, line);
    p.setFont(textFont(11, chosen));
    const QString title = p.fontMetrics().elidedText(QString::fromStdString(cardTitle(m_session.project(), *master, *node)), Qt::ElideRight,
                                                     int(std::max(wide + 12, 40.0)));
    const qreal w = p.fontMetrics().horizontalAdvance(title) + 6;
    const QRectF plate(-w / 2, -7, w, 14);
    p.fillRect(plate, chosen ? t.ink : t.card);
    p.setPen(chosen ? t.card : t.ink);
    p.drawText(plate, Qt::AlignCenter, title);
    p.restore();
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
    p.setBrush(node->muted ? QBrush(Qt::NoBrush) : QBrush(groundOf(id, *node)));
    p.drawRoundedRect(card.rect, 3, 3);
    if (m_marked.contains(id)) {
        p.setPen(QPen(t.ink, 2, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(card.rect.adjusted(-4, -4, 4, 4), 4, 4);
    }
    if (card.isAssembly) {
        // A second edge within: something lies behind this one.
        p.setPen(QPen(t.hairline, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(card.rect.adjusted(3, 3, -3, -3), 2, 2);
    }
    if (card.isParameter) {
        QPainterPath band;
        band.addRoundedRect(QRectF(card.rect.left(), card.rect.top(), 5, card.rect.height()), 2, 2);
        p.fillPath(band, t.ink);
    }
    if (card.def && !(card.def->outputs.empty() && card.def->inputs.empty())) {
        paintSwatch(p, id, card, card.swatch);
        if (auto curve = facts->curves.find(id); curve != facts->curves.end()) paintCurve(p, card.swatch, curve->second);
        p.setPen(QPen(t.hairline, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(card.swatch);
    }
    p.setFont(textFont(13, true));
    p.setPen(node->muted ? t.ink2 : t.ink);
    p.drawText(card.title, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(QString::fromStdString(cardTitle(m_session.project(), *master, *node)), Qt::ElideRight,
                                          int(card.title.width())));
    for (const CardRow& row : card.rows) paintRow(p, *node, card, row);
    paintFoot(p, id, card);
    if (broken != facts->broken.end()) {
        p.setPen(QPen(t.broken, 2));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(card.rect.adjusted(-3, -3, 3, 3), 4, 4);
    }
}

void Board::paintFoot(QPainter& p, const Id& id, const CardLayout& card) {
    const Theme& t = theme();
    const Node* node = m_session.master()->graph.find(id);
    const BoardFactsPtr facts = m_service.facts();
    const auto broken = facts->broken.find(id);
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
    if (node->locked) foot += (foot.isEmpty() ? "" : " \u00B7 ") + tr("locked");
    p.setFont(codeFont(10));
    p.setPen(broken != facts->broken.end() ? t.broken : t.ink2);
    p.drawText(card.foot.adjusted(10, 0, -8, 0), Qt::AlignLeft | Qt::AlignVCenter, foot);
}

} // namespace hue
