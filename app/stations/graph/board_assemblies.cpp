// Assemblies on the board: made from cards, opened, taken apart.
#include "app/stations/graph/board.h"

#include "core/assemblies/fold.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"

namespace hue {

void Board::foldSelection() {
    const std::vector<Id> cards = chosenCards();
    if (cards.empty()) return m_session.say(tr("Select the cards that should become an assembly."));
    Id card;
    if (!m_session.apply(tr("make an assembly"), [&](const Project& p) -> Result<Project> {
            Result<Folded> folded = foldCards(p, m_session.masterId(), cards, "Assembly");
            if (!folded) return folded.error();
            card = folded->card;
            return std::move(folded->project);
        }))
        return;
    select({card});
    // It wants a name first of all.
    renameSelection();
}

void Board::unfoldSelection() {
    const auto selected = m_selection;
    std::vector<Id> made;
    bool any = false;
    for (const Id& id : selected) {
        const Node* node = m_session.master()->graph.find(id);
        if (!node || !isAssembly(*node)) continue;
        any = true;
        if (!m_session.apply(
                tr("take the assembly apart"),
                [&](const Project& p) -> Result<Project> {
                    Result<Unfolded> unfolded = unfoldCard(p, m_session.masterId(), id);
                    if (!unfolded) return unfolded.error();
                    made.insert(made.end(), unfolded->cards.begin(), unfolded->cards.end());
                    return std::move(unfolded->project);
                },
                "unfold"))
            break;
    }
    m_session.endRow();
    if (!any) return m_session.say(tr("Select the card of an assembly; its cards then take its place."));
    if (!made.empty()) select({made.begin(), made.end()});
}

void Board::enterSelection() {
    if (m_selection.size() == 1) {
        const Node* node = m_session.master()->graph.find(*m_selection.begin());
        if (node && (isAssembly(*node) || node->kind == kFinishOfKind)) return m_session.enter(node->id);
    }
    m_session.say(tr("Select the card of an assembly, or one that takes a finish of a master, to open it."));
}

void Board::leaveAssembly() {
    if (!m_session.assembly()) return m_session.say(tr("This is the board of a master; nothing lies around it."));
    const std::vector<Id> path = m_session.path();
    m_session.leave();
    if (!path.empty() && m_layout.cards.contains(path.back())) select({path.back()});
}

void Board::addOutput() {
    if (!m_session.assembly()) return m_session.say(tr("Outputs belong on the board of an assembly."));
    const auto from = tapTarget();
    Node node = makeNode(kOutputKind);
    const QRectF around = from && m_layout.cards.contains(from->node)
                              ? m_layout.cards.at(from->node).rect
                              : QRectF(toBoard(QPointF(width() / 2.0, height() / 2.0)), QSizeF(0, 0));
    const QPointF at = freePlace(QPointF(around.right() + 60, around.top()), heightOfCard(m_session.project(), node));
    node.position = {float(at.x()), float(at.y())};
    if (from) node.title = cardTitle(m_session.project(), *m_session.master(), from->node);
    if (!m_session.apply(tr("add an output"), [&](const Project& p) {
            Result<Project> next = edit::addNode(p, m_session.masterId(), node);
            if (next && from) next = edit::connect(*next, m_session.masterId(), *from, node.id, "in");
            return next;
        }))
        return;
    setFocus();
    select({node.id});
    renameSelection();
}

} // namespace hue
