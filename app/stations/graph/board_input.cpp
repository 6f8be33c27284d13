// What the mouse and the keys do on the board.
#include "app/parts/theme.h"
#include "app/stations/graph/add_line.h"
#include "app/stations/graph/board.h"
#include "core/document/bays.h"
#include "core/document/wires.h"
#include "core/edits/edits.h"
#include "core/nodes/finish.h"

#include <QCursor>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QToolTip>
#include <cmath>

namespace hue {

void Board::mousePressEvent(QMouseEvent* e) {
    setFocus();
    finishEdit(true);
    m_addLine->hide();
    m_pressWidget = m_nowWidget = e->position();
    m_pressBoard = toBoard(e->position());
    const bool add = e->modifiers() & Qt::ShiftModifier;
    if (e->button() == Qt::MiddleButton || (e->button() == Qt::LeftButton && e->modifiers() & Qt::AltModifier)) {
        m_mode = Mode::Pan;
        return;
    }
    if (e->button() != Qt::LeftButton) return;
    m_pressed = hitAt(m_pressBoard);
    if (m_pressed.card.empty() && e->modifiers() & Qt::ControlModifier) {
        m_mode = Mode::Cut;
        return;
    }
    m_selectedOutput.reset();
    if (m_pressed.pin) {
        m_mode = Mode::Wire;
        if (m_pressed.row->kind == CardRow::Kind::Output) {
            m_wireFrom = {m_pressed.card, m_pressed.row->key, {}};
            m_selectedOutput = m_wireFrom;
            m_allWires = add;
            update();
            return;
        }
        // Pulling at the end of a wire takes it off and leads it elsewhere.
        if (const auto source = sourceOf({m_pressed.card, m_pressed.row->key})) {
            m_wireFrom = *source;
            m_allWires = false;
            m_session.apply(tr("take off wire"), [&](const Project& p) {
                return edit::disconnect(p, m_session.masterId(), m_pressed.card, m_pressed.row->key);
            });
            return;
        }
        m_mode = Mode::Idle;
        return;
    }
    m_chosenBay.clear();
    if (!m_pressed.card.empty()) {
        if (add) {
            std::set<Id> now = m_selection;
            if (!now.erase(m_pressed.card)) now.insert(m_pressed.card);
            select(now);
        } else if (!m_selection.contains(m_pressed.card)) {
            select({m_pressed.card});
        }
        m_selectedWire.reset();
        const Node* node = m_session.master()->graph.find(m_pressed.card);
        if (m_pressed.row && m_pressed.row->kind == CardRow::Kind::Setting) {
            chooseSetting(m_pressed.card, *m_pressed.row);
            return;
        }
        if (m_pressed.row && m_pressed.row->kind == CardRow::Kind::Input && !m_pressed.row->wired) {
            const PortDef* port = m_layout.cards.at(m_pressed.card).def->input(m_pressed.row->key);
            if (m_pressed.row->width == kMapPort) {
                chooseSetting(m_pressed.card, *m_pressed.row);
                return;
            }
            if (port->unwired == Unwired::Constant && carriesNumbers(m_pressed.row->width) &&
                m_pressBoard.x() > m_pressed.row->rect.center().x()) {
                m_mode = Mode::Value;
                m_valueFrom = constantOf(*node, *port);
                return;
            }
        }
        m_mode = Mode::Move;
        m_moveFrom.clear();
        for (const Id& id : m_selection) m_moveFrom[id] = m_layout.cards.at(id).rect.topLeft();
        return;
    }
    if (const auto wire = wireAt(m_pressBoard)) return selectWire(*wire);
    if (const BayLayout* bay = bayAt(m_pressBoard, true)) {
        const Id id = bay->id;
        if (bay->mark().contains(m_pressBoard)) return toggleFold(id);
        // A bay is moved by its name, with all that it holds.
        const std::vector<Id> within = cardsWithin(m_session.master()->graph, id);
        std::set<Id> seen;
        for (const Id& card : within)
            if (m_layout.cards.contains(card)) seen.insert(card);
        select(seen);
        m_chosenBay = id;
        m_mode = Mode::Move;
        m_moveFrom.clear();
        for (const Id& card : within) {
            const Point at = m_session.master()->graph.find(card) ? m_session.master()->graph.find(card)->position : Point{};
            m_moveFrom[card] = QPointF(at.x, at.y);
        }
        return;
    }
    m_bandBase = add ? m_selection : std::set<Id>{};
    select(m_bandBase);
    m_mode = Mode::Band;
}

void Board::mouseMoveEvent(QMouseEvent* e) {
    const QPointF before = m_nowWidget;
    m_nowWidget = e->position();
    const QPointF moved = toBoard(m_nowWidget) - m_pressBoard;
    switch (m_mode) {
    case Mode::Idle: break;
    case Mode::Pan:
        m_origin += m_nowWidget - before;
        m_moved = true;
        Q_EMIT viewChanged();
        break;
    case Mode::Move: {
        if ((m_nowWidget - m_pressWidget).manhattanLength() < 4) break;
        std::map<Id, Point> to;
        for (const auto& [id, from] : m_moveFrom)
            to[id] = {float(std::round((from.x() + moved.x()) / 6) * 6), float(std::round((from.y() + moved.y()) / 6) * 6)};
        m_moved = true;
        m_session.apply(
            tr("move cards"), [&](const Project& p) { return edit::moveNodes(p, m_session.masterId(), to); }, "move");
        break;
    }
    case Mode::Band: {
        const QRectF band = QRectF(m_pressBoard, toBoard(m_nowWidget)).normalized();
        std::set<Id> now = m_bandBase;
        for (const auto& [id, card] : m_layout.cards)
            if (card.rect.intersects(band)) now.insert(id);
        select(now);
        break;
    }
    case Mode::Value: {
        const PortDef* port = m_layout.cards.at(m_pressed.card).def->input(m_pressed.row->key);
        if (std::fabs(m_nowWidget.x() - m_pressWidget.x()) < 3) break;
        const float fine = e->modifiers() & Qt::ShiftModifier ? 0.1f : 1.f;
        const float step = float(m_nowWidget.x() - m_pressWidget.x()) * (port->high - port->low) / 200 * fine;
        Value value = m_valueFrom;
        for (int c = 0; c < value.width; ++c) value[c] = std::round((value[c] + step) * 1000) / 1000;
        setValue(m_pressed.card, std::string(port->key), value, "value");
        break;
    }
    case Mode::Wire:
    case Mode::Cut: break;
    }
    update();
}

void Board::mouseReleaseEvent(QMouseEvent* e) {
    const Mode mode = m_mode;
    m_mode = Mode::Idle;
    if (mode != Mode::Move) m_session.endRow();
    const QPointF at = toBoard(e->position());
    const bool still = (e->position() - m_pressWidget).manhattanLength() < 4;
    const bool byBay = !m_chosenBay.empty();
    if (mode == Mode::Wire && !(still && m_selectedOutput)) dropWire(at, e->globalPosition().toPoint());
    if (mode == Mode::Cut) cutAlong(QLineF(m_pressBoard, at));
    if (mode == Mode::Move && !still && e->position().x() < 0 && m_moveFrom.size() == 1 && !byBay) {
        // Let go on the parameter sheet, left of the board: the card stays where it was and is exposed.
        m_session.undoStack()->undo();
        exposeSelection();
    } else if (mode == Mode::Move && !still && m_moveFrom.size() == 1 && !byBay) {
        // A card that is let go on a wire goes between.
        const Id card = m_moveFrom.begin()->first;
        const Node* node = m_session.master()->graph.find(card);
        const Graph& graph = m_session.master()->graph;
        const bool read = !cardsFedBy(graph, {card}).empty() || std::any_of(graph.channelWires.begin(), graph.channelWires.end(),
                                                                            [&](const auto& w) { return w.second.node == card; });
        if (node && node->wires.empty() && !read) {
            if (const auto end = wireAt(m_layout.cards.at(card).rect.center())) insertOnWire(card, *end);
        }
        if (m_layout.cards.contains(card)) joinBayUnder(card, at);
    }
    m_session.endRow();
    if (mode == Mode::Move && !still) relayout();
    update();
}

void Board::mouseDoubleClickEvent(QMouseEvent* e) {
    const Hit hit = hitAt(toBoard(e->position()));
    m_mode = Mode::Idle;
    if (hit.card.empty()) {
        if (const auto wire = wireAt(toBoard(e->position()))) {
            // An underpass leads to its other end, from either.
            const auto source = sourceOf(*wire);
            if (source && !source->underpass.empty()) showCard(source->node);
            return;
        }
        if (const BayLayout* bay = bayAt(toBoard(e->position()), true)) return renameBay(bay->id);
        return openAddLine(e->position().toPoint(), {});
    }
    if (const Node* node = m_session.master()->graph.find(hit.card); node && node->kind == "note") return editNote(hit.card);
    if (hit.row && hit.row->kind == CardRow::Kind::Input && !hit.row->wired && carriesNumbers(hit.row->width))
        return editValue(hit.card, *hit.row);
    if (!hit.row && m_layout.cards.at(hit.card).title.contains(toBoard(e->position()))) return renameSelection();
    if (const Node* node = m_session.master()->graph.find(hit.card);
        !hit.row && node && (m_layout.cards.at(hit.card).isAssembly || node->kind == kFinishOfKind))
        return m_session.enter(hit.card);
}

void Board::wheelEvent(QWheelEvent* e) {
    const QPointF under = toBoard(e->position());
    if (e->modifiers() & Qt::ShiftModifier) {
        m_origin += QPointF(e->angleDelta().y(), e->angleDelta().x()) / 2;
    } else {
        m_zoom = std::clamp(m_zoom * std::pow(1.0015, e->angleDelta().y()), kLeastZoom, kMostZoom);
        m_origin = e->position() - under * m_zoom;
    }
    m_moved = true;
    Q_EMIT viewChanged();
    update();
}

void Board::keyPressEvent(QKeyEvent* e) {
    const bool command = e->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier);
    switch (e->key()) {
    case Qt::Key_Delete:
    case Qt::Key_Backspace: return removeSelection();
    case Qt::Key_Escape:
        m_mode = Mode::Idle;
        m_addLine->hide();
        m_chosenBay.clear();
        return select({});
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down: return walk(e->key(), e->modifiers() & Qt::ShiftModifier);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (m_selectedWire) return editTake();
        if (m_selection.empty() && m_layout.bay(m_chosenBay)) return toggleFold(m_chosenBay);
        if (m_selection.size() == 1 && m_session.master()->graph.find(*m_selection.begin())->kind == "note")
            return editNote(*m_selection.begin());
        if (m_selection.size() == 1 && m_layout.cards.at(*m_selection.begin()).def &&
            m_layout.cards.at(*m_selection.begin()).def->setting("formula"))
            return editFormula(*m_selection.begin());
        if (m_selection.size() == 1)
            for (const CardRow& row : m_layout.cards.at(*m_selection.begin()).rows)
                if (row.kind == CardRow::Kind::Input && !row.wired && carriesNumbers(row.width))
                    return editValue(*m_selection.begin(), row);
        return;
    default: break;
    }
    const QString typed = e->text();
    if (!command && !typed.isEmpty() && (typed[0].isLetterOrNumber() || QString("#-.=").contains(typed[0]))) {
        // With a wire selected, a point begins its take; a word what reads it as well.
        if (m_selectedWire && typed == ".") return editTake();
        QPoint at = mapFromGlobal(QCursor::pos());
        if (!rect().contains(at)) at = rect().center();
        return openAddLine(at, typed, m_selectedWire ? sourceOf(*m_selectedWire) : m_selectedOutput);
    }
    QWidget::keyPressEvent(e);
}

bool Board::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(e);
        const Hit hit = hitAt(toBoard(help->pos()));
        QString text;
        if (!hit.card.empty()) {
            const CardLayout& card = m_layout.cards.at(hit.card);
            const auto broken = m_service.facts()->broken.find(hit.card);
            if (broken != m_service.facts()->broken.end()) text = QString::fromStdString(broken->second);
            else if (hit.row && card.def) {
                std::string_view words;
                if (hit.row->kind == CardRow::Kind::Input) words = card.def->input(hit.row->key)->help;
                else if (hit.row->kind == CardRow::Kind::Output) words = card.def->output(hit.row->key)->help;
                else words = card.def->setting(hit.row->key)->help;
                text = QString::fromStdString(hit.row->key);
                if (!words.empty()) text += ": " + QString::fromUtf8(words.data(), qsizetype(words.size()));
            } else if (card.def) text = QString::fromUtf8(card.def->help.data(), qsizetype(card.def->help.size()));
        } else if (const auto end = wireAt(toBoard(help->pos()))) {
            const auto source = sourceOf(*end);
            auto it = m_service.facts()->ports.find({source->node, source->port});
            if (it != m_service.facts()->ports.end() && it->second.width > 0) {
                const int width = widthOfTake(source->take, it->second.width);
                const QString components = counted(width, tr("component"), tr("components"));
                text = source->perVertex
                           ? tr("%1, computed at the vertices; each pixel pays %2 for having it carried over its triangle")
                                 .arg(components, counted(width * infoOf(Op::PerVertex).cost, tr("operation"), tr("operations")))
                           : tr("%1, once per %2").arg(components, QString::fromUtf8(nameOf(it->second.rate).data()));
            }
        }
        if (text.isEmpty()) QToolTip::hideText();
        else QToolTip::showText(help->globalPos(), text, this);
        return true;
    }
    // Tab leaves the board as any other widget; shortcuts of letters belong to the add line.
    return QWidget::event(e);
}

void Board::contextMenuEvent(QContextMenuEvent* e) {
    const Hit hit = hitAt(toBoard(e->pos()));
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    if (!hit.card.empty()) {
        if (!m_selection.contains(hit.card)) select({hit.card});
        if (m_layout.cards.at(hit.card).isAssembly)
            for (const char* id : {"assembly.enter", "assembly.unfold"}) menu->addAction(m_commands.action(id));
        for (const char* id : {"board.rename", "board.mute", "board.lock", "board.expose", "board.make-map", "board.duplicate", "board.replace",
                               "board.swap", "board.lead-wires", "board.bay", "assembly.fold", "board.tidy"})
            menu->addAction(m_commands.action(id));
        menu->addAction(tr("Delete"), QKeySequence(Qt::Key_Delete), this, &Board::removeSelection);
    } else if (const auto end = wireAt(toBoard(e->pos()))) {
        selectWire(*end);
        for (const char* take : {"r", "g", "b", "a", "rg", "rgb", "luma", ""})
            menu->addAction(*take ? tr("Take .%1").arg(take) : tr("Take all"), this, [this, end, t = std::string(take)] {
                m_session.apply(tr("change take"),
                                [&](const Project& p) { return edit::setTake(p, m_session.masterId(), end->node, end->port, t); });
            });
        menu->addSeparator();
        menu->addAction(m_commands.action("board.per-vertex"));
        menu->addAction(m_commands.action("board.underpass"));
        menu->addAction(tr("Delete wire"), this, &Board::removeSelection);
    } else {
        menu->addAction(tr("Add a card"), this, [this, at = e->pos()] { openAddLine(at, {}); });
        menu->addAction(m_commands.action("board.paste"));
        menu->addAction(m_commands.action("board.fit"));
        if (const BayLayout* bay = bayAt(toBoard(e->pos()), false)) {
            const Id id = bay->id;
            m_chosenBay = id;
            menu->addSeparator();
            menu->addAction(m_commands.action("board.fold-bay"));
            menu->addAction(m_commands.action("board.scratch"));
            menu->addAction(tr("Rename this bay"), this, [this, id] { renameBay(id); });
            menu->addAction(tr("Remove this bay"), this, [this, id] {
                m_session.apply(tr("remove bay"), [&](const Project& p) { return edit::removeBay(p, m_session.masterId(), id); });
            });
        }
    }
    menu->popup(e->globalPos());
}

} // namespace hue
