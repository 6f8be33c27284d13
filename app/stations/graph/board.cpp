// What the mouse and the keys do on the board.
#include "app/stations/graph/board.h"

#include "app/parts/theme.h"
#include "app/stations/graph/add_line.h"
#include "app/stations/graph/formula_editor.h"
#include "core/edits/edits.h"

#include <QApplication>
#include <QCursor>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainterPath>
#include <QToolTip>
#include <cmath>

namespace hue {

Board::Board(Session& session, BoardService& service, Commands& commands, QWidget* parent)
    : QWidget(parent), m_session(session), m_service(service), m_commands(commands) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAcceptDrops(true);
    setMinimumSize(240, 160);
    setObjectName("board");
    setAccessibleName(tr("Board"));
    setAccessibleDescription(tr("Cards and wires of the master. Type to add a card; arrows walk along wires."));
    m_addLine = new AddLine(session, this);
    m_addLine->hide();
    connect(m_addLine, &AddLine::chosen, this, &Board::placeProposal);
    m_formula = new FormulaEditor(session, this);
    connect(m_formula, &FormulaEditor::closed, this, [this] { setFocus(); });
    m_editor = new QLineEdit(this);
    m_editor->hide();
    m_editor->setFont(codeFont());
    m_editor->setObjectName("boardEditor");
    m_editor->setAccessibleName(tr("Value"));
    connect(m_editor, &QLineEdit::returnPressed, this, [this] { finishEdit(true); });
    connect(m_editor, &QLineEdit::editingFinished, this, [this] { finishEdit(true); });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Board | Change::Maps | Change::Names)) relayout();
        else if (what.any(Change::Values | Change::Surface)) update();
    });
    connect(&session, &Session::projectOpened, this, [this] {
        m_views.clear();
        m_master.clear();
        m_moved = false;
        m_zoom = 1;
        m_origin = {24, 24};
    });
    connect(&session, &Session::masterShown, this, [this] {
        m_selection.clear();
        m_selectedWire.reset();
        m_selectedOutput.reset();
        // Each master is seen as it was left.
        if (!m_master.empty()) m_views[m_master] = {m_zoom, m_origin, m_moved};
        m_master = m_session.masterId();
        const auto view = m_views.find(m_master);
        m_fitted = view != m_views.end();
        m_moved = m_fitted && view->second.moved;
        if (m_fitted) m_zoom = view->second.zoom, m_origin = view->second.origin;
        relayout();
        Q_EMIT viewChanged();
        Q_EMIT selectionChanged();
    });
    connect(&service, &BoardService::factsChanged, this, [this] { relayout(); });
    relayout();
}

void Board::relayout() {
    const Master* master = m_session.master();
    m_layout = master ? layoutBoard(m_session.project(), *master, *m_service.facts()) : BoardLayout{};
    std::erase_if(m_selection, [&](const Id& id) { return !m_layout.cards.contains(id); });
    if (m_selectedOutput && !m_layout.cards.contains(m_selectedOutput->node)) m_selectedOutput.reset();
    if (m_selectedWire && !sourceOf(*m_selectedWire)) m_selectedWire.reset();
    // Only what is there when a master is first shown is fitted; placing cards never moves the view.
    if (!m_fitted && isVisible()) {
        m_fitted = true;
        fit(false);
    }
    update();
}

void Board::resizeEvent(QResizeEvent*) {
    if (!m_layout.cards.empty() && !m_moved) fit(false);
}

void Board::select(std::set<Id> cards) {
    m_selection = std::move(cards);
    m_selectedWire.reset();
    Q_EMIT selectionChanged();
    update();
}

void Board::selectAll() {
    std::set<Id> all;
    for (const auto& [id, card] : m_layout.cards) all.insert(id);
    select(all);
}

void Board::fit(bool selectionOnly) {
    QRectF all;
    for (const auto& [id, card] : m_layout.cards)
        if (!selectionOnly || m_selection.contains(id)) all |= card.rect;
    if (all.isNull() || !selectionOnly) all = m_layout.bounds();
    if (all.isNull()) return;
    const qreal margin = 22;
    // Much smaller, and nothing can be read; a large graph then shows its end, next to the surface rail.
    m_zoom =
        std::clamp(std::min((width() - 2 * margin) / all.width(), (height() - 2 * margin) / all.height()), selectionOnly ? 0.2 : 0.78, 1.0);
    m_origin = QPointF(width(), height()) / 2 - all.center() * m_zoom;
    if (all.width() * m_zoom > width() - 2 * margin) m_origin.setX(width() - margin - all.right() * m_zoom);
    if (all.height() * m_zoom > height() - 2 * margin) m_origin.setY(margin - all.top() * m_zoom);
    Q_EMIT viewChanged();
    update();
}

void Board::showCard(const Id& id) {
    auto it = m_layout.cards.find(id);
    if (it == m_layout.cards.end()) return;
    select({id});
    m_origin = QPointF(width(), height()) / 2 - it->second.rect.center() * m_zoom;
    m_moved = true;
    update();
}

Board::Hit Board::hitAt(QPointF at) const {
    Hit hit;
    for (const auto& [id, card] : m_layout.cards) {
        if (!card.rect.adjusted(-11, 0, 11, 0).contains(at)) continue;
        for (const CardRow& row : card.rows)
            if (row.hasPin && std::fabs(at.x() - row.pin.x()) < 11 && std::fabs(at.y() - row.pin.y()) < kRowHeight / 2)
                return {id, row, true};
        if (!card.rect.contains(at)) continue;
        hit = {id, std::nullopt, false};
        for (const CardRow& row : card.rows)
            if (row.rect.contains(at)) hit.row = row;
    }
    return hit;
}

std::optional<Board::WireEnd> Board::wireAt(QPointF at) const {
    std::optional<WireEnd> found;
    const QRectF reach(at - QPointF(5, 5), QSizeF(10, 10));
    forEachWire([&](const WireEnd& end, const Source&, QPointF from, QPointF to, int lane) {
        QPainterPathStroker stroker;
        stroker.setWidth(8);
        if (QRectF(from, to).normalized().adjusted(-40, -40, 40, 40).contains(at) &&
            stroker.createStroke(wirePath(from, to, lane)).intersects(reach))
            found = end;
    });
    return found;
}

std::optional<Source> Board::sourceOf(const WireEnd& end) const {
    const Master* master = m_session.master();
    if (!master) return {};
    const Node* node = master->graph.find(end.node);
    const auto& wires = end.node.empty() ? master->graph.channelWires : node ? node->wires : std::map<std::string, Source>{};
    auto it = wires.find(end.port);
    return it == wires.end() ? std::nullopt : std::optional(it->second);
}

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
            update();
            return;
        }
        // Pulling at the end of a wire takes it off and leads it elsewhere.
        if (const auto source = sourceOf({m_pressed.card, m_pressed.row->key})) {
            m_wireFrom = *source;
            m_session.apply(tr("take off wire"), [&](const Project& p) {
                return edit::disconnect(p, m_session.masterId(), m_pressed.card, m_pressed.row->key);
            });
            return;
        }
        m_mode = Mode::Idle;
        return;
    }
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
            if (port->unwired == Unwired::Constant && m_pressBoard.x() > m_pressed.row->rect.center().x()) {
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
    m_selectedWire = wireAt(m_pressBoard);
    if (m_selectedWire) {
        select({});
        m_selectedWire = wireAt(m_pressBoard);
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
        const std::string key(port->key);
        m_session.apply(
            tr("change %1").arg(QString::fromStdString(key)),
            [&](const Project& p) { return edit::setConstant(p, m_session.masterId(), m_pressed.card, key, value); }, "value");
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
    m_session.endRow();
    const QPointF at = toBoard(e->position());
    const bool still = (e->position() - m_pressWidget).manhattanLength() < 4;
    if (mode == Mode::Wire && !(still && m_selectedOutput)) dropWire(at, e->globalPosition().toPoint());
    if (mode == Mode::Cut) cutAlong(QLineF(m_pressBoard, at));
    if (mode == Mode::Move && !still && e->position().x() < 0 && m_moveFrom.size() == 1) {
        // Let go on the parameter sheet, left of the board: the card stays where it was and is exposed.
        m_session.undoStack()->undo();
        exposeSelection();
    } else if (mode == Mode::Move && !still && m_moveFrom.size() == 1) {
        // A card that is let go on a wire goes between.
        const Id card = m_moveFrom.begin()->first;
        const Node* node = m_session.master()->graph.find(card);
        if (node && node->wires.empty()) {
            bool read = false;
            forEachWire([&](const WireEnd&, const Source& s, QPointF, QPointF, int) { read = read || s.node == card; });
            if (const auto end = wireAt(m_layout.cards.at(card).rect.center()); end && !read) insertOnWire(card, *end);
        }
    }
    update();
}

void Board::mouseDoubleClickEvent(QMouseEvent* e) {
    const Hit hit = hitAt(toBoard(e->position()));
    m_mode = Mode::Idle;
    if (hit.card.empty()) return openAddLine(e->position().toPoint(), {});
    if (hit.row && hit.row->kind == CardRow::Kind::Input && !hit.row->wired && hit.row->width != kMapPort)
        return editValue(hit.card, *hit.row);
    if (!hit.row && m_layout.cards.at(hit.card).title.contains(toBoard(e->position()))) return renameSelection();
}

void Board::wheelEvent(QWheelEvent* e) {
    const QPointF under = toBoard(e->position());
    if (e->modifiers() & Qt::ShiftModifier) {
        m_origin += QPointF(e->angleDelta().y(), e->angleDelta().x()) / 2;
    } else {
        m_zoom = std::clamp(m_zoom * std::pow(1.0015, e->angleDelta().y()), 0.2, 2.5);
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
        return select({});
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down: return walk(e->key(), e->modifiers() & Qt::ShiftModifier);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (m_selection.size() == 1 && m_layout.cards.at(*m_selection.begin()).def &&
            m_layout.cards.at(*m_selection.begin()).def->setting("formula"))
            return editFormula(*m_selection.begin());
        if (m_selection.size() == 1)
            for (const CardRow& row : m_layout.cards.at(*m_selection.begin()).rows)
                if (row.kind == CardRow::Kind::Input && !row.wired && row.width != kMapPort) return editValue(*m_selection.begin(), row);
        return;
    default: break;
    }
    const QString typed = e->text();
    if (!command && !typed.isEmpty() && (typed[0].isLetterOrNumber() || QString("#-.=").contains(typed[0]))) {
        QPoint at = mapFromGlobal(QCursor::pos());
        if (!rect().contains(at)) at = rect().center();
        return openAddLine(at, typed, m_selectedOutput);
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
            if (it != m_service.facts()->ports.end() && it->second.width > 0)
                text = tr("%1, once per %2")
                           .arg(counted(it->second.width, tr("component"), tr("components")),
                                QString::fromUtf8(nameOf(it->second.rate).data()));
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
        for (const char* id :
             {"board.rename", "board.mute", "board.expose", "board.make-map", "board.duplicate", "board.bay", "board.tidy"})
            menu->addAction(m_commands.action(id));
        menu->addAction(tr("Delete"), QKeySequence(Qt::Key_Delete), this, &Board::removeSelection);
    } else if (const auto end = wireAt(toBoard(e->pos()))) {
        m_selectedWire = end;
        for (const char* take : {"r", "g", "b", "a", "rg", "rgb", "luma", ""})
            menu->addAction(*take ? tr("Take .%1").arg(take) : tr("Take all"), this, [this, end, t = std::string(take)] {
                m_session.apply(tr("change take"),
                                [&](const Project& p) { return edit::setTake(p, m_session.masterId(), end->node, end->port, t); });
            });
        menu->addSeparator();
        menu->addAction(tr("Delete wire"), this, &Board::removeSelection);
    } else {
        menu->addAction(tr("Add a card"), this, [this, at = e->pos()] { openAddLine(at, {}); });
        menu->addAction(m_commands.action("board.paste"));
        menu->addAction(m_commands.action("board.fit"));
        for (const auto& [id, rect] : m_layout.bays)
            if (rect.contains(toBoard(e->pos()))) {
                menu->addAction(tr("Rename this bay"), this, [this, bay = id] {
                    bool ok = false;
                    const QString name = QInputDialog::getText(this, tr("Rename bay"), tr("Name"), QLineEdit::Normal, {}, &ok);
                    if (ok)
                        m_session.apply(tr("rename bay"), [&](const Project& p) {
                            return edit::renameBay(p, m_session.masterId(), bay, name.trimmed().toStdString());
                        });
                });
                menu->addAction(tr("Remove this bay"), this, [this, bay = id] {
                    m_session.apply(tr("remove bay"), [&](const Project& p) { return edit::removeBay(p, m_session.masterId(), bay); });
                });
            }
    }
    menu->popup(e->globalPos());
}

} // namespace hue
