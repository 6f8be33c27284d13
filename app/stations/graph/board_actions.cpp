// Edits that the board makes.
#include "app/parts/theme.h"
#include "app/parts/value_text.h"
#include "app/session/drops.h"
#include "app/session/finish_menu.h"
#include "app/stations/graph/add_line.h"
#include "app/stations/graph/board.h"
#include "app/stations/graph/formula_editor.h"
#include "core/board/tidy.h"
#include "core/edits/edits.h"
#include "core/master_text/master_text.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "core/project/cards_text.h"
#include "core/surface/channels.h"

#include <QApplication>
#include <QClipboard>
#include <QCursor>
#include <QDragEnterEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QToolTip>

namespace hue {

void Board::openAddLine(QPoint at, const QString& typed, std::optional<Source> from) {
    if (!m_session.master()) return;
    m_selectedOutput = from;
    if (!m_addLine->isVisible()) m_replaced.clear();
    const int width = from ? widthOf(*from) : kAnyWidth;
    m_addLine->open(at, typed,
                    from ? std::function<bool(const NodeDef&)>([width](const NodeDef& def) {
                        return std::any_of(def.inputs.begin(), def.inputs.end(), [&](const PortDef& p) { return p.takes(width); });
                    })
                         : std::function<bool(const NodeDef&)>());
}

QPointF Board::freePlace(QPointF wanted, qreal height) const {
    const auto blocked = [&](QPointF at) {
        const QRectF card = QRectF(at, QSizeF(kCardWidth, height)).adjusted(-16, -10, 16, 10);
        return std::any_of(m_layout.cards.begin(), m_layout.cards.end(), [&](const auto& c) { return c.second.rect.intersects(card); });
    };
    if (!blocked(wanted)) return wanted;
    // The nearest free place of a grid around; what is out of sight counts as far away.
    const QRectF visible(toBoard(QPointF(0, 0)), toBoard(QPointF(width(), this->height())));
    QPointF best = wanted;
    qreal bestScore = 1e18;
    for (int i = -20; i <= 20; ++i)
        for (int k = -20; k <= 20; ++k) {
            const QPointF at = wanted + QPointF(24 * i, 24 * k);
            const qreal score = std::hypot(24.0 * i, 24.0 * k) + (visible.contains(QRectF(at, QSizeF(kCardWidth, height))) ? 0 : 5000);
            if (score < bestScore && !blocked(at)) bestScore = score, best = at;
        }
    return best;
}

/// The project with the assembly of the library that a proposal is about.
static Result<Project> withLibrary(const Project& project, const Proposal& proposal) {
    return proposal.assembly && !project.assembly(proposal.assembly->id) ? edit::addAssembly(project, *proposal.assembly)
                                                                         : Result<Project>(project);
}

void Board::placeProposal(const Proposal& proposal) {
    const Id master = m_session.masterId();
    if (proposal.kind == Proposal::Kind::Channel) {
        setFocus();
        if (m_selectedOutput) connectChannelWire(*m_selectedOutput, proposal.channel);
        return;
    }
    // A map set has no card: its maps have.
    if (proposal.kind == Proposal::Kind::Parameter && proposal.parameter.type == ParameterType::MapSet) {
        setFocus();
        m_session.apply(tr("add %1").arg(QString::fromStdString(proposal.title)),
                        [&](const Project& p) { return edit::addParameter(p, master, proposal.parameter); });
        return;
    }
    if (!m_replaced.empty()) return takePlace(proposal);
    Node node = proposal.node;
    const QPointF at = toBoard(m_addLine->anchor());
    node.position = {float(std::round(at.x() / 6) * 6), float(std::round(at.y() / 6) * 6)};
    const QPointF free =
        freePlace(QPointF(node.position.x, node.position.y),
                  heightOfCard(proposal.assembly ? *withLibrary(m_session.project(), proposal) : m_session.project(), node));
    node.position = {float(free.x()), float(free.y())};
    Parameter parameter = proposal.parameter;
    if (proposal.kind == Proposal::Kind::Parameter) {
        parameter.id = newId('p');
        node.settings = parameterCard(parameter).settings;
    }
    const auto from = m_selectedOutput;
    // The card and its wire are one step of undo, even where a component has to be chosen between.
    const QString row = "place " + QString::fromStdString(node.id);
    const bool made = m_session.apply(
        tr("add %1").arg(QString::fromStdString(proposal.title)),
        [&](const Project& p) -> Result<Project> {
            Result<Project> next = withLibrary(p, proposal);
            if (next && proposal.kind == Proposal::Kind::Parameter) next = edit::addParameter(*next, master, parameter);
            if (next) next = edit::addNode(*next, master, node);
            return next;
        },
        row);
    setFocus();
    if (!made) return;
    select({node.id});
    const NodeDef* def = nodeDefOf(m_session.project(), node);
    if (from && def) {
        const int width = widthOf(*from);
        // The first port that takes the wire as it is, else the first of its kind.
        const PortDef* best = nullptr;
        for (const PortDef& p : def->inputs)
            if (p.takes(width) && showsInput(node, *def, p) &&
                (!best || (best->width != kAnyWidth && best->width != width && (p.width == width || p.width == kAnyWidth))))
                best = &p;
        if (best) connectWire(*from, node.id, std::string(best->key), row);
    }
    // The next card that is typed continues from this one.
    if (def && !def->outputs.empty())
        m_selectedOutput = from ? std::optional(Source{node.id, std::string(def->outputs[0].key), {}}) : std::nullopt;
}

void Board::takePlace(const Proposal& proposal) {
    const Id old = std::exchange(m_replaced, {}), master = m_session.masterId();
    setFocus();
    std::vector<std::string> lost;
    if (!m_session.apply(tr("put %1 in its place").arg(QString::fromStdString(proposal.title)), [&](const Project& p) {
            const Result<Project> brought = withLibrary(p, proposal);
            if (!brought) return brought;
            Result<Project> next = edit::replaceNode(*brought, master, old, proposal.node, &lost);
            // What was typed comes along: the text of a formula, the map of an image, a number.
            for (const auto& [key, value] : proposal.node.settings)
                if (next && key != kAssemblySetting) next = edit::setSetting(*next, master, old, key, value);
            for (const auto& [port, value] : proposal.node.constants)
                if (next) next = edit::setConstant(*next, master, old, port, value);
            return next;
        }))
        return;
    select({old});
    QStringList parts;
    for (const std::string& what : lost) parts << QString::fromStdString(what);
    if (!parts.isEmpty()) m_session.say(tr("%1 found no place on it: %2.").arg(QString::fromStdString(proposal.title), parts.join(", ")));
}

void Board::replaceSelection() {
    if (m_selection.size() != 1) return m_session.say(tr("Select the one card that should be replaced."));
    const Id id = *m_selection.begin();
    openAddLine(toWidget(m_layout.cards.at(id).rect.topLeft()).toPoint(), {});
    m_replaced = id;
}

std::vector<Id> Board::alike(const Id& card, const std::string& port) const {
    const Graph& graph = m_session.master()->graph;
    const Node* node = graph.find(card);
    std::vector<Id> out{card};
    if (!node || !m_selection.contains(card)) return out;
    for (const Id& id : m_selection)
        if (const Node* other = graph.find(id); id != card && other && other->kind == node->kind && !other->wires.contains(port))
            out.push_back(id);
    return out;
}

void Board::setValue(const Id& card, const std::string& port, const Value& value, const QString& row) {
    const std::vector<Id> cards = alike(card, port);
    const QString what = cards.size() == 1 ? tr("change %1").arg(QString::fromStdString(port))
                                           : tr("change %1 of %2 cards").arg(QString::fromStdString(port)).arg(cards.size());
    m_session.apply(
        what,
        [&](const Project& p) {
            Result<Project> next = p;
            for (const Id& id : cards)
                if (next) next = edit::setConstant(*next, m_session.masterId(), id, port, value);
            return next;
        },
        row);
}

void Board::openEditor(Edits what, const QRectF& board, const QString& text) {
    m_edits = what;
    m_editor->setText(text);
    m_editor->setGeometry(QRectF(toWidget(board.topLeft()), toWidget(board.bottomRight())).toRect());
    m_editor->show();
    m_editor->raise();
    m_editor->selectAll();
    m_editor->setFocus();
}

void Board::editValue(const Id& card, const CardRow& row) {
    const Node* node = m_session.master()->graph.find(card);
    const PortDef* port = m_layout.cards.at(card).def->input(row.key);
    if (!node || !port || port->unwired != Unwired::Constant) return;
    const Value value = constantOf(*node, *port);
    m_editedCard = card;
    m_editedPort = row.key;
    openEditor(Edits::Value, row.rect.adjusted(row.rect.width() * 0.3, -2, 0, 2), valueText(value, showsColor(*node, *port)));
}

void Board::renameSelection() {
    if (m_selectedWire) return editUnderpass();
    if (m_selection.empty() && m_layout.bay(m_chosenBay)) return renameBay(m_chosenBay);
    if (m_selection.size() != 1) return;
    const Id id = *m_selection.begin();
    const Node* node = m_session.master()->graph.find(id);
    if (node->kind == "note") return editNote(id);
    m_editedCard = id;
    openEditor(Edits::Title, m_layout.cards.at(id).title.adjusted(-4, -2, 4, 2),
               QString::fromStdString(cardTitle(m_session.project(), *m_session.master(), *node)));
}

void Board::finishEdit(bool accept) {
    if (!m_editor->isVisible()) return;
    m_editor->hide();
    setFocus();
    const Master* master = m_session.master();
    if (!accept || !master) return;
    const QString text = m_editor->text();
    if (m_edits == Edits::Take || m_edits == Edits::Underpass) {
        const WireEnd end = m_editedWire;
        const std::string word = text.trimmed().toStdString();
        const bool take = m_edits == Edits::Take;
        m_session.apply(take ? tr("change take") : tr("name the underpass"), [&](const Project& p) {
            return take ? edit::setTake(p, master->id, end.node, end.port, word.starts_with('.') ? word.substr(1) : word)
                        : edit::setUnderpass(p, master->id, end.node, end.port, word);
        });
        return;
    }
    const Node* node = master->graph.find(m_editedCard);
    if (!node) return;
    if (m_edits == Edits::Note) {
        m_session.apply(tr("write the note"), [&](const Project& p) {
            return edit::setSetting(p, master->id, m_editedCard, "text", text.trimmed().toStdString());
        });
        return;
    }
    if (m_edits == Edits::Title) {
        if (text == QString::fromStdString(cardTitle(m_session.project(), *master, *node))) return;
        const auto parameterId = node->settings.find("parameter");
        const Parameter* p =
            node->kind == "parameter" && parameterId != node->settings.end() ? master->parameter(parameterId->second) : nullptr;
        // A parameter's card bears the parameter's name, and an assembly's the assembly's; an Output's title is the name of a port.
        if (const Id assembly = assemblyOf(*node); !assembly.empty() && m_session.project().assembly(assembly)) {
            m_session.apply(tr("rename assembly"),
                            [&](const Project& q) { return edit::renameAssembly(q, assembly, text.trimmed().toStdString()); });
        } else if (p) {
            Parameter renamed = *p;
            renamed.name = text.trimmed().toStdString();
            m_session.apply(tr("rename parameter"), [&](const Project& q) { return edit::changeParameter(q, master->id, renamed); });
        } else {
            m_session.apply(tr("rename card"),
                            [&](const Project& q) { return edit::renameNode(q, master->id, m_editedCard, text.trimmed().toStdString()); });
        }
        return;
    }
    const PortDef* port = m_layout.cards.at(m_editedCard).def->input(m_editedPort);
    Value value;
    if (!valueFromText(text, port->width == kAnyWidth ? 0 : port->width, value)) {
        m_session.say(tr("%1 is no value for %2. Write numbers with blanks between them, or a color as #RRGGBB.")
                          .arg(text, QString::fromStdString(m_editedPort)));
        return;
    }
    if (value == constantOf(*node, *port) && alike(m_editedCard, m_editedPort).size() == 1) return;
    setValue(m_editedCard, m_editedPort, value);
}

void Board::editFormula(const Id& card) {
    const QRectF& rect = m_layout.cards.at(card).rect;
    m_formula->open(card, toWidget(QPointF(rect.left(), rect.bottom() + 4)).toPoint());
}

void Board::chooseSetting(const Id& card, const CardRow& row) {
    const CardLayout& layout = m_layout.cards.at(card);
    if (const SettingDef* setting = layout.def->setting(row.key); setting && setting->key == "formula") return editFormula(card);
    auto* menu = new QMenu(this);
    menu->setObjectName("settingMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const std::string key = row.key;
    auto add = [&](const QString& label, const std::string& value) {
        menu->addAction(label, this, [this, card, key, value] {
            m_session.apply(tr("change %1").arg(QString::fromStdString(key)), [&](const Project& p) {
                Result<Project> next = p;
                for (const Id& id : alike(card, {}))
                    if (next) next = edit::setSetting(*next, m_session.masterId(), id, key, value);
                return next;
            });
        });
    };
    if (row.width == kMapPort) {
        for (const auto& map : m_session.project().maps) add(QString::fromStdString(map->name), map->id);
        add(tr("none"), "");
        if (m_session.project().maps.empty()) menu->addAction(tr("Drop an image file on the board to add a map"))->setEnabled(false);
    } else if (key == kFinishOfSetting && layout.def->key == kFinishOfKind) {
        const Project& project = m_session.project();
        menu->setToolTipsVisible(true);
        for (const Parameter& p : m_session.master()->parameters)
            if (p.type == ParameterType::Finish) add(tr("as %1 says").arg(QString::fromStdString(p.name)), p.id);
        addFinishes(*menu, project, m_session.masterId(), [this, card, key](const Id& worn) {
            m_session.apply(tr("take a finish of %1").arg(QString::fromStdString(m_session.project().nameOf(worn))),
                            [&](const Project& p) { return edit::setSetting(p, m_session.masterId(), card, key, worn); });
        });
    } else if (const SettingDef* setting = layout.def->setting(key)) {
        for (std::string_view choice : setting->choices)
            add(QString::fromUtf8(choice.data(), qsizetype(choice.size())), std::string(choice));
    }
    menu->popup(QCursor::pos());
}

void Board::removeSelection() {
    const Id master = m_session.masterId();
    if (m_selectedWire) {
        const WireEnd end = *m_selectedWire;
        m_selectedWire.reset();
        m_session.apply(tr("delete wire"), [&](const Project& p) {
            return end.node.empty() ? edit::disconnectChannel(p, master, end.port) : edit::disconnect(p, master, end.node, end.port);
        });
        return;
    }
    const std::vector<Id> gone = chosenCards();
    if (gone.empty()) return;
    m_session.apply(tr("delete %1").arg(counted(int(gone.size()), tr("card"), tr("cards"))),
                    [&](const Project& p) { return edit::removeNodes(p, master, gone); });
}

void Board::duplicateSelection() {
    const std::vector<Id> from = chosenCards();
    if (from.empty()) return;
    std::map<Id, Id> made;
    if (!m_session.apply(tr("duplicate"), [&](const Project& p) {
            return edit::duplicateNodes(p, m_session.masterId(), from, {24, 24}, &made);
        }))
        return;
    std::set<Id> now;
    for (const auto& [old, id] : made) now.insert(id);
    select(now);
}

void Board::copySelection() {
    const std::vector<Id> chosen = chosenCards();
    if (chosen.empty()) return;
    const std::string folder = m_session.file().isEmpty() ? std::string() : QFileInfo(m_session.file()).absolutePath().toStdString();
    const CopiedCards cards = edit::copyCards(m_session.project(), m_session.masterId(), chosen, folder);
    QApplication::clipboard()->setText(QString::fromStdString(cardsText(cards)));
}

void Board::paste() {
    const QString text = QApplication::clipboard()->text();
    const Result<CopiedCards> cards = parseCards(text.toStdString());
    if (!cards && looksLikeLines(text.toStdString())) return pasteLines(text.toStdString());
    if (!cards) return m_session.say(QString::fromStdString(cards.error().sentence));
    // At the pointer, where it is over the board; else a little beside where they were.
    Point offset{36, 36};
    if (const QPoint at = mapFromGlobal(QCursor::pos()); rect().contains(at)) {
        float left = 1e9f, top = 1e9f;
        for (const auto& [id, node] : cards->nodes) left = std::min(left, node->position.x), top = std::min(top, node->position.y);
        const QPointF to = toBoard(at);
        offset = {float(std::round((to.x() - left) / 6) * 6), float(std::round((to.y() - top) / 6) * 6)};
    }
    std::map<Id, Id> made;
    if (!m_session.apply(tr("paste %1").arg(counted(int(cards->nodes.size()), tr("card"), tr("cards"))),
                         [&](const Project& p) { return edit::pasteCards(p, m_session.masterId(), *cards, offset, &made); }))
        return;
    std::set<Id> now;
    for (const auto& [old, id] : made) now.insert(id);
    select(now);
}

void Board::pasteLines(const std::string& lines) {
    const QPointF at = toBoard(rect().contains(mapFromGlobal(QCursor::pos())) ? mapFromGlobal(QCursor::pos()) : rect().center());
    std::vector<Id> made;
    const bool good = m_session.apply(tr("paste lines"), [&](const Project& p) -> Result<Project> {
        ReadText read = addLines(p, m_session.masterId(), lines, {float(at.x()), float(at.y())}, &made);
        if (read.project) return std::move(*read.project);
        return Error{"text.wrong", "These lines make no cards: " + describe(read.problems.at(0)) + ".", {}};
    });
    if (good) select({made.begin(), made.end()});
}

void Board::muteSelection() {
    const Master* master = m_session.master();
    const std::vector<Id> ids = chosenCards();
    if (!master || ids.empty()) return;
    const bool mute = std::any_of(ids.begin(), ids.end(), [&](const Id& id) { return !master->graph.find(id)->muted; });
    m_session.apply(mute ? tr("mute") : tr("unmute"), [&](const Project& p) { return edit::muteNodes(p, master->id, ids, mute); });
}

void Board::lockSelection() {
    const Master* master = m_session.master();
    const std::vector<Id> ids = chosenCards();
    if (!master || ids.empty()) return;
    const bool lock = std::any_of(ids.begin(), ids.end(), [&](const Id& id) { return !master->graph.find(id)->locked; });
    m_session.apply(lock ? tr("lock") : tr("unlock"), [&](const Project& p) { return edit::lockNodes(p, master->id, ids, lock); });
}

void Board::exposeSelection() {
    const Master* master = m_session.master();
    if (!master || m_selection.empty()) return m_session.say(tr("Select the cards whose values should become parameters."));
    const auto expose = [this](const std::vector<std::pair<Id, std::string>>& values) {
        m_session.apply(values.size() == 1 ? tr("expose") : tr("expose %1 values").arg(values.size()),
                        [&](const Project& p) { return edit::exposeSeveral(p, m_session.masterId(), values); });
    };
    if (const Node* only = m_selection.size() == 1 ? master->graph.find(*m_selection.begin()) : nullptr;
        only && only->kind == kFinishOfKind && !finishParameter(*master, *only)) {
        m_session.apply(tr("expose"), [&](const Project& p) { return edit::exposeFinish(p, master->id, only->id); });
        return;
    }
    std::vector<std::pair<Id, std::string>> values;
    for (const Id& id : m_selection)
        for (const std::string& port : edit::exposablePorts(m_session.project(), master->graph, id)) values.emplace_back(id, port);
    if (values.empty()) return m_session.say(tr("None of these cards has an unwired value of its own."));
    // One card with several values: which is asked; several cards give all constants, and the first value of the others.
    if (m_selection.size() > 1) {
        std::vector<std::pair<Id, std::string>> first;
        for (const auto& value : values)
            if (first.empty() || first.back().first != value.first) first.push_back(value);
        return expose(first);
    }
    if (values.size() == 1) return expose(values);
    auto* menu = new QMenu(this);
    menu->setObjectName("exposeMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const auto& value : values) menu->addAction(QString::fromStdString(value.second), this, [expose, value] { expose({value}); });
    menu->addSeparator();
    menu->addAction(tr("All of them"), this, [expose, values] { expose(values); });
    const CardLayout& card = m_layout.cards.at(*m_selection.begin());
    menu->popup(mapToGlobal(toWidget(card.rect.bottomLeft()).toPoint()));
    menu->setActiveAction(menu->actions().first());
}

void Board::exposeChannel(const std::string& key) {
    const ChannelDef* channel = findChannel(key);
    if (!channel || !m_session.master()) return;
    // Left of its row, where there is room.
    const QPointF pin = channelPin(key);
    const QPointF at =
        freePlace(QPointF(pin.x() - kCardWidth - 60, pin.y() - 16), heightOfCard(m_session.project(), makeNode("parameter")));
    m_session.apply(tr("expose %1").arg(QString::fromUtf8(channel->name.data(), qsizetype(channel->name.size()))), [&](const Project& p) {
        return edit::exposeChannel(p, m_session.masterId(), key, {float(std::round(at.x())), float(std::round(at.y()))});
    });
}

void Board::tidy() {
    const Master* master = m_session.master();
    if (!master) return;
    std::map<Id, Box> boxes = boxesOf(m_layout);
    for (const BayLayout& bay : m_layout.bays)
        if (bay.folded) boxes[bay.id] = boxOf(bay.rect);
    // One card alone has nobody to lie beside: the board is meant.
    std::set<Id> chosen = m_selection.size() > 1 ? m_selection : std::set<Id>();
    // A folded bay whose name was clicked is chosen as well.
    if (const BayLayout* bay = m_layout.bay(m_chosenBay); bay && bay->folded) chosen.insert(bay->id);
    const auto move = [this, id = master->id](const std::map<Id, Point>& to) {
        m_session.apply(tr("tidy"), [&](const Project& p) { return edit::moveNodes(p, id, to); });
    };
    // What takes longer than a frame is worked out beside; cards that are gone by then are left out.
    constexpr size_t kAtOnce = 120;
    if (boxes.size() <= kAtOnce) return move(tidiedAsSeen(master->graph, boxes, chosen));
    m_session.runner().run(
        {.owner = this, .kind = "tidy"},
        [snapshot = m_session.snapshot(), id = master->id, boxes, chosen](const Work&) {
            return tidiedAsSeen(snapshot->master(id)->graph, boxes, chosen);
        },
        move);
}

void Board::walk(int key, bool extend) {
    if (m_layout.cards.empty()) return;
    if (m_selection.empty()) return select({m_layout.cards.begin()->first});
    const QRectF from = m_layout.cards.at(*m_selection.rbegin()).rect;
    const Id current = *m_selection.rbegin();
    // Along a wire where there is one, else to the nearest card on that side.
    Id best;
    qreal bestScore = 1e18;
    for (const auto& [id, card] : m_layout.cards) {
        if (id == current) continue;
        const QPointF d = card.rect.center() - from.center();
        qreal along = 0, across = 0;
        if (key == Qt::Key_Left) along = -d.x(), across = std::fabs(d.y());
        else if (key == Qt::Key_Right) along = d.x(), across = std::fabs(d.y());
        else if (key == Qt::Key_Up) along = -d.y(), across = std::fabs(d.x());
        else along = d.y(), across = std::fabs(d.x());
        if (along <= 4) continue;
        const Node* left = m_session.master()->graph.find(key == Qt::Key_Left ? current : id);
        const Id other = key == Qt::Key_Left ? id : current;
        const bool joined = (key == Qt::Key_Left || key == Qt::Key_Right) &&
                            std::any_of(left->wires.begin(), left->wires.end(), [&](const auto& w) { return w.second.node == other; });
        const qreal score = along + 2 * across - (joined ? 1e6 : 0);
        if (score < bestScore) bestScore = score, best = id;
    }
    if (best.empty()) return;
    std::set<Id> now = extend ? m_selection : std::set<Id>{};
    now.insert(best);
    select(now);
    const QRectF r(toWidget(m_layout.cards.at(best).rect.topLeft()), toWidget(m_layout.cards.at(best).rect.bottomRight()));
    if (!QRectF(rect()).contains(r)) showCard(best);
}

void Board::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls() || e->mimeData()->hasFormat(kParameterMime)) e->acceptProposedAction();
}

void Board::dropEvent(QDropEvent* e) {
    const Id master = m_session.masterId();
    const QPointF at = toBoard(e->position());
    if (e->mimeData()->hasFormat(kParameterMime)) {
        const Parameter* p =
            m_session.master() ? m_session.master()->parameter(e->mimeData()->data(kParameterMime).toStdString()) : nullptr;
        if (!p) return;
        // A map set has no card: those of its maps are placed.
        std::vector<Node> nodes;
        for (const Parameter& q : m_session.master()->parameters)
            if (p->type == ParameterType::MapSet ? q.type == ParameterType::Map && q.ofSet == p->id : q.id == p->id)
                nodes.push_back(parameterCard(q, {float(at.x()), float(at.y()) + 72 * float(nodes.size())}));
        if (nodes.empty()) return m_session.say(tr("No map is taken of this set yet, so there is no card to place."));
        m_session.apply(tr("place parameter"), [&](const Project& q) {
            Result<Project> next = q;
            for (const Node& node : nodes)
                if (next) next = edit::addNode(*next, master, node);
            return next;
        });
        std::set<Id> placed;
        for (const Node& node : nodes) placed.insert(node.id);
        select(placed);
        return;
    }
    QStringList files;
    for (const QUrl& url : e->mimeData()->urls()) {
        const QString file = url.toLocalFile(), suffix = QFileInfo(file).suffix().toLower();
        if (suffix == "glb" || suffix == "gltf") importFile(m_session, file);
        else files << file;
    }
    if (files.isEmpty()) return;
    mapsFromFiles(m_session, files, [board = QPointer(this), &session = m_session, master, at](const std::vector<MapFile>& maps) {
        std::vector<Id> made;
        // Maps and their cards, one below the other: one step.
        const bool good = session.apply(tr("place %1").arg(counted(int(maps.size()), tr("map"), tr("maps"))), [&](const Project& p) {
            Result<Project> next = p;
            float y = float(at.y());
            for (const MapFile& map : maps) {
                Node node = makeNode("image", {float(at.x()), y});
                node.settings["map"] = map.id;
                node.title = map.name;
                y += 150;
                if (next) next = edit::addMap(*next, map);
                if (next) next = edit::addNode(*next, master, node);
                made.push_back(node.id);
            }
            return next;
        });
        if (good && board && session.masterId() == master) board->select({made.begin(), made.end()});
    });
}

} // namespace hue
