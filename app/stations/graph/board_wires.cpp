// What is done with wires.
#include "app/parts/theme.h"
#include "app/parts/value_text.h"
#include "app/stations/graph/board.h"
#include "core/document/bays.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <QCursor>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QToolTip>

namespace hue {

void Board::askTake(int width, const std::function<void(const std::string&)>& chosen) {
    auto* menu = new QMenu(this);
    menu->setObjectName("takeMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setToolTipsVisible(true);
    for (const std::string& take : singleTakes(width))
        menu->addAction(take == "luma" ? tr(".luma (brightness)") : "." + QString::fromStdString(take), this,
                        [chosen, take] { chosen(take); });
    menu->popup(QCursor::pos());
}

int Board::widthOf(const Source& source) const {
    const auto it = m_service.facts()->ports.find({source.node, source.port});
    return it == m_service.facts()->ports.end() ? 1 : it->second.width;
}

void Board::connectWire(const Source& source, const Id& node, const std::string& port, const QString& row) {
    const Master* master = m_session.master();
    const Node* target = master ? master->graph.find(node) : nullptr;
    const NodeDef* def = target ? nodeDefOf(m_session.project(), *target) : nullptr;
    const PortDef* portDef = def ? def->input(port) : nullptr;
    if (!portDef) return;
    const Id masterId = master->id;
    auto make = [this, masterId, source, node, port, row](const std::string& take) {
        Source taken = source;
        taken.take = take;
        const Result<Project> wired = edit::connect(m_session.project(), masterId, taken, node, port);
        // The wire itself says why it cannot be.
        if (!wired) QToolTip::showText(QCursor::pos(), QString::fromStdString(wired.error().sentence), this);
        m_session.apply(
            tr("wire"), [&](const Project&) { return wired; }, row);
    };
    const auto take = source.take.empty() ? fittingTake(widthOf(source), portDef->width) : source.take;
    // A loop is refused before anything is asked.
    if (!take && edit::connect(m_session.project(), masterId, source, node, port)) return askTake(widthOf(source), make);
    make(take.value_or(std::string()));
}

void Board::connectChannelWire(const Source& source, const std::string& channel) {
    const ChannelDef* def = findChannel(channel);
    if (!isOnRail(channel)) return;
    // A finish goes to the whole, wherever on the rail it is let go.
    if (widthOf(source) == kFinishPort || !def) {
        if (widthOf(source) != kFinishPort) return m_session.say(tr("The surface as a whole takes a finish. Put a Finish card between."));
        m_session.apply(tr("wire the finish"), [&](const Project& p) {
            return edit::connectChannel(p, m_session.masterId(), source, std::string(kWholeSurface));
        });
        return;
    }
    auto make = [this, source, channel](const std::string& take) {
        Source taken = source;
        taken.take = take;
        if (m_session.apply(tr("wire %1").arg(QString::fromStdString(channel)),
                            [&](const Project& p) { return edit::connectChannel(p, m_session.masterId(), taken, channel); }) &&
            channel == "alpha")
            offerAlpha();
    };
    const auto take = source.take.empty() ? fittingTake(widthOf(source), def->width) : source.take;
    if (!take) return askTake(widthOf(source), make);
    make(*take);
}

void Board::dropWire(QPointF at, const QPoint& global) {
    const Source source = m_wireFrom;
    if (m_allWires) return dropAllWires(hitAt(at));
    if (m_channels)
        if (const std::string channel = m_channels->channelAt(global); !channel.empty()) return connectChannelWire(source, channel);
    const Hit hit = hitAt(at);
    if (!hit.card.empty() && hit.card != source.node) {
        const CardLayout& card = m_layout.cards.at(hit.card);
        if (hit.row && hit.row->kind == CardRow::Kind::Input) {
            const PortDef* port = card.def ? card.def->input(hit.row->key) : nullptr;
            if (port && !port->takes(widthOf(source))) {
                const bool finish = port->width == kFinishPort || widthOf(source) == kFinishPort;
                if (finish) return offerOfFinish(source, hit.card, hit.row->key, global);
                return offerConversion(source, hit.card, hit.row->key, global);
            }
            return connectWire(source, hit.card, hit.row->key);
        }
        if (!card.def) return;
        // Dropped on the card as a whole: its fitting ports are offered.
        const bool isMap = widthOf(source) == kMapPort;
        std::vector<std::string> fitting;
        for (const PortDef& p : card.def->inputs)
            if (p.takes(widthOf(source)) && showsInput(*m_session.master()->graph.find(hit.card), *card.def, p))
                fitting.emplace_back(p.key);
        if (fitting.size() == 1) return connectWire(source, hit.card, fitting[0]);
        auto* menu = new QMenu(this);
        menu->setObjectName("portMenu");
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (const std::string& port : fitting)
            menu->addAction(QString::fromStdString(port), this, [this, source, card = hit.card, port] { connectWire(source, card, port); });
        if (fitting.empty() && isMap) {
            delete menu;
            const auto number = std::find_if(card.def->inputs.begin(), card.def->inputs.end(),
                                             [](const PortDef& p) { return carriesNumbers(p.width) && p.unwired == Unwired::Constant; });
            if (number != card.def->inputs.end()) return offerConversion(source, hit.card, std::string(number->key), global);
            return m_session.say(tr("%1 has no input that this wire fits.").arg(QString::fromUtf8(card.def->name.data())));
        }
        if (fitting.empty()) m_session.say(tr("%1 has no input that this wire fits.").arg(QString::fromUtf8(card.def->name.data())));
        menu->popup(global);
        return;
    }
    if (hit.card.empty() && rect().contains(mapFromGlobal(global))) openAddLine(toWidget(at).toPoint(), {}, source);
}

void Board::insertOnWire(const Id& card, const WireEnd& end) {
    const auto source = sourceOf(end);
    const Node* node = m_session.master()->graph.find(card);
    const NodeDef* def = node ? nodeDefOf(m_session.project(), *node) : nullptr;
    if (!source || !def || def->inputs.empty() || def->outputs.empty()) return;
    const Id master = m_session.masterId();
    const Source out{card, std::string(def->outputs[0].key), {}};
    m_session.apply(tr("put between"), [&](const Project& p) {
        return edit::chain(p, {[&](const Project& q) { return edit::connect(q, master, *source, card, std::string(def->inputs[0].key)); },
                               [&](const Project& q) {
                                   return end.node.empty() ? edit::connectChannel(q, master, out, end.port)
                                                           : edit::connect(q, master, out, end.node, end.port);
                               }});
    });
}

void Board::cutAlong(QLineF line) {
    std::vector<WireEnd> cut;
    for (const WireLayout& wire : drawnWires())
        for (size_t k = 0; k + 1 < wire.way.size() && wire.source.underpass.empty(); ++k) {
            const QLineF run(wire.way[k].x, wire.way[k].y, wire.way[k + 1].x, wire.way[k + 1].y);
            if (QPointF at; line.intersects(run, &at) == QLineF::BoundedIntersection) {
                cut.push_back(wire.end);
                break;
            }
        }
    if (cut.empty()) return;
    const Id master = m_session.masterId();
    m_session.apply(tr("cut %1").arg(counted(int(cut.size()), tr("wire"), tr("wires"))), [&](const Project& p) {
        Result<Project> next = p;
        for (const WireEnd& end : cut)
            if (next)
                next = end.node.empty() ? edit::disconnectChannel(*next, master, end.port)
                                        : edit::disconnect(*next, master, end.node, end.port);
        return next;
    });
}

void Board::offerAlpha() {
    const Master* master = m_session.master();
    if (!master || master->surface.alphaMode != AlphaMode::Opaque) return;
    auto* menu = new QMenu(this);
    menu->setObjectName("alphaMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setToolTipsVisible(true);
    const auto add = [&](const QString& text, const QString& help, AlphaMode mode) {
        menu->addAction(text, this,
                        [this, mode] {
                            m_session.apply(tr("alpha mode"), [&](const Project& p) {
                                SurfaceSettings s = p.master(m_session.masterId())->surface;
                                s.alphaMode = mode;
                                return edit::setSurface(p, m_session.masterId(), s);
                            });
                        })
            ->setToolTip(help);
    };
    add(tr("Mask: cut out where alpha is low"), tr("Hard edges, drawn in any order: leaves, grilles, chain link"), AlphaMode::Mask);
    add(tr("Blend: see through it"), tr("Soft edges and glass; drawn from back to front"), AlphaMode::Blend);
    menu->addAction(tr("Leave the surface opaque"))->setToolTip(tr("Alpha then has no effect; the rail says so"));
    menu->popup(QCursor::pos());
    menu->setActiveAction(menu->actions().first());
}

void Board::offerConversion(const Source& source, const Id& card, const std::string& port, const QPoint& global) {
    auto* menu = new QMenu(this);
    menu->setObjectName("conversionMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const QString name = QString::fromStdString(port);
    if (widthOf(source) == kMapPort) {
        menu->addAction(tr("%1 takes numbers, and this wire brings a map").arg(name))->setEnabled(false);
        menu->addAction(tr("Read the map with an Image in between"), this, [this, source, card, port] {
            Node image = makeNode("image");
            const QRectF& to = m_layout.cards.at(card).rect;
            const QPointF place = freePlace(QPointF(to.left() - kCardWidth - 54, to.top()), heightOfCard(m_session.project(), image));
            image.position = {float(place.x()), float(place.y())};
            const QString row = "read map " + QString::fromStdString(image.id);
            if (!m_session.apply(
                    tr("read the map"),
                    [&](const Project& p) {
                        const Id master = m_session.masterId();
                        return edit::chain(p, {[&](const Project& q) { return edit::addNode(q, master, image); },
                                               [&](const Project& q) { return edit::connect(q, master, source, image.id, "map"); }});
                    },
                    row))
                return;
            connectWire({image.id, "color", {}}, card, port, row);
            m_session.endRow();
        });
    } else {
        menu->addAction(tr("%1 takes a map, and this wire brings numbers").arg(name))->setEnabled(false);
        QAction* make = m_commands.action("board.make-map");
        menu->addAction(tr("Make a map of the wire"), this, [this, source, make] {
            m_selectedOutput = source;
            make->trigger();
        });
    }
    menu->popup(global);
    menu->setActiveAction(menu->actions().last());
}

void Board::offerOfFinish(const Source& source, const Id& card, const std::string& port, const QPoint& global) {
    auto* menu = new QMenu(this);
    menu->setObjectName("finishMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto between = [&](const QString& words, const std::string& kind, const std::string& in, const std::string& out) {
        menu->addAction(words, this, [=, this] {
            m_session.apply(words, [&](const Project& p) {
                const Id master = m_session.masterId();
                return edit::putBetween(p, master, source, kind, in, out, {master, card, port});
            });
        });
    };
    const QString name = QString::fromStdString(port).replace('_', ' ');
    if (widthOf(source) == kFinishPort) {
        menu->addAction(tr("%1 takes numbers, and this wire brings a finish").arg(name))->setEnabled(false);
        for (const char* part : {"base_color", "roughness", "normal", "metallic", "occlusion", "height", "emissive", "alpha"})
            between(tr("Take its %1").arg(QString(part).replace('_', ' ')), "separate_finish", "in", part);
    } else if (widthOf(source) == kMapPort) {
        menu->addAction(tr("%1 takes a finish, and this wire brings a map. Read it with an Image card.").arg(name))->setEnabled(false);
    } else {
        menu->addAction(tr("%1 takes a finish, and this wire brings numbers").arg(name))->setEnabled(false);
        for (const char* part : {"base_color", "roughness", "metallic", "height"})
            if (widthOf(source) == 1 || std::string_view(part) == "base_color")
                between(tr("Make a finish with it as %1").arg(QString(part).replace('_', ' ')), "finish", part, "out");
    }
    menu->popup(global);
    if (menu->actions().size() > 1) menu->setActiveAction(menu->actions().at(1));
}

void Board::moveWires(const Source& from, const Source& to) {
    const Result<Project> moved = edit::moveWires(m_session.project(), m_session.masterId(), from, to);
    if (!moved) QToolTip::showText(QCursor::pos(), QString::fromStdString(moved.error().sentence), this);
    m_session.apply(tr("lead wires to %1").arg(QString::fromStdString(cardTitle(m_session.project(), *m_session.master(), to.node))),
                    [&](const Project&) { return moved; });
}

void Board::dropAllWires(const Hit& hit) {
    const auto card = m_layout.cards.find(hit.card);
    if (card == m_layout.cards.end() || !card->second.def || card->second.def->outputs.empty())
        return m_session.say(tr("Let all wires of an output go on another card: they then start there."));
    const bool onOutput = hit.row && hit.row->kind == CardRow::Kind::Output;
    moveWires(m_wireFrom, {hit.card, onOutput ? hit.row->key : std::string(card->second.def->outputs[0].key), {}});
}

void Board::leadWires() {
    const auto from = tapTarget();
    const Master* master = m_session.master();
    if (!from || !master) return m_session.say(tr("Select the card, or the output, whose wires should start elsewhere."));
    // Cards that can take them, the nearest first.
    struct Choice {
        qreal far;
        Source to;
        QString text;
    };
    std::vector<Choice> choices;
    const std::optional<QPointF> here = m_layout.outputPin(*from);
    for (const auto& [id, card] : m_layout.cards) {
        if (!card.def) continue;
        for (const PortDef& port : card.def->outputs) {
            const Source to{id, std::string(port.key), {}};
            if ((to.node == from->node && to.port == from->port) || !edit::moveWires(m_session.project(), master->id, *from, to)) continue;
            QString text = QString::fromStdString(cardTitle(m_session.project(), *master, id));
            if (card.def->outputs.size() > 1) text += " \u00B7 " + QString::fromStdString(to.port);
            const QPointF there = m_layout.outputPin(to).value_or(QPointF());
            choices.push_back({here ? QLineF(*here, there).length() : 0, to, text});
        }
    }
    if (choices.empty()) return m_session.say(tr("No other output can take these wires."));
    std::sort(choices.begin(), choices.end(),
              [](const Choice& a, const Choice& b) { return std::pair(a.far, a.text) < std::pair(b.far, b.text); });
    constexpr size_t kMost = 24;
    if (choices.size() > kMost) choices.resize(kMost);
    auto* menu = new QMenu(this);
    menu->setObjectName("leadMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Its wires should start at"))->setEnabled(false);
    for (const Choice& choice : choices) menu->addAction(choice.text, this, [this, from = *from, to = choice.to] { moveWires(from, to); });
    menu->popup(here ? mapToGlobal(toWidget(*here).toPoint()) : QCursor::pos());
    menu->setActiveAction(menu->actions().at(1));
}

void Board::swapSelected() {
    const Master* master = m_session.master();
    if (!master || m_selection.size() != 1) return m_session.say(tr("Select the one card whose inputs should change places."));
    const Id id = *m_selection.begin();
    std::vector<std::string> ports;
    for (const CardRow& row : m_layout.cards.at(id).rows) {
        const PortDef* port = row.kind == CardRow::Kind::Input ? m_layout.cards.at(id).def->input(row.key) : nullptr;
        if (port && port->width != kMapPort && port->unwired == Unwired::Constant) ports.push_back(row.key);
    }
    if (ports.size() < 2) return m_session.say(tr("This card has no two inputs that could change places."));
    m_session.apply(tr("swap %1 and %2").arg(QString::fromStdString(ports[0]), QString::fromStdString(ports[1])),
                    [&](const Project& p) { return edit::swapInputs(p, master->id, id, ports[0], ports[1]); });
}

std::vector<WireEnd> Board::chosenWires() const {
    if (m_selectedWire) return {*m_selectedWire};
    std::vector<WireEnd> ends;
    if (const std::optional<Source> from = tapTarget())
        for (const WireLayout& wire : drawnWires())
            if (wire.source.node == from->node && (!m_selectedOutput || wire.source.port == from->port)) ends.push_back(wire.end);
    return ends;
}

/// One edit of each wire after the other.
template <class Edit> static Result<Project> onEach(const Project& p, const std::vector<WireEnd>& ends, Edit edit) {
    Result<Project> next = p;
    for (const WireEnd& end : ends)
        if (next) next = edit(*next, end);
    return next;
}

void Board::togglePerVertex() {
    const Master* master = m_session.master();
    if (!master) return;
    const std::vector<WireEnd> ends = chosenWires();
    if (ends.empty()) return m_session.say(tr("Select a wire, or a card whose wires should be computed per vertex."));
    const auto& ports = m_service.facts()->ports;
    const Source first = *sourceOf(ends[0]);
    if (const auto info = ports.find({first.node, first.port}); info != ports.end() && !carriesNumbers(info->second.width))
        return m_session.say(info->second.width == kMapPort
                                 ? tr("This wire leads a map, which vertices do not carry. Choose a wire that leads numbers.")
                                 : tr("This wire leads a finish. Choose the wires of its channels that vertices should compute."));
    const bool perVertex = !first.perVertex;
    m_session.apply(perVertex ? tr("compute per vertex") : tr("compute per pixel"), [&](const Project& p) {
        return onEach(p, ends, [&](const Project& q, const WireEnd& end) {
            return edit::setPerVertex(q, master->id, end.node, end.port, perVertex);
        });
    });
}

void Board::toggleUnderpass() {
    const Master* master = m_session.master();
    if (!master) return;
    const std::vector<WireEnd> ends = chosenWires();
    if (ends.empty()) return m_session.say(tr("Select a wire, or a card whose wires should go under ground."));
    const std::string name =
        sourceOf(ends[0])->underpass.empty() ? cardTitle(m_session.project(), *master, sourceOf(ends[0])->node) : std::string();
    m_session.apply(name.empty() ? tr("draw the wire") : tr("underpass"), [&](const Project& p) {
        return onEach(p, ends,
                      [&](const Project& q, const WireEnd& end) { return edit::setUnderpass(q, master->id, end.node, end.port, name); });
    });
}

void Board::editTake() {
    if (!m_selectedWire) return;
    for (const WireLayout& wire : drawnWires())
        if (wire.end == *m_selectedWire) {
            m_editedWire = wire.end;
            const QPointF to(wire.way.back().x, wire.way.back().y);
            openEditor(Edits::Take, QRectF(to.x() - 74, to.y() - 26, 70, 22), "." + QString::fromStdString(wire.source.take));
            m_editor->setCursorPosition(int(m_editor->text().size()));
        }
}

void Board::editUnderpass() {
    for (const WireLayout& wire : drawnWires())
        if (m_selectedWire && wire.end == *m_selectedWire && !wire.source.underpass.empty()) {
            m_editedWire = wire.end;
            openEditor(Edits::Underpass, underpassLabel(wire).adjusted(-30, -3, 0, 3), QString::fromStdString(wire.source.underpass));
        }
}

} // namespace hue
