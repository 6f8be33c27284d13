#include "app/session/map_service.h"

#include "app/parts/theme.h"
#include "core/base/files.h"
#include "core/compile/compile.h"
#include "core/compress/block_format.h"
#include "core/edits/edits.h"
#include "core/images/mips.h"

#include <QFileInfo>
#include <QPointer>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
constexpr size_t kKeptImages = 4;
constexpr int kScreenSide = 2048;

} // namespace

ImagePtr forScreen(ImagePtr image) {
    while (std::max(image->width, image->height) > kScreenSide) image = std::make_shared<Image>(halved(*image, false));
    return image;
}

QImage imageOfScreen(const ScreenPicture& p) {
    QImage out(p.width, p.height, p.channels == 1 ? QImage::Format_Grayscale8 : QImage::Format_RGB888);
    const size_t row = size_t(p.width) * size_t(p.channels);
    for (int y = 0; y < p.height; ++y) std::copy_n(&p.bytes[size_t(y) * row], row, out.scanLine(y));
    return out;
}

MapService::MapService(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    // One core is left to the pictures.
    m_pool.setMaxThreadCount(std::max(1, QThread::idealThreadCount() - 1));
    m_settled.setSingleShot(true);
    m_settled.setInterval(350);
    connect(&m_settled, &QTimer::timeout, this, [this] {
        lookAtAll();
        watchAll();
        remakeStale();
    });
    connect(&session, &Session::changed, &m_settled, qOverload<>(&QTimer::start));
    connect(&session, &Session::fileChanged, &m_settled, qOverload<>(&QTimer::start));
    // Programs write files in several steps; what comes in a row is one change.
    m_reread.setSingleShot(true);
    m_reread.setInterval(250);
    connect(&m_reread, &QTimer::timeout, this, &MapService::fileChanged);
    m_told.setSingleShot(true);
    m_told.setInterval(120);
    connect(&m_told, &QTimer::timeout, this, &MapService::knowledgeChanged);
    connect(&m_watcher, &QFileSystemWatcher::fileChanged, &m_reread, qOverload<>(&QTimer::start));
    QPointer<MapService> self(this);
    session.assets().library().setReady([self] {
        QMetaObject::invokeMethod(qApp, [self] {
            if (self) Q_EMIT self->m_session.changed();
        });
    });
}

MapService::~MapService() {
    m_session.assets().library().setReady({});
    cancel();
    m_pool.clear();
    m_pool.waitForDone();
    // A job works on the session that is about to go.
    QThreadPool::globalInstance()->waitForDone();
}

QImage MapService::thumbnail(const MapFile& map) const {
    const auto k = knowledge(map);
    if (!k || k->thumbnail.empty()) return {};
    return QImage(k->thumbnail.data(), k->thumbnailWidth, k->thumbnailHeight, k->thumbnailWidth * 4, QImage::Format_RGBA8888).copy();
}

void MapService::lookAtAll() {
    for (const auto& m : m_session.project().maps) {
        const std::filesystem::path file = path(*m);
        std::error_code none;
        const auto changed = std::filesystem::last_write_time(file, none);
        const std::string key = file.string() + "|" + std::to_string(changed.time_since_epoch().count());
        if (m_index.known(file) || !m_lookedAt.insert(key).second) continue;
        ++m_looking;
        m_pool.start([this, file] {
            m_index.look(file);
            QMetaObject::invokeMethod(this, [this] {
                --m_looking;
                // Many maps that come in a row are told of together.
                if (!m_told.isActive()) m_told.start();
            });
        });
    }
}

void MapService::watchAll() {
    const QStringList now = m_watcher.files();
    QStringList wanted;
    for (const auto& m : m_session.project().maps) {
        const QString file = text(path(*m).string());
        if (QFileInfo::exists(file)) wanted << file;
    }
    for (const QString& file : now)
        if (!wanted.contains(file)) m_watcher.removePath(file);
    for (const QString& file : wanted)
        if (!now.contains(file)) m_watcher.addPath(file);
}

void MapService::fileChanged() {
    // A file that was replaced by another of its name is lost to the watcher.
    watchAll();
    lookAtAll();
    Q_EMIT m_session.changed();
    Q_EMIT knowledgeChanged();
    m_session.say(tr("A map has changed on disk and was read again."));
}

ImagePtr MapService::image(const Id& id) {
    const MapFile* map = m_session.project().map(id);
    if (!map) return nullptr;
    const std::filesystem::path file = path(*map);
    std::error_code none;
    const auto changed = std::filesystem::last_write_time(file, none);
    for (const Kept& k : m_images)
        if (k.path == file && k.changed == changed) return k.image;
    const std::string key = file.string() + std::to_string(changed.time_since_epoch().count());
    if (!m_reading.insert(key).second) return nullptr;
    // What is in sight comes before what is looked at for later.
    m_pool.start(
        [this, file, changed, key, id] {
            Result<Image> read = readImage(file);
            const ImagePtr image = read ? std::make_shared<Image>(std::move(*read)) : nullptr;
            const ImagePtr small = image ? forScreen(image) : nullptr;
            QMetaObject::invokeMethod(this, [this, file, changed, key, id, image, small] {
                // What could not be read is not tried again until the file changes.
                if (image) {
                    m_reading.erase(key);
                    m_images.push_back({file, changed, image, small});
                    if (m_images.size() > kKeptImages) m_images.erase(m_images.begin());
                }
                Q_EMIT imageReady(text(id));
            });
        },
        10);
    return nullptr;
}

ImagePtr MapService::shown(const ImagePtr& image) const {
    for (const Kept& k : m_images)
        if (k.image == image) return k.shown;
    return image;
}

Cost MapService::cost(const Project& project, const Id& worn) const {
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master) return {};
    return costOf(*compileSurface(project, *resolved.master).program, [&](const MapSlot& slot) -> CardMap {
        Id id = slot.map;
        if (const auto it = resolved.values.find(slot.parameter); it != resolved.values.end()) id = it->second.value.map;
        const MapFile* map = project.map(id);
        const auto k = map ? knowledge(*map) : nullptr;
        if (!k || !k->problem.empty()) return {};
        return {map, cardBytes(map->format, k->facts.width, k->facts.height, k->facts.channels, k->facts.type)};
    });
}

bool MapService::start(const QString& name, Job work) {
    if (m_job) {
        m_session.say(tr("%1 is still at work. Wait for it, or cancel it.").arg(m_jobName));
        return false;
    }
    m_job = std::make_shared<std::atomic<bool>>(false);
    m_jobName = name;
    Q_EMIT jobChanged();
    QThreadPool::globalInstance()->start([this, work, job = m_job, self = QPointer<MapService>(this)] {
        Work control;
        control.cancelled = job.get();
        control.progress = [self](float part) {
            QMetaObject::invokeMethod(qApp, [self, part] {
                if (self) Q_EMIT self->jobProgress(part);
            });
        };
        const std::function<void()> after = work(control);
        QMetaObject::invokeMethod(qApp, [self, after] {
            if (!self) return;
            self->m_job.reset();
            self->m_jobName.clear();
            if (after) after();
            Q_EMIT self->jobChanged();
        });
    });
    return true;
}

void MapService::cancel() {
    if (m_job) *m_job = true;
}

void MapService::addMade(const QString& step, std::function<Result<std::vector<NewMap>>(const Work&)> make) {
    start(step, [this, step, make](const Work& control) -> std::function<void()> {
        auto fail = [this](const Error& e) {
            return [this, sentence = text(e.sentence)] {
                m_session.say(sentence);
                Q_EMIT made({});
            };
        };
        const Result<std::vector<NewMap>> maps = make(control);
        if (!maps) return fail(maps.error());
        std::vector<MapFile> files;
        for (const NewMap& n : *maps) {
            const std::filesystem::path to = pathForMap(m_session.assets(), n.name, n.image.type);
            const bool encoded = n.kind == MapKind::Color && (n.image.type == SampleType::U8 || n.image.type == SampleType::U16);
            if (const Outcome written = writeImage(to, n.image, encoded ? PixelEncoding::Srgb : PixelEncoding::Data); !written)
                return fail(written.error());
            MapFile file{newId('t'),      n.name, to.lexically_relative(m_session.assets().folder()).generic_string(), n.kind, n.wrap,
                         contentHash(to), {}};
            file.set = n.set;
            file.role = n.role;
            files.push_back(std::move(file));
        }
        return [this, step, files] {
            m_session.apply(step, [&](const Project& p) -> Result<Project> {
                Result<Project> next = p;
                for (const MapFile& f : files)
                    if (next) next = edit::addMap(*next, f);
                return next;
            });
            m_session.say(files.size() == 1 ? tr("%1 is a map of the project now: %2").arg(text(files[0].name), text(files[0].path))
                                            : tr("%1 maps came into the project.").arg(files.size()));
            Q_EMIT made(text(files[0].id));
        };
    });
}

void MapService::makeFromWire(const MapFile& wanted, bool replace, int width) {
    const Snapshot snapshot = m_session.snapshot();
    start(tr("Making %1").arg(text(wanted.name)), [this, wanted, replace, width, snapshot](const Work& control) -> std::function<void()> {
        const auto done = makeMap(*snapshot, m_session.assets(), wanted, control);
        if (!done)
            return [this, sentence = text(done.error().sentence)] {
                m_session.say(sentence);
                Q_EMIT made({});
            };
        return [this, made_ = *done, replace, width] {
            const MapFile& map = made_.file;
            const Id worn = map.origin.worn;
            const Master* master = m_session.project().masterOf(worn);
            const Cost before = cost(m_session.project(), worn);
            const size_t bytes = cardBytes({}, map.origin.width, map.origin.height, width, map.origin.type);
            const bool good = m_session.apply(replace ? tr("replace by a map") : tr("make map"), [&](const Project& p) -> Result<Project> {
                Result<Project> next = edit::addMap(p, map);
                if (next && replace && master) next = edit::replaceByMap(*next, master->id, map.origin.wire, width, map.id);
                return next;
            });
            if (good && replace) {
                const Cost after = cost(m_session.project(), worn);
                m_session.say(tr("%1 took its place: %2 operations a pixel instead of %3, %4 fetches instead of %5, %6 MB more of maps.")
                                  .arg(text(map.name))
                                  .arg(after.operationsPerPixel())
                                  .arg(before.operationsPerPixel())
                                  .arg(after.fetches)
                                  .arg(before.fetches)
                                  .arg(double(bytes) / 1e6, 0, 'f', 2));
            } else if (good) {
                m_session.say(made_.cautions.empty() ? tr("%1 is a map of the project now.").arg(text(map.name)) : text(made_.cautions[0]));
            }
            Q_EMIT made(good ? text(map.id) : QString());
        };
    });
}

void MapService::pack(Packing packing) {
    const Snapshot snapshot = m_session.snapshot();
    start(tr("Packing %1").arg(text(packing.recipe.name)), [this, packing, snapshot](const Work& control) mutable -> std::function<void()> {
        const auto done = packMap(*snapshot, m_session.assets(), packing, control);
        if (!done)
            return [this, sentence = text(done.error().sentence)] {
                m_session.say(sentence);
                Q_EMIT made({});
            };
        return [this, file = done->file, packing] {
            const bool good = m_session.apply(tr("pack maps"), [&](const Project& p) -> Result<Project> {
                Result<Project> next = p.map(file.id) ? edit::changeMap(p, file) : edit::addMap(p, file);
                if (!next) return next;
                return next->packing(packing.id) ? edit::changePacking(*next, packing) : edit::addPacking(*next, packing);
            });
            if (good) m_session.say(tr("Packed into %1.").arg(text(file.path)));
            Q_EMIT made(good ? text(file.id) : QString());
        };
    });
}

std::vector<FoundSet> MapService::proposals(std::vector<const MapFile*>* maps) const {
    maps->clear();
    for (const auto& m : m_session.project().maps)
        if (m->set.empty()) maps->push_back(m.get());
    return proposedSets(*maps, m_session.assets(), m_index);
}

/// Maps follow their sources: made again in the background, one after the other, and no step of undo.
void MapService::remakeStale() {
    if (m_checking || busy()) return;
    m_checking = true;
    const Snapshot snapshot = m_session.snapshot();
    m_pool.start([this, snapshot] {
        const Stale stale = staleMaps(*snapshot, m_session.assets());
        std::optional<MadeMap> fresh;
        std::optional<Packing> packing;
        std::string problem;
        if (!stale.maps.empty()) {
            auto again = makeMap(*snapshot, m_session.assets(), *snapshot->map(stale.maps[0]), {});
            if (again) fresh = std::move(*again);
            else problem = again.error().sentence;
        } else if (!stale.packings.empty()) {
            packing = *snapshot->packing(stale.packings[0]);
            auto again = packMap(*snapshot, m_session.assets(), *packing, {});
            if (again) fresh = std::move(*again);
            else problem = again.error().sentence;
        }
        QMetaObject::invokeMethod(this, [this, fresh, packing, problem] {
            m_checking = false;
            if (!problem.empty()) return m_session.say(text(problem));
            if (!fresh || !m_session.project().map(fresh->file.id)) return;
            m_session.applyQuietly([&](const Project& p) -> Result<Project> {
                Result<Project> next = edit::changeMap(p, fresh->file);
                if (next && packing && next->packing(packing->id)) next = edit::changePacking(*next, *packing);
                return next;
            });
            m_session.say(tr("%1 was made again, since what it comes from has changed.").arg(text(fresh->file.name)));
        });
    });
}

} // namespace hue
