#include "app/stations/graph/board_layout.h"

#include <QRegularExpression>
#include <QStringList>

namespace hue {

const CardRow* CardLayout::row(CardRow::Kind kind, std::string_view key) const {
    for (const CardRow& r : rows)
        if (r.kind == kind && r.key == key) return &r;
    return nullptr;
}

QRectF BoardLayout::bounds() const {
    QRectF all;
    for (const auto& [id, card] : cards) all |= card.rect;
    for (const auto& [id, rect] : bays) all |= rect;
    return all;
}

qreal heightOfCard(const Node& node) {
    Master master;
    master.graph.nodes[node.id] = std::make_shared<Node>(node);
    return layoutBoard({}, master, {}).cards.at(node.id).rect.height();
}

BoardLayout layoutBoard(const Project&, const Master& master, const BoardFacts& facts) {
    BoardLayout out;
    auto outputWidth = [&](const Id& node, const std::string& port) {
        auto it = facts.ports.find({node, port});
        return it == facts.ports.end() ? 1 : it->second.width;
    };
    for (const auto& [id, node] : master.graph.nodes) {
        CardLayout card;
        card.def = findNodeDef(node->kind);
        card.isParameter = node->kind == "parameter";
        const qreal x = node->position.x, y = node->position.y;
        card.swatch = QRectF(x + 8, y + 8, 40, 40);
        card.title = QRectF(x + 56, y + 5, kCardWidth - 64, 22);
        qreal at = y + 29;
        auto add = [&](CardRow::Kind kind, std::string_view key, int width, bool wired) {
            CardRow row;
            row.kind = kind;
            row.key = key;
            row.width = width;
            row.wired = wired;
            row.hasPin = kind == CardRow::Kind::Output || (kind == CardRow::Kind::Input && node->kind != "constant");
            row.rect = QRectF(x + 54, at, kCardWidth - 54, kRowHeight);
            row.pin = QPointF(kind == CardRow::Kind::Output ? x + kCardWidth : x, at + kRowHeight / 2);
            card.rows.push_back(row);
            at += kRowHeight;
        };
        if (card.def) {
            for (const PortDef& p : card.def->outputs) {
                const int width = outputWidth(id, std::string(p.key));
                if (card.def->outputs.size() > 1) {
                    add(CardRow::Kind::Output, p.key, width, false);
                } else {
                    CardRow row;
                    row.kind = CardRow::Kind::Output;
                    row.key = p.key;
                    row.width = width;
                    row.pin = QPointF(x + kCardWidth, y + 16);
                    card.rows.push_back(row);
                }
            }
            const bool whichMap = card.def->setting("map");
            for (const PortDef& p : card.def->inputs) {
                if (!showsInput(*node, *card.def, p)) continue;
                auto wire = node->wires.find(std::string(p.key));
                int width = p.width;
                if (width == kAnyWidth)
                    width = wire != node->wires.end() ? outputWidth(wire->second.node, wire->second.port) : constantOf(*node, p).width;
                if (wire != node->wires.end() && !wire->second.take.empty() && p.width == kAnyWidth)
                    width = widthOfTake(wire->second.take, 4);
                add(CardRow::Kind::Input, p.key, width, wire != node->wires.end());
            }
            for (const SettingDef& s : card.def->settings)
                if (!(whichMap && s.key == "map") && !card.isParameter) add(CardRow::Kind::Setting, s.key, 0, false);
        }
        at = std::max(at, y + 52);
        card.foot = QRectF(x, at + 2, kCardWidth, 18);
        card.rect = QRectF(x, y, kCardWidth, at + 20 - y);
        out.cards[id] = std::move(card);
    }
    for (const Bay& bay : master.graph.bays) {
        QRectF rect;
        for (const Id& n : bay.nodes)
            if (auto it = out.cards.find(n); it != out.cards.end()) rect |= it->second.rect;
        if (!rect.isNull()) out.bays.emplace_back(bay.id, rect.adjusted(-14, -24, 14, 14));
    }
    return out;
}

std::map<Id, Point> tidied(const Master& master, const BoardLayout& layout, const std::vector<Id>& which) {
    const auto chosen = [&](const Id& id) { return which.empty() || std::find(which.begin(), which.end(), id) != which.end(); };
    // A card's column is one left of the leftmost card that reads it.
    std::map<Id, int> column;
    std::function<void(const Id&, int)> visit = [&](const Id& id, int at) {
        const Node* node = master.graph.find(id);
        if (!node || !chosen(id) || at > 512) return;
        if (auto it = column.find(id); it != column.end() && it->second >= at) return;
        column[id] = at;
        for (const auto& [port, wire] : node->wires) visit(wire.node, at + 1);
    };
    for (const auto& [channel, wire] : master.graph.channelWires) visit(wire.node, 0);
    for (const auto& [id, node] : master.graph.nodes)
        if (chosen(id) && !column.contains(id)) visit(id, 0);
    std::map<int, std::vector<Id>> columns;
    QRectF now;
    int last = 0;
    for (const auto& [id, at] : column) {
        columns[at].push_back(id);
        last = std::max(last, at);
        now |= layout.cards.at(id).rect;
    }
    std::map<Id, Point> out;
    for (auto& [at, ids] : columns) {
        std::sort(ids.begin(), ids.end(),
                  [&](const Id& a, const Id& b) { return layout.cards.at(a).rect.top() < layout.cards.at(b).rect.top(); });
        qreal y = now.top();
        for (const Id& id : ids) {
            out[id] = {float(now.left() + (last - at) * (kCardWidth + 54)), float(y)};
            y += layout.cards.at(id).rect.height() + 22;
        }
    }
    return out;
}

} // namespace hue
