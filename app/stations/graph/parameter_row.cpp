#include "app/stations/graph/parameter_row.h"

#include "app/parts/ask_moved.h"
#include "app/parts/drawn_field.h"
#include "app/parts/fields.h"
#include "app/parts/known_values.h"
#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "app/session/finish_menu.h"
#include "app/stations/graph/limits_dialog.h"
#include "app/stations/graph/parameter_dialog.h"
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/instances/value_words.h"
#include "core/maps/drawn_map.h"

#include <QDrag>
#include <QFileDialog>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

ParameterRow::ParameterRow(Session& session, const Parameter& parameter, QWidget* parent)
    : QWidget(parent), m_session(session), m_id(parameter.id), m_group(parameter.group) {
    setFixedHeight(36);
    setAcceptDrops(true);
    setFocusPolicy(Qt::StrongFocus);
    setObjectName("parameter_" + text(m_id));
    m_field = new ValueField(this);
    m_strength = new ValueField(this);
    m_strength->setUnit(tr("strong"));
    m_strength->setToolTip(tr("How strongly it glows: 1 is as bright as a surface can be"));
    m_alpha = new ValueField(this);
    m_alpha->setUnit(tr("alpha"));
    m_alpha->setRange(0, 1);
    m_drawn = new DrawnField(this);
    m_map = new QPushButton(this);
    m_return = new QToolButton(this);
    m_return->setText("\u21A9");
    m_return->setToolTip(tr("Return to the inherited value"));
    m_return->setAccessibleName(tr("Return to the inherited value"));
    connect(m_field, &ValueField::edited, this, [this](const Value& v) {
        if (m_field->isColor()) return setColor(v);
        m_session.setTunedValue(tr("change %1").arg(m_name), m_id, {v, {}});
    });
    connect(m_strength, &ValueField::edited, this, [this](const Value&) { setColor(m_hue); });
    connect(m_alpha, &ValueField::edited, this, [this](const Value&) { setColor(m_field->value()); });
    connect(m_drawn, &DrawnField::edited, this, [this](const std::string& drawn) {
        m_session.setTunedValue(tr("change %1").arg(m_name), m_id, {{}, drawn});
    });
    connect(m_drawn, &DrawnField::folded, this, &ParameterRow::layOut);
    for (ValueField* f : {m_field, m_strength, m_alpha}) connect(f, &ValueField::editingDone, &session, &Session::endRow);
    connect(m_drawn, &DrawnField::editingDone, &session, &Session::endRow);
    connect(m_return, &QToolButton::clicked, this, [this] {
        m_session.apply(tr("return %1 to the inherited value").arg(m_name),
                        [&](const Project& p) { return edit::clearOwn(p, m_session.target(), m_id); });
    });
    connect(m_map, &QPushButton::clicked, this, [this] {
        const Parameter* p = m_session.master() ? m_session.master()->parameter(m_id) : nullptr;
        if (p && p->type == ParameterType::Finish) chooseFinish();
        else if (p && p->type == ParameterType::MapSet) chooseSet();
        else chooseMap();
    });
    refresh(false);
}

void ParameterRow::resizeEvent(QResizeEvent*) { layOut(); }

void ParameterRow::layOut() {
    m_field->setGeometry(12, 1, width() - 24, 30);
    m_field->setBesideName(true);
    m_map->setGeometry(12, 18, width() - 24, 18);
    m_map->setStyleSheet("padding: 0 6px;");
    m_drawn->setGeometry(12, 18, width() - 24, m_drawn->neededHeight());
    // Beneath the color, side by side.
    const bool strength = m_strength->isVisibleTo(this), alpha = m_alpha->isVisibleTo(this);
    const int room = width() - 24, part = strength && alpha ? (room - 8) / 2 : room;
    m_strength->setGeometry(12, 32, part, 30);
    m_alpha->setGeometry(strength ? 20 + part : 12, 32, part, 30);
    setFixedHeight(m_drawn->isVisibleTo(this) ? 20 + m_drawn->neededHeight() : strength || alpha ? 66 : 36);
    // Left of the figure, right of the name.
    const int figure = m_field->isVisibleTo(this) ? m_field->figureWidth() : 0;
    m_return->setGeometry(width() - 38 - figure, 0, 24, 18);
    m_return->setStyleSheet("padding: 0;");
}

void ParameterRow::setColor(Value color) {
    const Parameter* p = m_session.master() ? m_session.master()->parameter(m_id) : nullptr;
    if (!p) return;
    if (m_strength->isVisibleTo(this)) {
        // The field shows the color without its strength, which is its largest component.
        const float largest = std::max({color[0], color[1], color[2]});
        if (largest > 0)
            for (int c = 0; c < 3; ++c) color[c] *= m_strength->value()[0] / largest;
    }
    if (p->alpha) color = Value::vec4(color[0], color[1], color[2], m_alpha->value()[0]);
    m_session.setTunedValue(tr("change %1").arg(m_name), m_id, {color, {}});
}

void ParameterRow::refresh(bool idle, const QStringList& warnings) {
    m_idle = idle;
    m_warnings = warnings;
    const Master* master = m_session.master();
    const Parameter* p = master ? master->parameter(m_id) : nullptr;
    if (!p) return;
    const Resolved resolved = resolve(m_session.project(), m_session.tuned());
    auto it = resolved.values.find(m_id);
    if (it == resolved.values.end()) return;
    const bool isMaster = m_session.tuned() == master->id;
    const Parameter* set = master->parameter(it->second.bySet);
    m_own = isMaster || (it->second.origin == m_session.tuned() && !set);
    m_name = text(p->name);
    const bool drawn = p->type == ParameterType::Curve || p->type == ParameterType::Gradient, color = p->type == ParameterType::Color;
    const bool map = !p->width() && !drawn;
    m_field->setVisible(p->width());
    m_map->setVisible(map);
    m_drawn->setVisible(drawn);
    m_strength->setVisible(color && p->strongest > 1);
    m_alpha->setVisible(color && p->alpha);
    m_field->setColor(color);
    if (p->type == ParameterType::Color) m_field->setKnown(knownColors());
    else if (QString::fromStdString(p->name).contains("index", Qt::CaseInsensitive)) m_field->setKnown(knownRefraction());
    else m_field->setKnown({});
    QStringList options;
    for (const std::string& option : optionsOf(*p)) options << text(option);
    m_field->setOptions(options);
    m_field->setSlider(sliderOf(*p));
    QStringList components;
    for (const std::string& c : p->components) components << text(c);
    m_field->setComponents(components);
    m_field->setUnit(text(p->unit));
    Value shown = it->second.value.value;
    if (color) {
        shown.width = 3;
        if (p->strongest > 1) {
            const float strength = std::max({shown[0], shown[1], shown[2]});
            m_strength->setRange(0, p->strongest);
            m_strength->setValue(Value::number(strength));
            if (strength > 0)
                for (int c = 0; c < 3; ++c) shown[c] /= strength;
            else shown = m_hue;
            m_hue = shown;
        }
        m_alpha->setValue(Value::number(it->second.value.value[3]));
    }
    m_field->setValue(shown);
    m_field->setQuiet(!m_own);
    m_field->setAccessibleName(m_name);
    for (ValueField* f : {m_strength, m_alpha}) f->setQuiet(!m_own);
    m_strength->setAccessibleName(tr("%1, strength").arg(m_name));
    m_alpha->setAccessibleName(tr("%1, alpha").arg(m_name));
    const Result<Drawn> points = drawn ? drawnFrom(it->second.value.map) : Error{};
    if (points) m_drawn->setDrawn(*points);
    m_drawn->setName(m_name);
    m_drawn->setQuiet(!m_own);
    if (p->type == ParameterType::Finish) {
        const std::string& worn = it->second.value.map;
        m_map->setText(worn.empty() ? tr("of nothing") : text(m_session.project().nameOf(worn)));
        m_map->setAccessibleName(m_name);
    } else if (p->type == ParameterType::MapSet) {
        m_map->setText(it->second.value.map.empty() ? tr("no set") : text(it->second.value.map));
        m_map->setAccessibleName(m_name);
    } else if (map) {
        const MapFile* file = m_session.project().map(it->second.value.map);
        m_map->setText(file ? text(file->name) : tr("no map (neutral)"));
        m_map->setAccessibleName(m_name);
    }
    m_return->setVisible(m_own && !isMaster);
    layOut();
    QString tip = text(p->description);
    if (!p->codeName.empty()) tip += tr("\nIn code: %1").arg(text(p->codeName));
    if (drawn)
        tip += points ? tr("\nA read of it is one fetch from %1 texels, %2 bytes.").arg(kDrawnTexels).arg(kDrawnBytes)
                      : tr("\n%1").arg(text(points.error().sentence));
    if (p->type == ParameterType::MapSet) {
        QStringList of;
        for (const Parameter& q : master->parameters)
            if (q.type == ParameterType::Map && q.ofSet == p->id) of << text(q.name);
        tip +=
            of.isEmpty() ? tr("\nNo map is taken of it yet: the menu of a map parameter does that.") : tr("\nGives %1.").arg(of.join(", "));
    }
    if (set && set != p)
        tip += tr("\nIts %1 is of the set %2, by %3.").arg(text(p->setRole), text(resolved.values.at(set->id).value.map), text(set->name));
    else if (const Parameter* of = master->parameter(p->ofSet); of && p->type == ParameterType::Map)
        tip += tr("\nTaken of the set that %1 names, where it has no own map.").arg(text(of->name));
    if (p->type == ParameterType::Map && p->mostPixels) tip += tr("\nAsks for at most %1 pixels a side.").arg(p->mostPixels);
    if (p->type == ParameterType::Map && p->leastChannels) tip += tr("\nAsks for %1 channels at least.").arg(p->leastChannels);
    if (p->isBuildChoice()) tip += tr("\nBuild choice: each combination in use is compiled on its own.");
    for (const QString& warning : m_warnings) tip += "\n\u26A0 " + warning;
    if (m_idle) tip += tr("\nIdle: nothing reads it in this build.");
    if (p->type == ParameterType::Number || p->type == ParameterType::Integer)
        tip += tr("\nRange %1 to %2 %3").arg(p->softMin).arg(p->softMax).arg(text(p->unit));
    const SharedParameter* shared = m_session.project().sharedParameter(it->second.origin);
    if (shared) tip += tr("\nShared: %1. What is changed on the master changes it for all that follow it.").arg(text(shared->name));
    else if (!m_own) tip += tr("\nInherited from %1").arg(text(m_session.project().nameOf(it->second.origin)));
    tip += tr("\nDrag the name to the board to place it.");
    setToolTip(tip.trimmed());
    setAccessibleName(m_name);
    update();
}

void ParameterRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    QFont font = textFont(13, m_own && m_return->isVisible());
    font.setStrikeOut(m_idle);
    p.setFont(font);
    p.setPen(m_own ? theme().ink : theme().ink2);
    const int left = m_warnings.isEmpty() ? 12 : 28;
    const int room = width() - 16 - left - (m_field->isVisible() ? m_field->figureWidth() : 0) - (m_return->isVisible() ? 26 : 0);
    if (!m_warnings.isEmpty()) {
        // Amber, and never alone: a sign, and words over the row.
        QPolygonF sign{{12, 16}, {18, 5}, {24, 16}};
        p.setRenderHint(QPainter::Antialiasing);
        p.setBrush(theme().caution);
        p.drawPolygon(sign);
        p.drawLine(QPointF(18, 9), QPointF(18, 12));
        p.setRenderHint(QPainter::Antialiasing, false);
    }
    p.drawText(QRect(left, 1, room, 18), Qt::AlignLeft | Qt::AlignVCenter, p.fontMetrics().elidedText(m_name, Qt::ElideRight, room));
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(4, 0, -5, -1));
    }
}

void ParameterRow::chooseMap() {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    auto set = [this](const Id& map) {
        m_session.setTunedValue(tr("change %1").arg(m_name), m_id, {{}, map});
        m_session.endRow();
    };
    for (const auto& map : m_session.project().maps) menu->addAction(text(map->name), this, [set, id = map->id] { set(id); });
    menu->addAction(tr("no map (neutral)"), this, [set] { set({}); });
    menu->addSeparator();
    menu->addAction(tr("Bring in a file"), this, [this, set] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Bring in a map"), {}, imageFilter());
        if (file.isEmpty()) return;
        // Brought in and worn: one step.
        mapsFromFiles(m_session, {file},
                      [&session = m_session, target = m_session.tuned(), id = m_id, name = m_name](const std::vector<MapFile>& maps) {
                          session.apply(tr("change %1").arg(name), [&](const Project& p) -> Result<Project> {
                              const Result<Project> with = edit::addMap(p, maps[0]);
                              return with ? edit::setOwn(*with, target, id, {{}, maps[0].id}) : with;
                          });
                      });
    });
    menu->popup(mapToGlobal(QPoint(12, 38)));
}

void ParameterRow::chooseFinish() {
    auto* menu = new QMenu(this);
    menu->setObjectName("finishMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setToolTipsVisible(true);
    const auto set = [this](const Id& worn) {
        m_session.setTunedValue(tr("change %1").arg(m_name), m_id, {{}, worn});
        m_session.endRow();
    };
    menu->addAction(tr("of nothing"), this, [set] { set({}); });
    menu->addSeparator();
    addFinishes(*menu, m_session.project(), m_session.masterId(), set);
    menu->popup(mapToGlobal(QPoint(12, 38)));
}

void ParameterRow::chooseSet() {
    auto* menu = new QMenu(this);
    menu->setObjectName("setMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto set = [this](const std::string& name) {
        m_session.setTunedValue(tr("change %1").arg(m_name), m_id, {{}, name});
        m_session.endRow();
    };
    for (const std::string& name : m_session.project().mapSets()) menu->addAction(text(name), this, [set, name] { set(name); });
    if (menu->isEmpty()) menu->addAction(tr("There is no set yet: make maps one in Maps"))->setEnabled(false);
    menu->addSeparator();
    menu->addAction(tr("no set"), this, [set] { set({}); });
    menu->popup(mapToGlobal(QPoint(12, 38)));
}

void ParameterRow::fillOfSet(QMenu* menu) {
    const Master* master = m_session.project().master(m_session.masterId());
    const Parameter* p = master ? master->parameter(m_id) : nullptr;
    menu->setObjectName("ofSetMenu");
    menu->setEnabled(p && p->type == ParameterType::Map);
    if (!menu->isEnabled()) return;
    const auto add = [&](const QString& label, const Id& set) {
        QAction* action = menu->addAction(label, this, [this, set, id = master->id] {
            m_session.apply(tr("take %1 of a set").arg(m_name), [&](const Project& q) { return edit::takeOfSet(q, id, {m_id}, set); });
        });
        action->setCheckable(true);
        action->setChecked(p->ofSet == set);
    };
    for (const Parameter& q : master->parameters)
        if (q.type == ParameterType::MapSet) add(text(q.name), q.id);
    menu->addAction(tr("A new one"), this, [this, id = master->id] { takeOfNewSet(m_session, id, {m_id}); });
    menu->addSeparator();
    add(tr("no set"), {});
}

void ParameterRow::fillMerge(QMenu* menu) {
    const Master* master = m_session.project().master(m_session.masterId());
    const Parameter* p = master ? master->parameter(m_id) : nullptr;
    if (!p) return;
    for (const Parameter& q : master->parameters) {
        if (q.id == m_id || q.type != p->type) continue;
        menu->addAction(text(q.name), this, [this, id = master->id, gone = q.id] {
            const Project& before = m_session.project();
            const Result<Project> next = edit::mergeParameters(before, id, m_id, gone);
            if (next && !agreedToMove(window(), tr("Merge parameters"), tr("These show otherwise then:"),
                                      changedByMerge(before, *next, m_id, gone), tr("Merge")))
                return;
            m_session.apply(tr("merge parameters"), [&](const Project& now) { return edit::mergeParameters(now, id, m_id, gone); });
        });
    }
    menu->setEnabled(!menu->isEmpty());
}

void ParameterRow::mousePressEvent(QMouseEvent* e) { m_press = e->pos(); }

void ParameterRow::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton) || (e->pos() - m_press).manhattanLength() < 6) return;
    auto* drag = new QDrag(this);
    auto* mime = new QMimeData;
    mime->setData(kParameterMime, QByteArray::fromStdString(m_id));
    drag->setMimeData(mime);
    drag->exec(Qt::CopyAction | Qt::MoveAction);
}

void ParameterRow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasFormat(kParameterMime)) e->acceptProposedAction();
}

void ParameterRow::dropEvent(QDropEvent* e) {
    const Id moved = e->mimeData()->data(kParameterMime).toStdString();
    const Master* master = m_session.master();
    const Parameter* here = master ? master->parameter(m_id) : nullptr;
    if (!here || moved == m_id) return;
    // The index counts without the row that is moved.
    size_t index = 0;
    for (const Parameter& p : master->parameters) {
        if (p.id == m_id) break;
        index += p.id != moved;
    }
    m_session.apply(tr("move parameter"),
                    [&, group = here->group](const Project& p) { return edit::moveParameter(p, master->id, moved, index, group); });
    e->acceptProposedAction();
}

void ParameterRow::mouseDoubleClickEvent(QMouseEvent*) { editParameter(m_session, m_id, window()); }

void ParameterRow::contextMenuEvent(QContextMenuEvent* e) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const Id master = m_session.masterId();
    const auto& all = m_session.master()->parameters;
    const auto at = std::find_if(all.begin(), all.end(), [&](const Parameter& p) { return p.id == m_id; }) - all.begin();
    menu->addAction(tr("Name, range and group"), this, [this] { editParameter(m_session, m_id, window()); });
    auto move = [this, master, &all, at](long by) {
        const long to = std::clamp<long>(at + by, 0, long(all.size()) - 1);
        const std::string group = all[size_t(to)].group;
        return [this, master, to, group] {
            m_session.apply(tr("move parameter"),
                            [&](const Project& p) { return edit::moveParameter(p, master, m_id, size_t(to), group); });
        };
    };
    menu->addAction(tr("Move up"), this, move(-1));
    menu->addAction(tr("Move down"), this, move(1));
    menu->addSeparator();
    menu->addAction(tr("Split into numbers"), this,
                    [this, master] {
                        m_session.apply(tr("split parameter"), [&](const Project& p) { return edit::splitParameter(p, master, m_id); });
                    })
        ->setEnabled(m_session.project().master(master) && all[size_t(at)].width() > 1);
    fillMerge(menu->addMenu(tr("Merge with")));
    fillOfSet(menu->addMenu(tr("Take of the set")));
    menu->addAction(tr("Limits of several\u2026"), this, [this] { setLimitsOfSeveral(m_session, m_id, window()); });
    menu->addSeparator();
    menu->addAction(tr("Remove parameter"), this, [this, master] {
        m_session.apply(tr("remove parameter"), [&](const Project& p) { return edit::removeParameter(p, master, m_id); });
    });
    menu->popup(e->globalPos());
}

void takeOfNewSet(Session& session, const Id& master, const std::vector<Id>& maps) {
    Parameter set;
    set.id = newId('p');
    set.type = ParameterType::MapSet;
    session.apply(QObject::tr("take maps of a set"), [&](const Project& p) -> Result<Project> {
        const Master* m = p.master(master);
        if (!m) return Error{"edit.no-master", "The master is not in the project any more.", {}};
        std::vector<std::string> names;
        for (const Parameter& q : m->parameters) names.push_back(q.name);
        set.name = freeName(names, "Map set");
        set.description = "Which set its maps are taken of";
        if (const Parameter* first = maps.empty() ? nullptr : m->parameter(maps[0])) set.group = first->group;
        // Above the first of its maps.
        const auto at =
            std::find_if(m->parameters.begin(), m->parameters.end(), [&](const Parameter& q) { return !maps.empty() && q.id == maps[0]; });
        Result<Project> with = edit::addParameter(p, master, set);
        if (with) with = edit::moveParameter(*with, master, set.id, size_t(at - m->parameters.begin()), set.group);
        return with ? edit::takeOfSet(*with, master, maps, set.id) : with;
    });
}

} // namespace hue
