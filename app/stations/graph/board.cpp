// What the board is: what lies where, what is selected, and what is seen of it.
#include "app/stations/graph/board.h"

#include "app/stations/graph/board_accessible.h"

#include "app/parts/theme.h"
#include "app/stations/graph/add_line.h"
#include "app/stations/graph/find_bar.h"
#include "app/stations/graph/formula_editor.h"
#include "app/stations/graph/overview.h"
#include "core/document/bays.h"
#include "core/edits/edits.h"

#include <QLineEdit>
#include <QPainterPath>
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
    m_find = new FindBar(session, *this);
    m_find->hide();
    m_overview = new Overview(*this);
    connect(this, &Board::viewChanged, this, &Board::placeOverlays);
    connect(this, &Board::layoutChanged, this, &Board::placeOverlays);
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
        m_chosenBay.clear();
        m_marked.clear();
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
    const BoardLayout before = std::move(m_layout);
    m_layout = master ? layoutBoard(m_session.project(), *master, *m_service.facts()) : BoardLayout{};
    m_layout.of = m_session.snapshot();
    // Wires lie beneath cards that are being dragged, so that one can be let go on them; they go around once it lies.
    if (m_mode == Mode::Move)
        for (const auto& [id, from] : m_moveFrom)
            if (const auto card = m_layout.cards.find(id); card != m_layout.cards.end())
                std::erase(m_layout.obstacles, boxOf(card->second.rect));
    if (master) layWires(m_layout, master->graph, m_router, before);
    std::erase_if(m_selection, [&](const Id& id) { return !m_layout.cards.contains(id); });
    if (m_selectedOutput && !m_layout.cards.contains(m_selectedOutput->node)) m_selectedOutput.reset();
    if (m_selectedWire && !sourceOf(*m_selectedWire)) m_selectedWire.reset();
    // Only what is there when a master is first shown is fitted; placing cards never moves the view.
    if (!m_fitted && isVisible()) {
        m_fitted = true;
        fit(false);
    }
    tellKin();
    Q_EMIT layoutChanged();
    update();
}

void Board::placeOverlays() {
    m_overview->follow();
    m_find->move(12, 10);
}

void Board::tellKin() {
    m_related.clear();
    const Master* master = m_session.master();
    if (!m_kin || !master || m_selection.empty()) return;
    m_related = cardsFeeding(master->graph, m_selection);
    const std::set<Id> fed = cardsFedBy(master->graph, m_selection);
    m_related.insert(fed.begin(), fed.end());
    m_related.insert(m_selection.begin(), m_selection.end());
}

void Board::showKin(bool on) {
    m_kin = on;
    tellKin();
    update();
}

void Board::showHeat(bool on) {
    m_heat = on;
    update();
}

void Board::setMeasuredHeat(std::map<Id, double> saved) {
    m_measuredHeat = std::move(saved);
    update();
}

void Board::mark(std::set<Id> cards) {
    m_marked = std::move(cards);
    update();
}

void Board::find() { m_find->open(); }

void Board::resizeEvent(QResizeEvent*) {
    if (!m_layout.cards.empty() && !m_moved) fit(false);
    placeOverlays();
}

void Board::select(std::set<Id> cards) {
    // What lies in a folded bay is chosen by its box alone.
    std::erase_if(cards, [&](const Id& id) { return !m_layout.cards.contains(id); });
    m_selection = std::move(cards);
    m_selectedWire.reset();
    // An output that was clicked before means nothing once other cards are chosen.
    if (m_selectedOutput && !m_selection.empty() && !m_selection.contains(m_selectedOutput->node)) m_selectedOutput.reset();
    tellKin();
    Q_EMIT selectionChanged();
    tellChosen(*this);
    update();
}

void Board::selectWire(const WireEnd& end) {
    select({});
    m_selectedWire = end;
    Q_EMIT selectionChanged();
    tellChosen(*this);
    update();
}

void Board::selectWith(std::set<Id> others) {
    others.insert(m_selection.begin(), m_selection.end());
    select(std::move(others));
}

void Board::selectFeeding() {
    if (m_session.master()) selectWith(cardsFeeding(m_session.master()->graph, m_selection));
}

void Board::selectFed() {
    if (m_session.master()) selectWith(cardsFedBy(m_session.master()->graph, m_selection));
}

std::vector<Id> Board::chosenCards() const {
    std::vector<Id> out(m_selection.begin(), m_selection.end());
    const BayLayout* bay = m_layout.bay(m_chosenBay);
    if (out.empty() && bay && bay->folded && m_session.master()) out = cardsWithin(m_session.master()->graph, bay->id);
    return out;
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
    // What somebody asked to see stays when a panel opens beside it; all of it is fitted anew.
    m_moved = selectionOnly;
    const qreal margin = 22;
    // Much smaller, and nothing can be read; a large graph then shows its end, next to the surface rail.
    m_zoom = std::clamp(std::min((width() - 2 * margin) / all.width(), (height() - 2 * margin) / all.height()),
                        selectionOnly ? kLeastZoom : 0.78, 1.0);
    m_origin = QPointF(width(), height()) / 2 - all.center() * m_zoom;
    if (all.width() * m_zoom > width() - 2 * margin) m_origin.setX(width() - margin - all.right() * m_zoom);
    if (all.height() * m_zoom > height() - 2 * margin) m_origin.setY(margin - all.top() * m_zoom);
    Q_EMIT viewChanged();
    update();
}

void Board::showCard(const Id& id) {
    reveal(id);
    auto it = m_layout.cards.find(id);
    if (it == m_layout.cards.end()) return;
    select({id});
    lookAt(it->second.rect.center());
}

void Board::selectInView(const Id& id) {
    select({id});
    const auto it = m_layout.cards.find(id);
    if (it == m_layout.cards.end()) return showCard(id);
    const QRectF& card = it->second.rect;
    if (!QRectF(rect()).contains(QRectF(card.topLeft() * m_zoom + m_origin, card.size() * m_zoom).center())) lookAt(card.center());
}

void Board::lookAt(QPointF board) {
    m_origin = QPointF(width(), height()) / 2 - board * m_zoom;
    m_moved = true;
    Q_EMIT viewChanged();
    update();
}

Board::Hit Board::hitAt(QPointF at) const {
    Hit hit;
    for (const auto& [id, card] : m_layout.cards) {
        if (!card.rect.adjusted(-11, 0, 11, 0).contains(at)) continue;
        // From afar rows are not seen, and a press means the card.
        if (m_zoom < kFar) {
            if (card.rect.contains(at)) hit = {id, std::nullopt, false};
            continue;
        }
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

std::optional<WireEnd> Board::wireAt(QPointF at) const {
    constexpr qreal reach = 5;
    std::optional<WireEnd> found;
    for (const WireLayout& wire : drawnWires()) {
        if (!wire.source.underpass.empty()) {
            if (underpassLabel(wire).contains(at)) found = wire.end;
            continue;
        }
        for (size_t k = 0; k + 1 < wire.way.size(); ++k) {
            const Point a = wire.way[k], b = wire.way[k + 1];
            const QRectF run = QRectF(QPointF(a.x, a.y), QPointF(b.x, b.y)).normalized().adjusted(-reach, -reach, reach, reach);
            if (run.contains(at)) found = wire.end;
        }
    }
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

} // namespace hue
