#include "app/lineup/lineup_view.h"

#include "app/lineup/scene_panel.h"
#include "app/lineup/yardstick_panel.h"
#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "core/document/names.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"
#include "core/mesh/things.h"
#include "core/surface/channels.h"

#include <QApplication>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenu>
#include <QPointer>
#include <QShortcut>
#include <QToolButton>
#include <QUrl>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

QString number(float x) { return QString::number(double(x), 'g', 4); }
QString listed(const Value& v) {
    QStringList parts;
    for (int c = 0; c < v.width; ++c) parts << number(v[c]);
    return parts.join(' ');
}

} // namespace

LineupView::LineupView(Session& session, PictureService& pictures, Commands& commands, QWidget* parent)
    : QWidget(parent), m_session(session), m_pictures(pictures) {
    setAccessibleName(tr("Lineup"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_head = new QWidget;
    m_head->setObjectName("page");
    m_head->setAttribute(Qt::WA_StyledBackground);
    m_head->setFixedHeight(28);
    auto* head = new QHBoxLayout(m_head);
    head->setContentsMargins(6, 0, 6, 0);
    head->setSpacing(2);
    auto button = [&](const QString& name, const QString& tip) {
        auto* b = new QToolButton;
        b->setText(name);
        b->setAccessibleName(name);
        b->setToolTip(tip);
        head->addWidget(b);
        return b;
    };
    m_viewButton = button(tr("View"), {});
    commands.explain(m_viewButton, "lineup.next-view", tr("What all specimens show; the key leads to the next"));
    m_viewButton->setObjectName("viewButton");
    m_viewButton->setPopupMode(QToolButton::InstantPopup);
    auto* viewMenu = new QMenu(m_viewButton);
    viewMenu->setToolTipsVisible(true);
    m_viewButton->setMenu(viewMenu);
    auto* layerMenu = new QMenu(tr("channels of layers"), viewMenu);
    connect(viewMenu, &QMenu::aboutToShow, this, [this, viewMenu, layerMenu] { fillViewMenu(viewMenu, layerMenu); });
    m_rangeButton = button({}, tr("Range that the view shows from black to white; click to fit it to what is there, again for 0 to 1"));
    m_rangeButton->setObjectName("rangeButton");
    connect(m_rangeButton, &QToolButton::clicked, this, &LineupView::stretchView);
    m_lightButton = button(tr("Scene"), tr("Light, exposure, tone curve, glare, backdrop"));
    m_lightButton->setObjectName("sceneButton");
    connect(m_lightButton, &QToolButton::clicked, this, [this] {
        m_scenePanel->adjustSize();
        m_scenePanel->move(m_lightButton->mapToGlobal(QPoint(0, m_lightButton->height())));
        m_scenePanel->show();
    });
    m_yardstickButton = button(tr("Yardstick"), {});
    commands.explain(m_yardstickButton, "lineup.yardstick",
                     tr("Compare with another specimen, an instance, a map set or a picture; the key turns it on or off"));
    m_yardstickButton->setObjectName("yardstickButton");
    connect(m_yardstickButton, &QToolButton::clicked, this, [this] {
        m_yardstickPanel->refresh();
        m_yardstickPanel->adjustSize();
        m_yardstickPanel->move(m_yardstickButton->mapToGlobal(QPoint(0, m_yardstickButton->height())));
        m_yardstickPanel->show();
    });
    head->addStretch();
    for (const auto& [name, factor] : {std::pair{tr("near"), 0.55f}, {tr("middle"), 1.f}, {tr("far"), 2.5f}}) {
        auto* b = button(name, tr("Stand-off of the shared orbit"));
        connect(b, &QToolButton::clicked, this, [this, f = factor] { change([&](Lineup& l) { l.orbit.standOff = f; }); });
    }
    auto* fillButton = button(tr("fill"), {});
    commands.explain(fillButton, "lineup.fill", tr("The chosen specimen fills the window, or all return"));
    connect(fillButton, &QToolButton::clicked, this, [this] { fill(m_filled >= 0 ? -1 : int(current())); });
    auto* record = button(tr("record"), tr("Record the loop to pictures, an animated picture or a sheet"));
    connect(record, &QToolButton::clicked, this, &LineupView::recordWanted);
    m_add = button("+", tr("Add a specimen"));
    m_add->setAccessibleName(tr("Add a specimen"));
    connect(m_add, &QToolButton::clicked, this, &LineupView::addSpecimen);
    column->addWidget(m_head);
    m_body = new QWidget;
    m_row = new QHBoxLayout(m_body);
    m_row->setContentsMargins(0, 0, 0, 0);
    m_row->setSpacing(2);
    column->addWidget(m_body, 1);
    m_scenePanel = new ScenePanel(session, *this);
    m_yardstickPanel = new YardstickPanel(session, *this);

    m_seamTimer.setSingleShot(true);
    connect(&m_seamTimer, &QTimer::timeout, this, [this] {
        for (SpecimenView* v : m_views)
            if (v->animated()) return m_pictures.measureSeam(m_session.files(), m_session.snapshot(), QSize(160, 100));
    });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.only(Change::Board)) return;
        if (what.only(Change::Camera)) {
            refreshHead();
            requestAll(false);
        } else {
            refresh();
        }
    });
    connect(&session, &Session::projectOpened, this, [this] {
        m_pictures.forget();
        for (SpecimenView* view : m_views) view->clear();
    });
    connect(&session, &Session::timeChanged, this, [this] { requestAll(true); });
    connect(&pictures, &PictureService::ready, this, [this](int place, const FinishedPicture& picture) {
        SpecimenView* view = specimen(size_t(place));
        if (!view) return;
        view->show(picture);
        if (m_yardstickPanel->isVisible()) m_yardstickPanel->showNumbers();
        Q_EMIT paceChanged(picture.scale, picture.seconds);
    });
    connect(&pictures, &PictureService::probed, this, &LineupView::showReadout);
    refresh();
}

void LineupView::fillViewMenu(QMenu* menu, QMenu* ofLayers) {
    menu->clear();
    ofLayers->clear();
    const Lineup& l = m_session.project().lineup;
    auto kind = ViewDef::Kind::Light;
    for (const ViewDef& v : views()) {
        const ChannelDef* channel = findChannel(v.key);
        if (channel && channel->layer && ofLayers->isEmpty()) menu->addMenu(ofLayers);
        if (!channel && v.kind != kind) menu->addSeparator();
        if (!channel) kind = v.kind;
        QAction* a = (channel && channel->layer ? ofLayers : menu)->addAction(text(v.name), this, [this, key = v.key] {
            change([&](Lineup& c) { c.view = key; });
        });
        a->setToolTip(text(v.help));
        a->setCheckable(true);
        a->setChecked(v.key == l.view);
        a->setEnabled(v.key != "wire" || !l.wire.node.empty());
    }
}

size_t LineupView::current() const {
    if (m_filled >= 0) return size_t(m_filled);
    for (size_t i = 0; i < m_views.size(); ++i)
        if (m_views[i]->hasFocus()) return i;
    return 0;
}

void LineupView::change(const std::function<void(Lineup&)>& change) {
    Lineup lineup = m_session.project().lineup;
    change(lineup);
    m_session.setLineup(lineup);
}

void LineupView::changeOrbit(size_t index, bool alone, const std::function<void(Orbit&)>& how) {
    change([&](Lineup& l) {
        if (index >= l.specimens.size()) return;
        auto& own = l.specimens[index].orbit;
        // What has been turned alone keeps an orbit of its own.
        if (alone && !own) own = l.orbit;
        how(own ? *own : l.orbit);
    });
}

void LineupView::changeByEdit(const QString& name, const std::function<void(Lineup&)>& change, const QString& key) {
    m_session.apply(
        name,
        [&](const Project& p) {
            Lineup lineup = p.lineup;
            change(lineup);
            return edit::setLineup(p, lineup);
        },
        key);
}

void LineupView::setView(const QString& key) {
    change([&](Lineup& l) { l.view = l.view == key.toStdString() ? "lit" : key.toStdString(); });
}

void LineupView::nextView() {
    change([](Lineup& l) {
        size_t next = size_t(findView(l.view) + 1) % views().size();
        // Channels of layers are many and mostly empty; F7 passes over them.
        while ((views()[next].key == "wire" && l.wire.node.empty()) ||
               (views()[next].kind == ViewDef::Kind::Channel && findChannel(views()[next].key)->layer))
            next = (next + 1) % views().size();
        l.view = views()[next].key;
    });
}

void LineupView::showWire(const Source& wire) {
    change([&](Lineup& l) {
        const bool same = l.view == "wire" && l.wire == wire && l.wireMaster == m_session.masterId();
        l.wire = wire;
        l.wireMaster = m_session.masterId();
        l.view = same ? "lit" : "wire";
    });
}

void LineupView::toggleYardstick() {
    const Yardstick now = m_session.project().lineup.yardstick;
    changeByEdit(tr("yardstick on or off"), [&](Lineup& l) {
        if (now.what != Yardstick::What::None) {
            m_lastYardstick = now;
            l.yardstick.what = Yardstick::What::None;
        } else if (m_lastYardstick.what != Yardstick::What::None) {
            l.yardstick = m_lastYardstick;
        } else {
            l.yardstick.what = Yardstick::What::Specimen;
            l.yardstick.specimen = 0;
        }
    });
}

void LineupView::fill(int index) {
    m_filled = index >= 0 && size_t(index) < m_views.size() ? index : -1;
    for (size_t i = 0; i < m_views.size(); ++i) m_views[i]->setVisible(m_filled < 0 || int(i) == m_filled);
    Q_EMIT filledChanged(m_filled >= 0);
    requestAll(false);
}

void LineupView::setFolded(bool folded) {
    if (folded) fill(-1);
    m_folded = folded;
    m_body->setVisible(!folded);
    setMinimumHeight(folded ? m_head->height() : 0);
    setMaximumHeight(folded ? m_head->height() : QWIDGETSIZE_MAX);
    if (!folded) requestAll(false);
}

void LineupView::pickColor(std::function<void(const Value&)> take) {
    m_take = std::move(take);
    for (SpecimenView* v : m_views) v->setPicking(bool(m_take));
    // The key may be what calls this.
    if (m_keepColor) {
        m_keepColor->setEnabled(false);
        m_keepColor->deleteLater();
    }
    m_keepColor = nullptr;
    if (!m_take) return;
    m_keepColor = new QShortcut(QKeySequence(Qt::Key_Escape), window());
    connect(m_keepColor, &QShortcut::activated, this, [this] { pickColor({}); });
    m_session.say(tr("Click on a specimen to take its unlit color. Esc keeps the old one."));
}

void LineupView::stretchView() {
    const Lineup& l = m_session.project().lineup;
    if (!m_rangeButton->isVisibleTo(this))
        return m_session.say(tr("This view has no range to stretch. Look at a channel, a wire or a count."));
    if (l.viewLow != 0 || l.viewHigh != 1) return change([](Lineup& c) { c.viewLow = 0, c.viewHigh = 1; });
    const SpecimenView* view = specimen(current());
    if (!view || view->picture().isNull()) return;
    // From what is shown now, leaving out the surround.
    const QImage& picture = view->picture();
    std::vector<int> levels;
    const QRgb surround = theme().surround.rgb();
    for (int y = 0; y < picture.height(); y += 2)
        for (int x = 0; x < picture.width(); x += 2) {
            const QRgb c = picture.pixel(x, y);
            if ((c & 0xFFFFFF) == (surround & 0xFFFFFF)) continue;
            for (int k : {qRed(c), qGreen(c), qBlue(c)}) levels.push_back(k);
        }
    if (levels.empty()) return;
    std::sort(levels.begin(), levels.end());
    const bool encoded = view->finished().encoded;
    auto value = [&](int level) { return encoded ? srgbToLinear(float(level) / 255) : float(level) / 255; };
    const float low = value(levels[levels.size() / 200]), high = value(levels[levels.size() - 1 - levels.size() / 200]);
    if (high - low < 0.004f) return m_session.say(tr("The view is the same everywhere; there is nothing to stretch."));
    change([&](Lineup& c) { c.viewLow = low, c.viewHigh = high; });
}

void LineupView::addSpecimen() {
    m_session.apply(tr("add specimen"), [&](const Project& p) {
        Lineup l = p.lineup;
        if (l.specimens.size() < kMost) {
            Specimen s;
            s.wears = {m_session.target()};
            l.specimens.push_back(s);
        }
        return edit::setLineup(p, l);
    });
}

void LineupView::refreshHead() {
    const Lineup& l = m_session.project().lineup;
    const ViewDef& view = views()[size_t(std::max(0, findView(l.view)))];
    m_viewButton->setText(text(view.name) + " \u25BE");
    const ChannelDef* channel = findChannel(view.key);
    // Directions have no black and white.
    const bool stretches =
        view.kind == ViewDef::Kind::Count || (channel && channel->meaning != Meaning::Normal) || view.key == "wire" || view.key == "unlit";
    m_rangeButton->setVisible(stretches);
    m_rangeButton->setText(tr("range %1 to %2").arg(double(l.viewLow), 0, 'g', 3).arg(double(l.viewHigh), 0, 'g', 3));
    const LightDef* light = findLight(l.light);
    m_lightButton->setText((light ? text(light->name) : QFileInfo(text(l.light)).fileName()) + " \u25BE");
    m_yardstickButton->setText((l.yardstick.what == Yardstick::What::None ? tr("yardstick") : tr("yardstick on")) + " \u25BE");
    m_add->setVisible(l.specimens.size() < kMost);
}

void LineupView::refresh() {
    const auto& specimens = m_session.project().lineup.specimens;
    const size_t wanted = std::min(specimens.size(), kMost);
    while (m_views.size() > wanted) {
        m_views.back()->deleteLater();
        m_views.pop_back();
    }
    // One that was taken away moves the others up; the picture of one is not shown for another.
    if (m_shown.size() != specimens.size())
        for (size_t i = 0; i < m_views.size(); ++i)
            if (i >= m_shown.size() || !(m_shown[i] == specimens[i])) m_views[i]->clear();
    m_shown = specimens;
    while (m_views.size() < wanted) {
        auto* view = new SpecimenView(m_session, m_views.size(), this);
        m_row->addWidget(view, 1);
        m_views.push_back(view);
        connectSpecimen(view);
    }
    if (m_filled >= int(m_views.size())) m_filled = -1;
    for (size_t i = 0; i < m_views.size(); ++i) m_views[i]->setVisible(m_filled < 0 || int(i) == m_filled);
    refreshHead();
    requestAll(false);
    measureSeamSoon();
}

void LineupView::measureSeamSoon() {
    // Only when the artist pauses: the measurement is two more pictures.
    if (!m_session.playing()) m_seamTimer.start(1200);
}

void LineupView::connectSpecimen(SpecimenView* view) {
    const size_t index = view->index();
    connect(view, &SpecimenView::orbited, this, [this, index](float yaw, float pitch, bool alone) {
        changeOrbit(index, alone, [&](Orbit& o) {
            o.yaw = std::fmod(o.yaw + yaw, 360.f);
            o.pitch = std::clamp(o.pitch + pitch, -85.f, 85.f);
        });
    });
    connect(view, &SpecimenView::panned, this, [this, index](float x, float y, bool alone) {
        changeOrbit(index, alone, [&](Orbit& o) {
            o.panX = std::clamp(o.panX + x, -4.f, 4.f);
            o.panY = std::clamp(o.panY + y, -4.f, 4.f);
        });
    });
    connect(view, &SpecimenView::zoomed, this, [this, index](float factor, bool alone) {
        changeOrbit(index, alone, [&](Orbit& o) { o.standOff = std::clamp(o.standOff * factor, 0.2f, 10.f); });
    });
    connect(view, &SpecimenView::fitted, this,
            [this, index](bool alone) { changeOrbit(index, alone, [&](Orbit& o) { o.standOff = 1, o.panX = 0, o.panY = 0; }); });
    connect(view, &SpecimenView::splitMoved, this, [this](float at) { change([&](Lineup& l) { l.yardstick.split = at; }); });
    connect(view, &SpecimenView::thingMoved, this, [this, index](float right, float up, float near) {
        const Project& p = m_session.project();
        if (index >= p.lineup.specimens.size() || p.lineup.specimens[index].things.empty())
            return m_session.say(tr("Nothing stands around this specimen. Right click to set something up."));
        const Orbit o = p.lineup.specimens[index].orbit.value_or(p.lineup.orbit);
        const float yaw = o.yaw * 3.14159265f / 180;
        const float reach = boundsOf(*m_session.assets().mesh(p, p.lineup.specimens[index].mesh)).radius() * 3;
        changeByEdit(
            tr("move thing"),
            [&](Lineup& l) {
                auto& at = l.specimens[index].things.back().position;
                at[0] += (right * std::cos(yaw) + near * std::sin(yaw)) * reach;
                at[1] += up * reach;
                at[2] += (-right * std::sin(yaw) + near * std::cos(yaw)) * reach;
            },
            "thing");
    });
    connect(view, &SpecimenView::resized, this, [this] { requestAll(false); });
    connect(view, &SpecimenView::dropped, this, [this, index](const QMimeData* mime, const QPoint& at) { pasteDropped(index, mime, at); });
    connect(view, &SpecimenView::menuWanted, this, [this, index](const QPoint& global) { showMenu(index, global); });
    connect(view, &SpecimenView::hovered, this, [this, index](int x, int y) {
        if (x < 0) return m_views[index]->setReadout({});
        m_pictures.probe(int(index), requestFor(index, false), x, y);
    });
    connect(view, &SpecimenView::picked, this,
            [this, index](int x, int y) { m_pictures.probe(int(index), requestFor(index, false), x, y); });
}

void LineupView::showReadout(int place, int x, int y, const Probe& probe) {
    SpecimenView* view = specimen(size_t(place));
    if (!view) return;
    if (m_pendingWear && m_pendingWear->first == size_t(place)) {
        const Id worn = m_pendingWear->second;
        m_pendingWear.reset();
        m_session.apply(tr("wear %1").arg(text(m_session.project().nameOf(worn))),
                        [&](const Project& p) { return edit::wear(p, size_t(place), probe.hit ? size_t(probe.slot) : 0, worn); });
        return;
    }
    if (!probe.hit) return view->setReadout({});
    const ViewDef& def = views()[size_t(std::max(0, findView(m_session.project().lineup.view)))];
    // Lit pictures depend on light and screen; their readout is the base color beneath.
    const std::string wanted = def.key == "wire" ? "tap" : def.kind == ViewDef::Kind::Channel ? def.key : "base_color";
    const Value* value = nullptr;
    for (const auto& [name, v] : probe.values)
        if (name == wanted) value = &v;
    if (m_take) {
        const auto take = std::exchange(m_take, nullptr);
        pickColor({});
        if (value) take(value->width == 3 ? *value : Value::vec3((*value)[0], (*value)[0], (*value)[0]));
        return;
    }
    if (!view->underMouse()) return;
    QStringList lines;
    if (value) {
        QString line = (def.kind == ViewDef::Kind::Light ? tr("base color") : text(def.name)) + " " + listed(*value);
        const ChannelDef* channel = findChannel(wanted);
        if (value->width == 3 && (!channel || channel->meaning == Meaning::Color)) {
            Value encoded = *value;
            for (int c = 0; c < 3; ++c) encoded[c] = linearToSrgb(std::max(encoded[c], 0.f));
            line += tr("\nencoded %1 %2").arg(listed(encoded), text(hexFromColor(*value)));
        } else if (value->width == 1) {
            line += tr("  of 255: %1").arg(double((*value)[0]) * 255, 0, 'f', 1);
        }
        lines << line;
    }
    auto metres = [](float m) { return QString::number(double(m), 'f', 3); };
    lines << tr("at %1 %2 %3 m").arg(metres(probe.position[0]), metres(probe.position[1]), metres(probe.position[2]));
    if (m_session.project().lineup.specimens[size_t(place)].placements) lines << tr("copy %1").arg(probe.placement + 1);
    lines << tr("UV %1 %2").arg(metres(probe.uv0[0]), metres(probe.uv0[1]));
    Q_UNUSED(x);
    Q_UNUSED(y);
    view->setReadout(lines.join('\n'));
}

void LineupView::pasteDropped(size_t index, const QMimeData* mime, const QPoint& at) {
    if (mime->hasFormat(kWornMime)) return wearUnder(index, at, mime->data(kWornMime).toStdString());
    if (dropMapSet(index, mime)) return;
    for (const QUrl& url : mime->urls()) {
        const QString file = url.toLocalFile(), suffix = QFileInfo(file).suffix().toLower();
        if (suffix == "hdr") {
            changeByEdit(tr("change light"), [&](Lineup& l) { l.light = m_session.assets().stored(file.toStdString()); });
            continue;
        }
        if (suffix != "glb" && suffix != "gltf") {
            importFile(m_session, file);
            continue;
        }
        // A mesh that came in is what the specimen shows now.
        QPointer<LineupView> self(this);
        importMesh(m_session, file, [self, index](const Id& id) {
            if (self && index < self->m_views.size())
                self->changeByEdit(tr("change mesh"), [&](Lineup& l) { l.specimens[index].mesh = id; });
        });
    }
}

/// Maps, set, master, cards and what the specimen wears: one step.
static void wearAsSet(Session& session, size_t specimen, const QString& name, const std::vector<MapFile>& maps) {
    Master master;
    master.id = newId('m');
    master.name = name.toStdString();
    std::vector<std::string> left;
    const bool good = session.apply(LineupView::tr("wear map set"), [&](const Project& p) -> Result<Project> {
        const std::string set = freeName(p.mapSets(), master.name);
        Result<Project> next = p;
        std::vector<edit::SetMember> members;
        for (const MapFile& m : maps) {
            if (next) next = edit::addMap(*next, m);
            members.push_back({m.id, m.role});
        }
        if (next) next = edit::makeSet(*next, set, members);
        if (next) next = edit::addMaster(*next, master);
        if (next) next = edit::placeSet(*next, master.id, set, &left);
        if (next) next = edit::wear(*next, specimen, 0, master.id);
        return next;
    });
    if (good)
        session.say(left.empty() ? LineupView::tr("The map set became the master %1.").arg(name)
                                 : LineupView::tr("The map set became the master %1. No channel reads %2.").arg(name, text(left[0])));
}

bool LineupView::dropMapSet(size_t index, const QMimeData* mime) {
    // Two and more pictures at once are a map set: they become a master that shows them as they are.
    QStringList files;
    for (const QUrl& url : mime->urls())
        if (isImageFile(url.toLocalFile().toStdString())) files << url.toLocalFile();
    if (files.size() < 2) return false;
    const QString name = QFileInfo(files[0]).completeBaseName().section('_', 0, 0);
    mapsFromFiles(m_session, files, [&session = m_session, index, name](const std::vector<MapFile>& maps) {
        if (maps.size() > 1) wearAsSet(session, index, name, maps);
    });
    return true;
}

void LineupView::wearUnder(size_t index, const QPoint& at, const Id& worn) {
    const MeshPtr mesh = m_session.assets().mesh(m_session.project(), m_session.project().lineup.specimens[index].mesh);
    if (mesh->slots.size() > 1 && m_views[index]->pictureRect().contains(at)) {
        m_pendingWear = {index, worn};
        m_pictures.probe(int(index), requestFor(index, false), at.x(), at.y());
        return;
    }
    m_session.apply(tr("wear %1").arg(text(m_session.project().nameOf(worn))),
                    [&](const Project& p) { return edit::wear(p, index, 0, worn); });
}

PictureRequest LineupView::requestFor(size_t index, bool moving) {
    const Project& p = m_session.project();
    PictureRequest r;
    r.files = m_session.files();
    r.snapshot = m_session.snapshot();
    r.index = index;
    r.specimen = p.lineup.specimens[index];
    r.time = m_session.time();
    r.settings = settingsFor(p, r.specimen, m_session.lights(), m_session.assets().folder(), false);
    const ReadyLight& light = *r.settings.lightFile;
    if (!light.unread.empty()) m_session.readLightSoon(light.unread);
    // Once, not with every frame.
    if (std::exchange(m_lightProblem, light.problem) != light.problem && !light.problem.empty()) m_session.say(text(light.problem));
    const QSize size = m_views[index]->pictureSize();
    r.settings.width = std::max(1, size.width());
    r.settings.height = std::max(1, size.height());
    const Yardstick& y = p.lineup.yardstick;
    r.yardstick = y.what != Yardstick::What::None && !(y.what == Yardstick::What::Specimen && size_t(y.specimen) == index);
    r.moving = moving;
    return r;
}

void LineupView::requestAll(bool onlyAnimated) {
    const Project& p = m_session.project();
    const bool moving = m_session.playing() || QApplication::mouseButtons() != Qt::NoButton;
    for (size_t i = 0; i < m_views.size() && i < p.lineup.specimens.size(); ++i) {
        SpecimenView* view = m_views[i];
        if (m_folded || (!view->isVisibleTo(this) && m_filled >= 0)) continue;
        if ((onlyAnimated && !view->animated()) || view->pictureSize().width() < 8 || view->pictureSize().height() < 8) {
            view->update();
            continue;
        }
        PictureRequest r = requestFor(i, moving);
        static quint64 serial = 0;
        r.serial = ++serial;
        view->expect(serial, !onlyAnimated);
        m_pictures.request(int(i), std::move(r));
    }
}

} // namespace hue
