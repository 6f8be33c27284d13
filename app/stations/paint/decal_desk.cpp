#include "app/stations/paint/decal_desk.h"

#include "app/parts/theme.h"
#include "core/base/files.h"
#include "core/edits/edits.h"
#include "core/edits/starting_points.h"
#include "core/image_files/image_file.h"
#include "core/make/made_maps.h"
#include "core/maps/lettering.h"

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

DecalDesk::DecalDesk(Session& session, PaintDesk& desk, QObject* parent) : QObject(parent), m_session(session), m_desk(desk) {
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.only(Change::Camera | Change::Paint | Change::Board)) return;
        count();
        Q_EMIT changed();
    });
    connect(&session, &Session::projectOpened, this, [this] { choose({}); });
    connect(&desk, &PaintDesk::surfaceChanged, this, [this] {
        count();
        Q_EMIT changed();
    });
}

void DecalDesk::setInHand(bool inHand) {
    m_inHand = inHand;
    if (inHand && !chosen() && !all().empty()) m_chosen = all().back().id;
    count();
    Q_EMIT changed();
}

const std::vector<Decal>& DecalDesk::all() const {
    static const std::vector<Decal> none;
    const auto& specimens = m_session.project().lineup.specimens;
    return m_desk.specimen() < specimens.size() ? specimens[m_desk.specimen()].decals : none;
}

const Decal* DecalDesk::chosen() const {
    for (const Decal& d : all())
        if (d.id == m_chosen) return &d;
    return nullptr;
}

void DecalDesk::choose(const Id& decal) {
    m_chosen = decal;
    count();
    Q_EMIT changed();
}

std::vector<Id> DecalDesk::wearable() const {
    const Project& p = m_session.project();
    std::vector<Id> out;
    for (const MasterPtr& m : p.masters) {
        if (!m->surface.decal) continue;
        out.push_back(m->id);
        for (const InstancePtr& i : p.instances)
            if (p.masterOf(i->id) == m.get()) out.push_back(i->id);
    }
    return out;
}

void DecalDesk::change(const QString& name, const std::function<void(Decal&)>& how, const QString& key) {
    const Decal* now = chosen();
    if (!now) return;
    Decal next = *now;
    how(next);
    if (next == *now) return;
    m_session.apply(
        name, [&](const Project& p) { return edit::changeDecal(p, m_desk.specimen(), next); }, key.isEmpty() ? key : key + text(next.id));
}

std::optional<Decal> DecalDesk::fresh(const std::optional<MeshPoint>& at) {
    if (!m_desk.surface()) {
        m_session.say(tr("The mesh is still being made ready."));
        return {};
    }
    if (!at) {
        m_session.say(tr("There is no surface there. Point at the mesh, or turn it to the middle of the view."));
        return {};
    }
    const Mesh& mesh = *m_desk.surface()->mesh();
    Decal d;
    d.id = newId('d');
    // A sixth of the mesh, and deep enough to reach around what bends.
    const float size = std::max(m_desk.surface()->bounds().radius() / 3, 1e-3f);
    d.width = d.height = size;
    d.depth = size / 2;
    return placedOn(d, mesh, *at);
}

void DecalDesk::put(const Id& worn, const std::optional<MeshPoint>& at) {
    std::optional<Decal> made = fresh(at);
    if (!made) return;
    Decal& d = *made;
    d.wears = worn;
    const bool put = m_session.apply(tr("put a decal"), [&](const Project& p) -> Result<Project> {
        if (!worn.empty()) return edit::addDecal(p, m_desk.specimen(), d);
        const Master master = makeDecalMaster("Decal");
        d.wears = master.id;
        return edit::chain(p, {[&](const Project& q) { return edit::addMaster(q, master); },
                               [&](const Project& q) { return edit::addDecal(q, m_desk.specimen(), d); }});
    });
    if (!put) return;
    m_inHand = true;
    choose(d.id);
    if (worn.empty())
        m_session.say(tr("It wears a new master, Decal: choose its picture in the parameter sheet, or make instances of it."));
}

void DecalDesk::putMap(const MapFile& map, float aspect, const std::optional<MeshPoint>& at) {
    std::optional<Decal> d = fresh(at);
    if (!d) return;
    if (aspect > 1) d->height = d->width / aspect;
    else d->width = d->height * std::max(aspect, 0.01f);
    Instance instance;
    instance.id = d->wears = newId('i');
    instance.name = d->name = map.name;
    const bool put = m_session.apply(tr("put %1").arg(text(map.name)), [&](const Project& p) -> Result<Project> {
        Result<Project> out = edit::addMap(p, map);
        const auto shows = [&](const Master& m) -> const Parameter* {
            for (const Parameter& parameter : m.parameters)
                if (m.surface.decal && parameter.type == ParameterType::Map && parameter.mapKind == map.kind) return &parameter;
            return nullptr;
        };
        Master made = makeDecalMaster("Decal");
        const Master* master = &made;
        for (const MasterPtr& m : p.masters)
            if (master == &made && shows(*m)) master = m.get();
        if (master == &made) {
            made.parameters[0].mapKind = map.kind;
            if (out) out = edit::addMaster(*out, made);
        }
        instance.parent = master->id;
        instance.own[shows(*master)->id].map = map.id;
        if (out) out = edit::addInstance(*out, instance);
        return out ? edit::addDecal(*out, m_desk.specimen(), *d) : out;
    });
    if (!put) return;
    m_inHand = true;
    choose(d->id);
}

void DecalDesk::letter(const QString& words, const std::function<void(const MapFile&)>& then) {
    m_session.runner().run(
        {.owner = this, .kind = {}},
        [written = words.toStdString(), held = m_session.files()](const Work&) -> Result<MapFile> {
            const Result<Image> picture = lettering(written);
            if (!picture) return picture.error();
            MapFile map{newId('t'), nameOfLettering(written), {}, MapKind::Color, Wrap::Clamp, {}, {}};
            const std::filesystem::path to = pathForMap(held->assets, map.name, picture->type);
            if (const Outcome kept = writeImage(to, *picture, PixelEncoding::Srgb); !kept) return kept.error();
            map.path = held->assets.stored(to);
            map.hash = contentHash(to);
            map.origin.from = MapOrigin::From::Words;
            map.origin.words = written;
            map.origin.width = picture->width, map.origin.height = picture->height;
            return map;
        },
        [this, then](const Result<MapFile>& map) {
            if (map) then(*map);
            else m_session.say(text(map.error().sentence));
        });
}

void DecalDesk::putText(const QString& words, const std::optional<MeshPoint>& at) {
    if (!fresh(at)) return;
    letter(words, [this, at](const MapFile& map) { putMap(map, float(map.origin.width) / float(map.origin.height), at); });
}

QString DecalDesk::words() const {
    const Decal* d = chosen();
    const MapFile* map = d ? edit::wordsOn(m_session.project(), *d) : nullptr;
    return map ? text(map->origin.words) : QString();
}

void DecalDesk::setWords(const QString& words) {
    const Decal* d = chosen();
    if (!d || words == this->words()) return;
    letter(words, [this, id = d->id, specimen = m_desk.specimen()](const MapFile& map) {
        m_session.apply(tr("write %1").arg(text(map.name)), [&](const Project& p) { return edit::rewordDecal(p, specimen, id, map); });
    });
}

void DecalDesk::remove() {
    const Decal* d = chosen();
    if (!d) return;
    // The one below it is next.
    const auto& decals = all();
    const auto at = size_t(d - decals.data());
    const Id next = decals.size() < 2 ? Id{} : decals[at ? at - 1 : 1].id;
    if (m_session.apply(tr("remove %1").arg(text(d->name)),
                        [&, id = d->id](const Project& p) { return edit::removeDecal(p, m_desk.specimen(), id); }))
        choose(next);
}

void DecalDesk::copy() {
    const Decal* d = chosen();
    if (!d || !m_desk.surface()) return;
    Decal next = arrayOf(*d, m_desk.surface()->rays(), 2, 1.1f * d->width).back();
    next.id = newId('d');
    if (m_session.apply(tr("copy %1").arg(text(d->name)), [&](const Project& p) { return edit::addDecal(p, m_desk.specimen(), next); }))
        choose(next.id);
}

void DecalDesk::mirror(int axis) {
    const Decal* d = chosen();
    if (!d) return;
    Decal next = mirroredDecal(*d, axis);
    next.id = newId('d');
    if (m_session.apply(tr("mirror %1").arg(text(d->name)), [&](const Project& p) { return edit::addDecal(p, m_desk.specimen(), next); }))
        choose(next.id);
}

void DecalDesk::line(int count) {
    const Decal* d = chosen();
    if (!d || !m_desk.surface()) return;
    std::vector<Decal> row = arrayOf(*d, m_desk.surface()->rays(), count, 1.1f * d->width);
    m_session.apply(tr("a line of %1").arg(text(d->name)), [&](const Project& p) -> Result<Project> {
        Result<Project> out = p;
        for (size_t k = 1; k < row.size() && out; ++k) {
            row[k].id = newId('d');
            out = edit::addDecal(*out, m_desk.specimen(), row[k]);
        }
        return out;
    });
}

void DecalDesk::order(const Id& decal, size_t place) {
    m_session.apply(tr("order decals"), [&](const Project& p) { return edit::orderDecal(p, m_desk.specimen(), decal, place); });
}

void DecalDesk::move(int by) {
    const Decal* d = chosen();
    if (!d) return;
    const auto at = int(d - all().data()), to = std::clamp(at + by, 0, int(all().size()) - 1);
    if (to != at) order(d->id, size_t(to));
}

void DecalDesk::wear(const Id& worn) {
    change(tr("choose what a decal wears"), [&](Decal& d) { d.wears = worn; });
}

void DecalDesk::count() {
    const Decal* d = chosen();
    const auto specimen = m_desk.alone();
    if (!m_inHand || !d || !specimen || !m_desk.surface()) {
        m_session.runner().cancel(this, "cost");
        m_cost.clear();
        return;
    }
    struct Counted {
        DecalCost projected;
        size_t triangles = 0;
        float area = 0;
    };
    m_session.runner().run(
        {.owner = this, .kind = "cost"},
        [snapshot = m_session.snapshot(), mesh = m_desk.surface()->mesh(), specimen = *specimen, d = *d](const Work& work) {
            Counted out;
            const CutDecal cut = cutOut(*mesh, d);
            out.triangles = cut.mesh.indices.size() / 3;
            out.area = cut.area;
            if (!work.stopped()) out.projected = decalCost(*snapshot, specimen, d, *mesh);
            return out;
        },
        [this](const Counted& c) {
            m_cost = tr("Projected: %1 and %2 within its box, %3 and %4 at all other pixels of its slots. Cut: %5, on %6 m\u00B2. "
                        "Baked into maps of the slots' own, in Dispatch: nothing at any pixel.")
                         .arg(counted(c.projected.operations, tr("operation"), tr("operations")),
                              counted(c.projected.fetches, tr("fetch"), tr("fetches")),
                              counted(c.projected.operationsBeside, tr("operation"), tr("operations")),
                              counted(c.projected.fetchesBeside, tr("fetch"), tr("fetches")),
                              counted(int(c.triangles), tr("triangle"), tr("triangles")))
                         .arg(double(c.area), 0, 'g', 3);
            Q_EMIT changed();
        });
}

} // namespace hue
