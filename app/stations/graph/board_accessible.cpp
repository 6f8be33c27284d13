#include "app/stations/graph/board_accessible.h"

#include "app/parts/value_text.h"
#include "app/session/board_service.h"
#include "app/stations/graph/board.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "core/nodes/port_title.h"

#include <QAccessible>
#include <QAccessibleWidget>
#include <QPointer>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }
QString spoken(std::string_view key) { return text(key).replace('_', ' '); }

/// What stands on a board, by what it is.
struct Item {
    enum class Kind { Card, Port, Wire } kind = Kind::Card;
    Id card;      ///< of a wire: where it ends; empty for a channel
    CardRow row;  ///< of a port
    WireEnd wire; ///< of a wire
    QString key() const {
        switch (kind) {
        case Kind::Card: return "card " + text(card);
        case Kind::Port: return "port " + text(card) + " " + QString::number(int(row.kind)) + " " + text(row.key);
        case Kind::Wire: break;
        }
        return "wire " + text(wire.node) + " " + text(wire.port);
    }
};

QString titleOf(const Board& board, const Id& card) {
    const Master* master = board.session().master();
    return master ? text(cardTitle(board.session().project(), *master, card)) : QString();
}

QString nameOf(const Board& board, const Item& item) {
    const Master* master = board.session().master();
    if (!master) return {};
    if (item.kind == Item::Kind::Wire) {
        const auto& wires = item.wire.node.empty()               ? master->graph.channelWires
                            : master->graph.find(item.wire.node) ? master->graph.find(item.wire.node)->wires
                                                                 : master->graph.channelWires;
        const auto wire = wires.find(item.wire.port);
        if (wire == wires.end()) return {};
        const QString to = item.wire.node.empty() && item.wire.port == kWholeSurface ? QObject::tr("the whole surface")
                           : item.wire.node.empty() ? QObject::tr("the channel %1").arg(spoken(item.wire.port))
                                                    : QObject::tr("%1, %2").arg(titleOf(board, item.wire.node), spoken(item.wire.port));
        QString from = titleOf(board, wire->second.node);
        if (wire->second.port != "out") from += ", " + spoken(wire->second.port);
        QString out = wire->second.take.empty() ? QObject::tr("Wire from %1 to %2").arg(from, to)
                                                : QObject::tr("Wire from %1 to %2, takes %3").arg(from, to, text(wire->second.take));
        if (wire->second.perVertex) out += QObject::tr(", computed per vertex");
        return out;
    }
    const Node* node = master->graph.find(item.card);
    const NodeDef* def = node ? nodeDefOf(board.session().project(), *node) : nullptr;
    if (!node || !def) return titleOf(board, item.card);
    if (item.kind == Item::Kind::Card) {
        QStringList parts{titleOf(board, item.card)};
        if (parts[0] != text(def->name)) parts << text(def->name);
        if (node->muted) parts << QObject::tr("muted");
        if (node->locked) parts << QObject::tr("locked");
        const BoardFactsPtr facts = board.facts();
        if (const auto broken = facts->broken.find(item.card); broken != facts->broken.end()) parts << text(broken->second);
        else if (const auto cost = facts->cards.find(item.card); cost != facts->cards.end())
            parts << QObject::tr("%1 operations").arg(cost->second.operations);
        return parts.join(", ");
    }
    const std::string& key = item.row.key;
    if (item.row.kind == CardRow::Kind::Output) return QObject::tr("Output %1").arg(spoken(key));
    if (item.row.kind == CardRow::Kind::Setting) return QObject::tr("%1: %2").arg(spoken(key), text(settingOf(*node, *def, key)));
    const QString input = text(portTitle(*board.session().master(), *node, key));
    if (const auto wire = node->wires.find(key); wire != node->wires.end())
        return QObject::tr("Input %1, wired from %2").arg(input, titleOf(board, wire->second.node));
    const PortDef* port = def->input(key);
    if (!port || !carriesNumbers(port->width)) return QObject::tr("Input %1").arg(input);
    if (port->unwired != Unwired::Constant) return QObject::tr("Input %1, follows the mesh").arg(input);
    return QObject::tr("Input %1, %2").arg(input, valueText(constantOf(*node, *port), port->meaning == Meaning::Color));
}

class BoardInterface;

class ItemInterface final : public QAccessibleInterface {
  public:
    ItemInterface(BoardInterface& owner, Board* board, Item item) : m_owner(owner), m_board(board), m_item(std::move(item)) {}

    bool isValid() const override {
        if (!m_board) return false;
        if (m_item.kind == Item::Kind::Wire)
            return std::any_of(m_board->layout().wires.begin(), m_board->layout().wires.end(),
                               [&](const WireLayout& w) { return w.end == m_item.wire; });
        const auto card = m_board->layout().cards.find(m_item.card);
        return card != m_board->layout().cards.end() &&
               (m_item.kind == Item::Kind::Card || card->second.row(m_item.row.kind, m_item.row.key));
    }
    QObject* object() const override { return nullptr; }
    QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    QAccessibleInterface* parent() const override;
    QAccessibleInterface* child(int index) const override;
    int childCount() const override { return m_item.kind == Item::Kind::Card && isValid() ? int(rows().size()) : 0; }
    int indexOfChild(const QAccessibleInterface* child) const override {
        for (int k = 0; k < childCount(); ++k)
            if (this->child(k) == child) return k;
        return -1;
    }
    QString text(QAccessible::Text what) const override {
        if (!m_board) return {};
        if (what == QAccessible::Name) return nameOf(*m_board, m_item);
        if (what == QAccessible::Description && m_item.kind == Item::Kind::Card && isValid())
            if (const NodeDef* def = m_board->layout().cards.at(m_item.card).def) return hue::text(def->help);
        return {};
    }
    void setText(QAccessible::Text, const QString&) override {}
    QRect rect() const override {
        if (!isValid()) return {};
        QRectF r;
        if (m_item.kind == Item::Kind::Wire) {
            for (const WireLayout& w : m_board->layout().wires)
                if (w.end == m_item.wire)
                    for (const Point& p : w.way) r |= QRectF(p.x - 1, p.y - 1, 2, 2);
        } else {
            const CardLayout& card = m_board->layout().cards.at(m_item.card);
            r = m_item.kind == Item::Kind::Card ? card.rect : card.row(m_item.row.kind, m_item.row.key)->rect;
        }
        const QPoint at = m_board->mapToGlobal(m_board->toWidget(r.topLeft()).toPoint());
        return QRect(at, (r.size() * m_board->zoom()).toSize());
    }
    QAccessible::Role role() const override { return m_item.kind == Item::Kind::Card ? QAccessible::ListItem : QAccessible::StaticText; }
    QAccessible::State state() const override {
        QAccessible::State s;
        s.selectable = m_item.kind != Item::Kind::Port;
        s.focusable = s.selectable;
        if (!m_board) return s;
        s.selected = m_item.kind == Item::Kind::Card ? m_board->selection().contains(m_item.card) : m_board->selectedWire() == m_item.wire;
        if (m_item.kind == Item::Kind::Port) s.selected = false;
        s.focused = s.selected && m_board->hasFocus();
        return s;
    }

  private:
    const std::vector<CardRow>& rows() const { return m_board->layout().cards.at(m_item.card).rows; }

    BoardInterface& m_owner;
    QPointer<Board> m_board;
    Item m_item;
};

/// Cards by their ids, then wires between them.
class BoardInterface final : public QAccessibleWidget {
  public:
    explicit BoardInterface(Board* board) : QAccessibleWidget(board, QAccessible::List), m_board(board) {}
    ~BoardInterface() override {
        for (const auto& [key, id] : m_items) QAccessible::deleteAccessibleInterface(id);
    }

    int childCount() const override { return int(m_board->layout().cards.size() + m_board->layout().wires.size()); }
    QAccessibleInterface* child(int index) const override {
        const BoardLayout& layout = m_board->layout();
        if (index < 0 || index >= childCount()) return nullptr;
        if (size_t(index) < layout.cards.size()) return item({Item::Kind::Card, std::next(layout.cards.begin(), index)->first, {}, {}});
        const WireLayout& wire = layout.wires[size_t(index) - layout.cards.size()];
        return item({Item::Kind::Wire, wire.end.node, {}, wire.end});
    }
    int indexOfChild(const QAccessibleInterface* child) const override {
        for (int k = 0; k < childCount(); ++k)
            if (this->child(k) == child) return k;
        return -1;
    }
    QAccessibleInterface* childAt(int x, int y) const override {
        const QPointF at = m_board->toBoard(m_board->mapFromGlobal(QPoint(x, y)));
        for (const auto& [id, card] : m_board->layout().cards)
            if (card.rect.contains(at)) return item({Item::Kind::Card, id, {}, {}});
        return nullptr;
    }
    QString text(QAccessible::Text what) const override {
        const Master* master = m_board->session().master();
        if (what != QAccessible::Name || !master) return QAccessibleWidget::text(what);
        return QObject::tr("Board of %1, %2 cards").arg(QString::fromStdString(master->name)).arg(m_board->layout().cards.size());
    }

    /// The one for that item, made when it is first asked for.
    QAccessibleInterface* item(Item wanted) const {
        const QString key = wanted.key();
        if (const auto it = m_items.find(key); it != m_items.end()) return QAccessible::accessibleInterface(it->second);
        auto* made = new ItemInterface(const_cast<BoardInterface&>(*this), m_board, std::move(wanted));
        m_items[key] = QAccessible::registerAccessibleInterface(made);
        return made;
    }

  private:
    Board* m_board;
    mutable std::map<QString, QAccessible::Id> m_items;
};

QAccessibleInterface* ItemInterface::parent() const {
    if (m_item.kind == Item::Kind::Port) return m_owner.item({Item::Kind::Card, m_item.card, {}, {}});
    return &m_owner;
}

QAccessibleInterface* ItemInterface::child(int index) const {
    if (index < 0 || index >= childCount()) return nullptr;
    return m_owner.item({Item::Kind::Port, m_item.card, rows()[size_t(index)], {}});
}

} // namespace

void installBoardAccessibility() {
    QAccessible::installFactory([](const QString&, QObject* object) -> QAccessibleInterface* {
        auto* board = qobject_cast<Board*>(object);
        return board ? new BoardInterface(board) : nullptr;
    });
}

void tellChosen(Board& board) {
    if (!QAccessible::isActive()) return;
    int index = 0;
    const BoardLayout& layout = board.layout();
    if (board.selectedWire()) {
        index = int(layout.cards.size());
        for (const WireLayout& wire : layout.wires) {
            if (wire.end == *board.selectedWire()) break;
            ++index;
        }
        if (size_t(index) >= layout.cards.size() + layout.wires.size()) return;
    } else if (board.selection().empty()) {
        return;
    } else {
        index = int(std::distance(layout.cards.begin(), layout.cards.find(*board.selection().begin())));
    }
    QAccessibleEvent event(&board, QAccessible::Focus);
    event.setChild(index);
    QAccessible::updateAccessibility(&event);
}

} // namespace hue
