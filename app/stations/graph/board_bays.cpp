// What is done with bays and notes.
#include "app/parts/theme.h"
#include "app/stations/graph/board.h"
#include "core/document/bays.h"
#include "core/edits/edits.h"

#include <QInputDialog>
#include <QLineEdit>

namespace hue {

void Board::baySelection() {
    const std::vector<Id> ids(m_selection.begin(), m_selection.end());
    m_session.apply(tr("put a bay around"),
                    [&](const Project& p) { return edit::addBay(p, m_session.masterId(), tr("bay").toStdString(), ids); });
}

void Board::takeOutOfBay() {
    const std::vector<Id> ids(m_selection.begin(), m_selection.end());
    m_session.apply(tr("take out of the bay"), [&](const Project& p) { return edit::putInBay(p, m_session.masterId(), {}, ids); });
}

const BayLayout* Board::bayAt(QPointF at, bool headOnly) const {
    const BayLayout* found = nullptr;
    for (const BayLayout& bay : m_layout.bays)
        if ((headOnly && !bay.folded ? bay.head : bay.rect).contains(at) && (!found || bay.depth >= found->depth)) found = &bay;
    return found;
}

Id Board::chosenBay() const {
    if (!m_chosenBay.empty() && m_layout.bay(m_chosenBay)) return m_chosenBay;
    const Master* master = m_session.master();
    const Bay* bay = master && !m_selection.empty() ? bayOf(master->graph, *m_selection.begin()) : nullptr;
    return bay ? bay->id : Id{};
}

void Board::toggleFold(const Id& id) {
    const Bay* bay = m_session.master() ? findBay(m_session.master()->graph, id) : nullptr;
    if (!bay) return m_session.say(tr("Select a card in a bay, or click on a bay's name, first."));
    const bool fold = !bay->folded;
    m_chosenBay = id;
    m_session.apply(fold ? tr("fold bay") : tr("unfold bay"),
                    [&](const Project& p) { return edit::foldBay(p, m_session.masterId(), id, fold); });
}

void Board::foldBay() { toggleFold(chosenBay()); }

void Board::toggleScratch() {
    const Id id = chosenBay();
    const Bay* bay = m_session.master() ? findBay(m_session.master()->graph, id) : nullptr;
    if (!bay) return m_session.say(tr("Select a card in a bay, or click on a bay's name, first."));
    const bool scratch = !bay->scratch;
    if (m_session.apply(scratch ? tr("make it a scratch bay") : tr("make it a plain bay"),
                        [&](const Project& p) { return edit::setScratch(p, m_session.masterId(), id, scratch); }) &&
        scratch)
        m_session.say(tr("What lies in a scratch bay is not mentioned among the problems until the surface wears it."));
}

void Board::renameBay(const Id& id) {
    const Bay* bay = m_session.master() ? findBay(m_session.master()->graph, id) : nullptr;
    if (!bay) return;
    bool ok = false;
    const QString name =
        QInputDialog::getText(this, tr("Rename bay"), tr("Name"), QLineEdit::Normal, QString::fromStdString(bay->name), &ok);
    if (ok)
        m_session.apply(tr("rename bay"),
                        [&](const Project& p) { return edit::renameBay(p, m_session.masterId(), id, name.trimmed().toStdString()); });
}

void Board::joinBayUnder(const Id& card, QPointF at) {
    const Graph& graph = m_session.master()->graph;
    const Bay* own = bayOf(graph, card);
    const BayLayout* under = nullptr;
    for (const BayLayout& bay : m_layout.bays) {
        // The card's own bay grows with it; those around that one hold the card already.
        const std::vector<Id> within = cardsWithin(graph, bay.id);
        const bool holds = own && std::find(within.begin(), within.end(), card) != within.end();
        if (!holds && bay.rect.contains(at) && (!under || bay.depth >= under->depth)) under = &bay;
    }
    if (!under) return;
    const Id bay = under->id;
    m_session.apply(
        tr("move cards"), [&](const Project& p) { return edit::putInBay(p, m_session.masterId(), bay, {card}); }, "move");
}

void Board::reveal(const Id& card) {
    for (int depth = 0; depth < 64; ++depth) {
        const auto hidden = m_layout.folded.find(card);
        if (hidden == m_layout.folded.end()) return;
        const Id bay = hidden->second;
        if (!m_session.apply(tr("unfold bay"), [&](const Project& p) { return edit::foldBay(p, m_session.masterId(), bay, false); }))
            return;
    }
}

void Board::addNote() {
    if (!m_session.master()) return;
    QPoint at = mapFromGlobal(QCursor::pos());
    if (!rect().contains(at)) at = rect().center();
    Node note = makeNode("note");
    const QPointF place = freePlace(toBoard(at), heightOfCard(m_session.project(), note));
    note.position = {float(place.x()), float(place.y())};
    if (!m_session.apply(tr("add a note"), [&](const Project& p) { return edit::addNode(p, m_session.masterId(), note); })) return;
    select({note.id});
    editNote(note.id);
}

void Board::editNote(const Id& card) {
    const Node* node = m_session.master()->graph.find(card);
    if (!node) return;
    m_editedCard = card;
    openEditor(Edits::Note, m_layout.cards.at(card).rect.adjusted(6, 4, -6, 0),
               QString::fromStdString(std::string(settingOf(*node, *findNodeDef("note"), "text"))));
}

} // namespace hue
