// Edits that the board makes.
#include "app/parts/theme.h"
#include "app/parts/value_text.h"
#include "app/session/drops.h"
#include "app/stations/graph/add_line.h"
#include "app/stations/graph/board.h"
#include "app/stations/graph/formula_editor.h"
#include "core/document/names.h"
#include "core/edits/edits.h"
#include "core/surface/channels.h"

#include <QApplication>
#include <QClipboard>
#include <QColorDialog>
#include <QCursor>
#include <QDragEnterEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainterPath>
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
    const NodeDef* def = target ? findNodeDef(target->kind) : nullptr;
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
    if (!def) return;
    auto make = [this, source, channel](const std::string& take) {
        Source taken = source;
        taken.take = take;
        m_session.apply(tr("wire %1").arg(QString::fromStdString(channel)),
                        [&](const Project& p) { return edit::connectChannel(p, m_session.masterId(), taken, channel); });
    };
    const auto take = source.take.empty() ? fittingTake(widthOf(source), def->width) : source.take;
    if (!take) return askTake(widthOf(source), make);
    make(*take);
}

void Board::dropWire(QPointF at, const QPoint& global) {
    const Source source = m_wireFrom;
    if (m_channels)
        if (const std::string channel = m_channels->channelAt(global); !channel.empty()) return connectChannelWire(source, channel);
    const Hit hit = hitAt(at);
    if (!hit.card.empty() && hit.card != source.node) {
        const CardLayout& card = m_layout.cards.at(hit.card);
        if (hit.row && hit.row->kind == CardRow::Kind::Input) return connectWire(source, hit.card, hit.row->key);
        if (!card.def) return;
        // Dropped on the card as a whole: its fitting ports are offered.
        const bool isMap = widthOf(source) == kMapPort;
        std::vector<std::string> fitting;
        for (const PortDef& p : card.def->inputs)
            if ((p.width == kMapPort) == isMap && showsInput(*m_session.master()->graph.find(hit.card), *card.def, p))
                fitting.emplace_back(p.key);
        if (fitting.size() == 1) return connectWire(source, hit.card, fitting[0]);
        auto* menu = new QMenu(this);
        menu->setObjectName("portMenu");
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (const std::string& port : fitting)
            menu->addAction(QString::fromStdString(port), this, [this, source, card = hit.card, port] { connectWire(source, card, port); });
        if (fitting.empty()) m_session.say(tr("%1 has no input that this wire fits.").arg(QString::fromUtf8(card.def->name.data())));
        menu->popup(global);
        return;
    }
    if (hit.card.empty() && rect().contains(mapFromGlobal(global))) openAddLine(toWidget(at).toPoint(), {}, source);
}

void Board::openAddLine(QPoint at, const QString& typed, std::optional<Source> from) {
    if (!m_session.master()) return;
    m_selectedOutput = from;
    const bool map = from && widthOf(*from) == kMapPort;
    m_addLine->open(at, typed,
                    from ? std::function<bool(const NodeDef&)>([map](const NodeDef& def) {
                        return std::any_of(def.inputs.begin(), def.inputs.end(),
                                           [&](const PortDef& p) { return (p.width == kMapPort) == map; });
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

void Board::placeProposal(const Proposal& proposal) {
    const Id master = m_session.masterId();
    Node node = proposal.node;
    const QPointF at = toBoard(m_addLine->anchor());
    node.position = {float(std::round(at.x() / 6) * 6), float(std::round(at.y() / 6) * 6)};
    const QPointF free = freePlace(QPointF(node.position.x, node.position.y), heightOfCard(node));
    node.position = {float(free.x()), float(free.y())};
    Parameter parameter = proposal.parameter;
    if (proposal.kind == Proposal::Kind::Parameter) {
        parameter.id = newId('p');
        node.settings["parameter"] = parameter.id;
    }
    const auto from = m_selectedOutput;
    // The card and its wire are one step of undo, even where a component has to be chosen between.
    const QString row = "place " + QString::fromStdString(node.id);
    const bool made = m_session.apply(
        tr("add %1").arg(QString::fromStdString(proposal.title)),
        [&](const Project& p) -> Result<Project> {
            Result<Project> next = p;
            if (proposal.kind == Proposal::Kind::Parameter) next = edit::addParameter(*next, master, parameter);
            if (next) next = edit::addNode(*next, master, node);
            return next;
        },
        row);
    setFocus();
    if (!made) return;
    select({node.id});
    const NodeDef* def = findNodeDef(node.kind);
    if (from && def) {
        const int width = widthOf(*from);
        // The first port that takes the wire as it is, else the first of its kind.
        const PortDef* best = nullptr;
        for (const PortDef& p : def->inputs)
            if ((p.width == kMapPort) == (width == kMapPort) && showsInput(node, *def, p) &&
                (!best || (best->width != kAnyWidth && best->width != width && (p.width == width || p.width == kAnyWidth))))
                best = &p;
        if (best) connectWire(*from, node.id, std::string(best->key), row);
    }
    // The next card that is typed continues from this one.
    if (def && !def->outputs.empty())
        m_selectedOutput = from ? std::optional(Source{node.id, std::string(def->outputs[0].key), {}}) : std::nullopt;
}

void Board::insertOnWire(const Id& card, const WireEnd& end) {
    const auto source = sourceOf(end);
    const Node* node = m_session.master()->graph.find(card);
    const NodeDef* def = node ? findNodeDef(node->kind) : nullptr;
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
    forEachWire([&](const WireEnd& end, const Source&, QPointF from, QPointF to, int lane) {
        const QPolygonF points = wirePath(from, to, lane).toSubpathPolygons().value(0);
        for (qsizetype i = 0; i + 1 < points.size(); ++i) {
            QPointF at;
            if (line.intersects(QLineF(points[i], points[i + 1]), &at) == QLineF::BoundedIntersection) {
                cut.push_back(end);
                break;
            }
        }
    });
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

void Board::editValue(const Id& card, const CardRow& row) {
    const Node* node = m_session.master()->graph.find(card);
    const PortDef* port = m_layout.cards.at(card).def->input(row.key);
    if (!node || !port || port->unwired != Unwired::Constant) return;
    const Value value = constantOf(*node, *port);
    m_editedCard = card;
    m_editedPort = row.key;
    m_editor->setText(valueText(value, showsColor(*node, *port)));
    const QRectF r(toWidget(row.rect.topLeft()), toWidget(row.rect.bottomRight()));
    m_editor->setGeometry(r.toRect().adjusted(int(r.width() * 0.3), -2, 0, 2));
    m_editor->show();
    m_editor->selectAll();
    m_editor->setFocus();
}

void Board::renameSelection() {
    if (m_selection.size() != 1) return;
    const Id id = *m_selection.begin();
    const Node* node = m_session.master()->graph.find(id);
    m_editedCard = id;
    m_editedPort.clear();
    m_editor->setText(QString::fromStdString(cardTitle(*m_session.master(), *node)));
    const QRectF& title = m_layout.cards.at(id).title;
    m_editor->setGeometry(QRectF(toWidget(title.topLeft()), toWidget(title.bottomRight())).toRect().adjusted(-4, -2, 4, 2));
    m_editor->show();
    m_editor->selectAll();
    m_editor->setFocus();
}

void Board::finishEdit(bool accept) {
    if (!m_editor->isVisible()) return;
    m_editor->hide();
    setFocus();
    const Master* master = m_session.master();
    const Node* node = master ? master->graph.find(m_editedCard) : nullptr;
    if (!accept || !node) return;
    const QString text = m_editor->text();
    if (m_editedPort.empty()) {
        if (text == QString::fromStdString(cardTitle(*master, *node))) return;
        const auto parameterId = node->settings.find("parameter");
        const Parameter* p =
            node->kind == "parameter" && parameterId != node->settings.end() ? master->parameter(parameterId->second) : nullptr;
        // A parameter's card bears the parameter's name.
        if (p) {
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
    if (value == constantOf(*node, *port)) return;
    m_session.apply(tr("change %1").arg(QString::fromStdString(m_editedPort)),
                    [&](const Project& p) { return edit::setConstant(p, master->id, m_editedCard, m_editedPort, value); });
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
            m_session.apply(tr("change %1").arg(QString::fromStdString(key)),
                            [&](const Project& p) { return edit::setSetting(p, m_session.masterId(), card, key, value); });
        });
    };
    if (row.width == kMapPort) {
        for (const auto& map : m_session.project().maps) add(QString::fromStdString(map->name), map->id);
        add(tr("none"), "");
        if (m_session.project().maps.empty()) menu->addAction(tr("Drop an image file on the board to add a map"))->setEnabled(false);
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
    if (m_selection.empty()) return;
    const std::vector<Id> gone(m_selection.begin(), m_selection.end());
    m_session.apply(tr("delete %1").arg(counted(int(gone.size()), tr("card"), tr("cards"))),
                    [&](const Project& p) { return edit::removeNodes(p, master, gone); });
}

void Board::duplicateSelection() {
    if (m_selection.empty()) return;
    std::map<Id, Id> made;
    const std::vector<Id> from(m_selection.begin(), m_selection.end());
    if (!m_session.apply(tr("duplicate"), [&](const Project& p) {
            return edit::duplicateNodes(p, m_session.masterId(), from, {24, 24}, &made);
        }))
        return;
    std::set<Id> now;
    for (const auto& [old, id] : made) now.insert(id);
    select(now);
}

void Board::copySelection() {
    if (m_selection.empty()) return;
    QStringList ids;
    for (const Id& id : m_selection) ids << QString::fromStdString(id);
    auto* mime = new QMimeData;
    mime->setData(kCardsMime, (QString::fromStdString(m_session.masterId()) + "\n" + ids.join('\n')).toUtf8());
    QApplication::clipboard()->setMimeData(mime);
}

void Board::paste() {
    const QMimeData* mime = QApplication::clipboard()->mimeData();
    if (!mime || !mime->hasFormat(kCardsMime)) return;
    QStringList lines = QString::fromUtf8(mime->data(kCardsMime)).split('\n');
    const Id from = lines.takeFirst().toStdString();
    const Id to = m_session.masterId();
    const Master* source = m_session.project().master(from);
    if (!source) return m_session.say(tr("The cards that were copied are no longer there."));
    std::vector<Id> ids;
    for (const QString& l : lines)
        if (source->graph.find(l.toStdString())) ids.push_back(l.toStdString());
    std::map<Id, Id> made;
    if (!m_session.apply(tr("paste"), [&](const Project& p) { return edit::pasteNodes(p, from, ids, to, {36, 36}, &made); })) return;
    std::set<Id> now;
    for (const auto& [old, id] : made) now.insert(id);
    select(now);
}

void Board::muteSelection() {
    const Master* master = m_session.master();
    if (!master || m_selection.empty()) return;
    const std::vector<Id> ids(m_selection.begin(), m_selection.end());
    const bool mute = std::any_of(ids.begin(), ids.end(), [&](const Id& id) { return !master->graph.find(id)->muted; });
    m_session.apply(mute ? tr("mute") : tr("unmute"), [&](const Project& p) { return edit::muteNodes(p, master->id, ids, mute); });
}

void Board::exposeSelection() {
    const Master* master = m_session.master();
    if (!master || m_selection.size() != 1) return m_session.say(tr("Select the one constant card that should become a parameter."));
    const Id id = *m_selection.begin();
    const Node* node = master->graph.find(id);
    std::string port = "value";
    QString name = QString::fromStdString(node->title);
    if (node->kind != "constant") {
        const CardLayout& card = m_layout.cards.at(id);
        const NodeDef* def = findNodeDef(node->kind);
        // The first value that is the card's own: not one that follows the mesh while nothing is wired.
        auto row = std::find_if(card.rows.begin(), card.rows.end(), [def](const CardRow& r) {
            if (r.kind != CardRow::Kind::Input || r.wired || r.width == kMapPort) return false;
            const PortDef* in = def ? def->input(r.key) : nullptr;
            return in && in->unwired == Unwired::Constant;
        });
        if (row == card.rows.end()) return m_session.say(tr("This card has no unwired value to expose."));
        port = row->key;
        name = QString::fromStdString(cardTitle(*master, *node)) + " " + QString::fromStdString(port);
    } else if (name.isEmpty()) {
        // A constant is best called after what it feeds.
        forEachWire([&](const WireEnd& end, const Source& source, QPointF, QPointF, int) {
            if (source.node != id) return;
            if (const ChannelDef* channel = end.node.empty() ? findChannel(end.port) : nullptr)
                name = QString::fromUtf8(channel->name.data());
            else if (name.isEmpty()) name = QString::fromStdString(end.port);
        });
    }
    Parameter parameter;
    if (name.isEmpty()) name = tr("Parameter");
    name[0] = name[0].toUpper();
    std::vector<std::string> taken;
    for (const Parameter& p : master->parameters) taken.push_back(p.name);
    parameter.name = freeName(taken, name.toStdString());
    m_session.apply(tr("expose %1").arg(name), [&](const Project& p) { return edit::expose(p, master->id, id, port, parameter); });
}

void Board::baySelection() {
    const std::vector<Id> ids(m_selection.begin(), m_selection.end());
    m_session.apply(tr("put a bay around"),
                    [&](const Project& p) { return edit::addBay(p, m_session.masterId(), tr("bay").toStdString(), ids); });
}

void Board::tidy() {
    const Master* master = m_session.master();
    if (!master) return;
    const auto to = tidied(*master, m_layout, {m_selection.begin(), m_selection.end()});
    m_session.apply(tr("tidy"), [&](const Project& p) { return edit::moveNodes(p, master->id, to); });
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
        Node node = makeNode("parameter", {float(at.x()), float(at.y())});
        node.settings["parameter"] = e->mimeData()->data(kParameterMime).toStdString();
        m_session.apply(tr("place parameter"), [&](const Project& p) { return edit::addNode(p, master, node); });
        select({node.id});
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
