// The menu of a specimen: its mesh, what it wears, what stands around it.
#include "app/lineup/lineup_view.h"
#include "app/lineup/placements_dialog.h"
#include "app/session/drops.h"
#include "core/edits/edits.h"
#include "core/mesh/things.h"

#include <QFileDialog>
#include <QMenu>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

} // namespace

void LineupView::fillMeshMenu(QMenu* menu, size_t index) {
    const Project& p = m_session.project();
    const Id now = p.lineup.specimens[index].mesh;
    auto set = [this, index](const Id& id) { changeByEdit(tr("change mesh"), [&](Lineup& l) { l.specimens[index].mesh = id; }); };
    auto add = [&](QMenu* to, const QString& name, const Id& id) {
        QAction* a = to->addAction(name, this, [set, id] { set(id); });
        a->setCheckable(true);
        a->setChecked(id == now);
    };
    for (const auto& m : p.meshes) add(menu, text(m->name), m->id);
    menu->addSeparator();
    for (const auto& [id, name] : shapes()) add(menu, text(name), id);
    if (now.starts_with("shape:")) {
        auto* density = menu->addMenu(tr("Density"));
        const Id shape = now.substr(0, now.find('/'));
        static constexpr const char* names[] = {QT_TR_NOOP("very coarse"), QT_TR_NOOP("coarse"), QT_TR_NOOP("usual"), QT_TR_NOOP("fine"),
                                                QT_TR_NOOP("very fine")};
        for (int d = 1; d <= 5; ++d) add(density, tr(names[d - 1]), d == 3 ? shape : shape + "/" + std::to_string(d));
    }
    auto* subdivide = menu->addMenu(tr("Subdivide"));
    subdivide->setToolTipsVisible(true);
    for (int times = 0; times <= 5; ++times) {
        QAction* a = subdivide->addAction(times ? tr("%1 times, for displacement").arg(times) : tr("not"), this, [this, index, times] {
            changeByEdit(tr("subdivide"), [&](Lineup& l) { l.specimens[index].subdivisions = times; });
        });
        a->setCheckable(true);
        a->setChecked(times == p.lineup.specimens[index].subdivisions);
    }
    menu->addSeparator();
    menu->addAction(tr("Bring in a file"), this, [this, set] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Bring in a mesh"), {}, meshFilter());
        if (!file.isEmpty()) importMesh(m_session, file, set);
    });
}

void LineupView::fillPlacementsMenu(QMenu* menu, size_t index) {
    menu->setToolTipsVisible(true);
    const auto now = m_session.project().lineup.specimens[index].placements;
    using Form = Placements::Form;
    const auto placements = [](Form form, int count, int rows = 3) {
        Placements p;
        p.form = form;
        p.count = count;
        p.rows = rows;
        return p;
    };
    const std::pair<QString, std::optional<Placements>> usual[] = {{tr("Once"), {}},
                                                                   {tr("Row of 5"), placements(Form::Row, 5)},
                                                                   {tr("Grid of 5 x 3"), placements(Form::Grid, 5)},
                                                                   {tr("Ring of 8"), placements(Form::Ring, 8)}};
    for (const auto& [name, wanted] : usual) {
        QAction* a = menu->addAction(name, this, [this, index, wanted = wanted] {
            changeByEdit(tr("place copies"), [&](Lineup& l) { l.specimens[index].placements = wanted; });
        });
        a->setCheckable(true);
        a->setChecked(now == wanted);
        a->setToolTip(tr("Copies show what differs between placements, and where object and world part"));
    }
    menu->addSeparator();
    menu->addAction(tr("Arrange"), this, [this, index] { (new PlacementsDialog(m_session, index, window()))->show(); });
}

void LineupView::fillThingsMenu(QMenu* menu, size_t index) {
    const Project& p = m_session.project();
    const auto& things = p.lineup.specimens[index].things;
    menu->setToolTipsVisible(true);
    if (things.empty()) menu->addSection(tr("Nothing near to be mirrored: set something up"));
    for (const ThingKind& kind : thingKinds()) {
        QAction* a =
            menu->addAction(tr("%1 (%2)").arg(text(kind.name), text(kind.where)), this, [this, index, key = std::string(kind.key)] {
                const Bounds bounds =
                    boundsOf(*m_session.assets().mesh(m_session.project(), m_session.project().lineup.specimens[index].mesh));
                const ThingPlace place = placeFor(key, bounds);
                changeByEdit(tr("set up %1").arg(text(key)), [&](Lineup& l) {
                    l.specimens[index].things.push_back({key, place.position, place.size, true});
                });
                m_session.say(tr("Ctrl+drag moves it, Ctrl+Shift+drag brings it nearer."));
            });
        a->setToolTip(text(kind.help));
    }
    if (things.empty()) return;
    menu->addSeparator();
    for (size_t t = 0; t < things.size(); ++t) {
        QString name = text(things[t].kind);
        for (const ThingKind& kind : thingKinds())
            if (kind.key == things[t].kind) name = text(kind.name);
        auto* one = menu->addMenu(name);
        auto edit = [this, index, t](const QString& what, auto how) {
            changeByEdit(what, [&](Lineup& l) { how(l.specimens[index].things, t); });
        };
        one->addAction(tr("Larger"), this,
                       [edit] { edit(tr("larger"), [](auto& list, size_t i) { list[i].size = std::min(list[i].size * 1.25f, 20.f); }); });
        one->addAction(tr("Smaller"), this,
                       [edit] { edit(tr("smaller"), [](auto& list, size_t i) { list[i].size = std::max(list[i].size / 1.25f, 0.05f); }); });
        one->addAction(tr("Move with Ctrl+drag"), this, [edit] {
            edit(tr("choose thing"),
                 [](auto& list, size_t i) { std::rotate(list.begin() + long(i), list.begin() + long(i) + 1, list.end()); });
        });
        QAction* shadow = one->addAction(tr("Casts a shadow"), this, [edit] {
            edit(tr("shadow"), [](auto& list, size_t i) { list[i].castsShadow = !list[i].castsShadow; });
        });
        shadow->setCheckable(true);
        shadow->setChecked(things[t].castsShadow);
        one->addAction(tr("Take away"), this,
                       [edit] { edit(tr("take away"), [](auto& list, size_t i) { list.erase(list.begin() + long(i)); }); });
    }
}

void LineupView::showMenu(size_t index, const QPoint& global) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const Project& p = m_session.project();
    const Specimen& specimen = p.lineup.specimens[index];
    fillMeshMenu(menu->addMenu(tr("Mesh")), index);
    const MeshPtr mesh = m_session.assets().mesh(p, specimen.mesh);
    for (size_t slot = 0; slot < mesh->slots.size(); ++slot) {
        auto* wears = menu->addMenu(tr("%1 wears").arg(text(mesh->slots[slot].name)));
        auto add = [&](const Id& id) {
            wears->addAction(text(p.nameOf(id)), this, [this, index, slot, id] {
                m_session.apply(tr("wear"), [&](const Project& q) { return edit::wear(q, index, slot, id); });
            });
        };
        for (const auto& m : p.masters) add(m->id);
        for (const auto& i : p.instances) add(i->id);
    }
    fillPlacementsMenu(menu->addMenu(tr("Placements")), index);
    fillThingsMenu(menu->addMenu(tr("Surroundings")), index);
    auto* light = menu->addMenu(tr("Own light"));
    auto addLight = [&](const QString& name, const std::string& id) {
        QAction* a = light->addAction(
            name, this, [this, index, id] { changeByEdit(tr("own light"), [&](Lineup& l) { l.specimens[index].light = id; }); });
        a->setCheckable(true);
        a->setChecked(specimen.light == id);
    };
    addLight(tr("none: the lineup's"), {});
    for (const LightDef& def : lights()) addLight(text(def.name), def.id);
    QAction* shadow = menu->addAction(tr("Casts a shadow"), this, [this, index] {
        changeByEdit(tr("shadow"), [&](Lineup& l) { l.specimens[index].castsShadow = !l.specimens[index].castsShadow; });
    });
    shadow->setCheckable(true);
    shadow->setChecked(specimen.castsShadow);
    menu->addSeparator();
    menu->addAction(tr("Fit"), this,
                    [this, index] { changeOrbit(index, false, [](Orbit& o) { o.standOff = 1, o.panX = 0, o.panY = 0; }); });
    QAction* own = menu->addAction(tr("Own orbit"), this, [this, index] {
        change([&](Lineup& l) {
            auto& orbit = l.specimens[index].orbit;
            if (orbit) orbit.reset();
            else orbit = l.orbit;
        });
    });
    own->setCheckable(true);
    own->setChecked(specimen.orbit.has_value());
    menu->addAction(m_filled >= 0 ? tr("Show all specimens") : tr("Fill the window"), this,
                    [this, index] { fill(m_filled >= 0 ? -1 : int(index)); });
    menu->addAction(tr("Make it the yardstick"), this, [this, index] {
        changeByEdit(tr("change yardstick"), [&](Lineup& l) {
            l.yardstick.what = Yardstick::What::Specimen;
            l.yardstick.specimen = int(index);
        });
    });
    menu->addAction(tr("Save the picture"), this, [this, index] {
        const QString file = QFileDialog::getSaveFileName(this, tr("Save the picture"), "specimen.png", tr("Pictures (*.png)"));
        if (!file.isEmpty() && !m_views[index]->picture().save(file))
            m_session.say(tr("%1 cannot be written. Check the folder and the space on the disk.").arg(file));
    });
    menu->addSeparator();
    menu->addAction(tr("Edit what it wears"), m_views[index], &SpecimenView::editWorn);
    menu->addAction(tr("Remove specimen"), this, [this, index] {
        changeByEdit(tr("remove specimen"), [&](Lineup& l) {
            if (l.specimens.size() > 1) l.specimens.erase(l.specimens.begin() + long(index));
        });
    });
    menu->popup(global);
}

} // namespace hue
