#include "app/stations/graph/board_layout.h"

#include "app/parts/theme.h"
#include "core/document/bays.h"
#include "core/nodes/assembly_card.h"
#include "core/surface/channels.h"

#include <QFontMetricsF>
#include <QObject>

namespace hue {

const CardRow* CardLayout::row(CardRow::Kind kind, std::string_view key) const {
    for (const CardRow& r : rows)
        if (r.kind == kind && r.key == key) return &r;
    return nullptr;
}

QRectF BoardLayout::bounds() const {
    QRectF all;
    for (const auto& [id, card] : cards) all |= card.rect;
    for (const BayLayout& bay : bays) all |= bay.rect;
    return all;
}

const BayLayout* BoardLayout::bay(const Id& id) const {
    const auto it = std::find_if(bays.begin(), bays.end(), [&](const BayLayout& b) { return b.id == id; });
    return it == bays.end() ? nullptr : &*it;
}

const BayLayout::Pin* BayLayout::pin(const Id& card, const std::string& port, bool output) const {
    const auto it =
        std::find_if(pins.begin(), pins.end(), [&](const Pin& p) { return p.card == card && p.port == port && p.output == output; });
    return it == pins.end() ? nullptr : &*it;
}

std::optional<QPointF> BoardLayout::outputPin(const Source& source) const {
    if (const auto it = cards.find(source.node); it != cards.end()) {
        const CardRow* row = it->second.row(CardRow::Kind::Output, source.port);
        return row ? std::optional(row->pin + QPointF(kPinReach, 0)) : std::nullopt;
    }
    const auto in = folded.find(source.node);
    const BayLayout* box = in == folded.end() ? nullptr : bay(in->second);
    const BayLayout::Pin* pin = box ? box->pin(source.node, source.port, true) : nullptr;
    return pin ? std::optional(pin->at + QPointF(kPinReach, 0)) : std::nullopt;
}

std::optional<QPointF> BoardLayout::inputPin(const Id& node, const std::string& port) const {
    if (const auto it = cards.find(node); it != cards.end()) {
        const CardRow* row = it->second.row(CardRow::Kind::Input, port);
        return row ? std::optional(row->pin - QPointF(kPinReach, 0)) : std::nullopt;
    }
    const auto in = folded.find(node);
    const BayLayout* box = in == folded.end() ? nullptr : bay(in->second);
    const BayLayout::Pin* pin = box ? box->pin(node, port, false) : nullptr;
    return pin ? std::optional(pin->at - QPointF(kPinReach, 0)) : std::nullopt;
}

qreal heightOfCard(const Project& project, const Node& node) {
    Master master;
    master.graph.nodes[node.id] = std::make_shared<Node>(node);
    return layoutBoard(project, master, {}).cards.at(node.id).rect.height();
}

namespace {

/// A note is as tall as its words.
CardLayout noteLayout(const Node& node, const NodeDef& def) {
    CardLayout card;
    card.def = &def;
    card.isNote = true;
    const QString words = QString::fromStdString(std::string(settingOf(node, def, "text")));
    const QRectF room(0, 0, kNoteWidth - 20, 4000);
    const qreal height = QFontMetricsF(textFont(13)).boundingRect(room, Qt::TextWordWrap, words.isEmpty() ? QString("x") : words).height();
    card.rect = QRectF(node.position.x, node.position.y, kNoteWidth, height + 16);
    card.title = card.rect.adjusted(10, 8, -10, -8);
    return card;
}

/// A folded bay, where what it holds began: a row for each wire that comes in or goes out.
BayLayout foldedLayout(const Project& project, const Master& master, const Bay& bay, const std::set<Id>& within, QPointF at) {
    BayLayout out;
    out.id = bay.id;
    out.folded = true;
    out.head = QRectF(at.x(), at.y(), kCardWidth, 26);
    qreal left = at.y() + 30, right = left;
    const auto goesOut = [&](const Source& wire) {
        if (!within.contains(wire.node) || out.pin(wire.node, wire.port, true)) return;
        out.pins.push_back({wire.node, wire.port, true, QPointF(at.x() + kCardWidth, right + kRowHeight / 2),
                            QString::fromStdString(cardTitle(project, master, wire.node))});
        right += kRowHeight;
    };
    for (const auto& [id, node] : master.graph.nodes)
        for (const auto& [port, wire] : node->wires) {
            if (!within.contains(id)) {
                goesOut(wire);
            } else if (!within.contains(wire.node)) {
                out.pins.push_back({id, port, false, QPointF(at.x(), left + kRowHeight / 2), QString::fromStdString(port)});
                left += kRowHeight;
            }
        }
    for (const auto& [channel, wire] : master.graph.channelWires) goesOut(wire);
    out.rect = QRectF(at.x(), at.y(), kCardWidth, std::max({left, right, at.y() + 40}) + 4 - at.y());
    return out;
}

/// Around what each bay holds, from the inside out.
void layBays(BoardLayout& out, const Project& project, const Master& master, const std::map<Id, QRectF>& hidden) {
    std::map<Id, QRectF> rects;
    std::function<void(const Id&, int)> visit = [&](const Id& around, int depth) {
        if (depth > 64) return; // a circle in a file
        for (const Bay& bay : master.graph.bays) {
            const bool here = around.empty() ? !findBay(master.graph, bay.inside) : bay.inside == around && bay.id != around;
            if (!here) continue;
            const size_t mine = out.bays.size();
            const std::vector<Id> within = cardsWithin(master.graph, bay.id);
            if (bay.folded) {
                QRectF was;
                for (const Id& n : within)
                    if (const auto it = hidden.find(n); it != hidden.end()) was |= it->second;
                if (was.isNull()) continue;
                out.bays.push_back(foldedLayout(project, master, bay, {within.begin(), within.end()}, was.topLeft()));
                out.bays.back().depth = depth;
                continue;
            }
            out.bays.push_back({});
            visit(bay.id, depth + 1);
            QRectF rect;
            for (const Id& n : bay.nodes)
                if (auto it = out.cards.find(n); it != out.cards.end()) rect |= it->second.rect;
            for (size_t k = mine + 1; k < out.bays.size(); ++k)
                if (out.bays[k].depth == depth + 1) rect |= out.bays[k].rect;
            BayLayout layout;
            layout.id = bay.id;
            layout.depth = depth;
            layout.rect = rect.adjusted(-kBayMargin, -kBayHead, kBayMargin, kBayMargin);
            layout.head = QRectF(layout.rect.left(), layout.rect.top(), layout.rect.width(), kBayHead - 2);
            if (rect.isNull()) out.bays.resize(mine);
            else out.bays[mine] = layout;
        }
    };
    visit({}, 0);
}

} // namespace

BoardLayout layoutBoard(const Project& project, const Master& master, const BoardFacts& facts) {
    BoardLayout out;
    out.folded = foldedAway(master.graph);
    std::map<Id, QRectF> hidden;
    auto outputWidth = [&](const Id& node, const std::string& port) {
        auto it = facts.ports.find({node, port});
        return it == facts.ports.end() ? 1 : it->second.width;
    };
    // Outputs that a card keeps to itself are shown where a wire starts.
    std::set<std::pair<Id, std::string>> read;
    const bool some = std::any_of(master.graph.nodes.begin(), master.graph.nodes.end(), [](const auto& n) {
        const NodeDef* def = findNodeDef(n.second->kind);
        return def && def->showsOutput;
    });
    const auto reads = [&](const std::map<std::string, Source>& wires) {
        for (const auto& [port, wire] : wires) read.insert({wire.node, wire.port});
    };
    if (some) {
        reads(master.graph.channelWires);
        for (const auto& [id, node] : master.graph.nodes) reads(node->wires);
    }
    for (const auto& [id, node] : master.graph.nodes) {
        if (node->kind == "note") {
            CardLayout note = noteLayout(*node, *findNodeDef(node->kind));
            if (out.folded.contains(id)) hidden[id] = note.rect;
            else out.cards[id] = std::move(note);
            continue;
        }
        CardLayout card;
        card.def = nodeDefOf(project, *node);
        card.isAssembly = isAssembly(*node);
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
            card.rows.push_back(std::move(row));
            at += kRowHeight;
        };
        if (card.def) {
            card.rows.reserve(card.def->outputs.size() + card.def->inputs.size() + card.def->settings.size());
            for (const PortDef& p : card.def->outputs) {
                if (card.def->showsOutput && !card.def->showsOutput(*node, p.key) && !read.contains({id, std::string(p.key)})) continue;
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
            // Where one side of a mix brings a finish, the other wants one.
            const bool finishes = std::any_of(card.def->inputs.begin(), card.def->inputs.end(), [&](const PortDef& p) {
                const auto wire = p.finishes ? node->wires.find(std::string(p.key)) : node->wires.end();
                return wire != node->wires.end() && outputWidth(wire->second.node, wire->second.port) == kFinishPort;
            });
            const bool takesFinishes = finishes || std::any_of(card.def->inputs.begin(), card.def->inputs.end(),
                                                               [](const PortDef& p) { return p.width == kFinishPort; });
            for (const PortDef& p : card.def->inputs) {
                if (!showsInput(*node, *card.def, p)) continue;
                auto wire = node->wires.find(std::string(p.key));
                int width = p.width;
                if (finishes && p.finishes && wire == node->wires.end()) width = kFinishPort;
                if (width == kAnyWidth)
                    width = wire != node->wires.end() ? outputWidth(wire->second.node, wire->second.port) : constantOf(*node, p).width;
                if (wire != node->wires.end() && !wire->second.take.empty() && p.width == kAnyWidth)
                    width = widthOfTake(wire->second.take, 4);
                add(CardRow::Kind::Input, p.key, width, wire != node->wires.end());
            }
            for (const SettingDef& s : card.def->settings)
                // What a map port reads while nothing is wired stands at the port.
                if (!card.def->input(s.key) && !card.isParameter && s.key != kAssemblySetting && (!s.ofFinishes || takesFinishes))
                    add(CardRow::Kind::Setting, s.key, 0, false);
        }
        at = std::max(at, y + 52);
        card.foot = QRectF(x, at + 2, kCardWidth, 18);
        card.rect = QRectF(x, y, kCardWidth, at + 20 - y);
        if (out.folded.contains(id)) hidden[id] = card.rect;
        else out.cards.emplace_hint(out.cards.end(), id, std::move(card));
    }
    layBays(out, project, master, hidden);
    for (const auto& [id, box] : boxesOf(out)) out.obstacles.push_back(box);
    for (const BayLayout& bay : out.bays)
        if (bay.folded) out.obstacles.push_back(boxOf(bay.rect));
    return out;
}

Box boxOf(const QRectF& r) { return {float(r.left()), float(r.top()), float(r.right()), float(r.bottom())}; }

std::map<Id, Box> boxesOf(const BoardLayout& layout) {
    std::map<Id, Box> out;
    for (const auto& [id, card] : layout.cards) out.emplace_hint(out.end(), id, boxOf(card.rect));
    return out;
}

void layWires(BoardLayout& layout, const Graph& graph, Router& router, const BoardLayout& before) {
    router.setCards(layout.obstacles);
    layout.wires.clear();
    layout.ends.clear();
    std::map<std::pair<Id, std::string>, int> nets;
    for (const auto& [id, node] : graph.nodes)
        for (const auto& [port, wire] : node->wires) {
            // What lies within one folded bay is not seen.
            const auto mine = layout.folded.find(id), its = layout.folded.find(wire.node);
            if (mine != layout.folded.end() && its != layout.folded.end() && mine->second == its->second) continue;
            const auto from = layout.outputPin(wire), to = layout.inputPin(id, port);
            if (!from || !to) continue;
            const int net = nets.try_emplace({wire.node, wire.port}, int(nets.size())).first->second;
            layout.wires.push_back({{id, port}, wire, {}});
            const Point a{float(from->x()), float(from->y())}, b{float(to->x()), float(to->y())};
            if (wire.underpass.empty()) {
                layout.ends.push_back({a, b, net});
            } else {
                layout.wires.back().way = {a, b};
            }
        }
    std::vector<WayOfWire> ways;
    if (layout.ends == before.ends && layout.obstacles == before.obstacles) {
        for (const WireLayout& wire : before.wires)
            if (wire.source.underpass.empty()) ways.push_back(wire.way);
    } else {
        ways = router.ways(layout.ends);
    }
    size_t next = 0;
    for (WireLayout& wire : layout.wires)
        if (wire.source.underpass.empty()) wire.way = ways[next++];
}

} // namespace hue
