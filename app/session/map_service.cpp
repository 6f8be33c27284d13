#include "app/session/map_service.h"

#include "app/parts/theme.h"
#include "core/base/files.h"
#include "core/compile/compile.h"
#include "core/compress/block_format.h"
#include "core/edits/edits.h"
#include "core/images/mips.h"
#include "core/maps/drawn_map.h"

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
    m_settled.setSingleShot(true);
    m_settled.setInterval(350);
    connect(&m_settled, &QTimer::timeout, this, [this] {
        lookAtAll();
        watchAll();
        remakeStale();
    });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Maps | Change::Graph | Change::Values | Change::Files)) m_settled.start();
    });
    connect(&session, &Session::fileChanged, &m_settled, qOverload<>(&QTimer::start));
    connect(&session, &Session::projectOpened, this, &MapService::forgetProject);
    // Programs write files in several steps; what comes in a row is one change.
    m_reread.setSingleShot(true);
    m_reread.setInterval(250);
    connect(&m_reread, &QTimer::timeout, this, &MapService::fileChanged);
    m_told.setSingleShot(true);
    m_told.setInterval(120);
    connect(&m_told, &QTimer::timeout, this, &MapService::knowledgeChanged);
    connect(&m_watcher, &QFileSystemWatcher::fileChanged, this, [this](const QString& file) {
        m_changedFiles.insert(file);
        m_reread.start();
    });
    forgetProject();
}

void MapService::forgetProject() {
    m_looking = 0;
    m_lookedAt.clear();
    m_reading.clear();
    m_images.clear();
    m_changedFiles.clear();
    m_own.clear();
    m_unmade.clear();
    if (!m_jobName.isEmpty()) {
        m_jobName.clear();
        Q_EMIT jobChanged();
    }
    // A picture that wants a map as its format makes it has it made here; the call comes from the thread of pictures.
    std::weak_ptr<ProjectFiles> files = m_session.files();
    m_session.assets().library().setWanted(
        [this, files, self = QPointer(this), tell = m_session.runner().teller()](const MapRequest& request) {
            tell([this, self, files, request] {
                if (!self) return;
                const QString kind = "compress " + text(request.key(true));
                const auto held = files.lock();
                if (!held || held != m_session.files() || m_session.runner().running(this, kind)) return;
                m_session.runner().run(
                    {.owner = this, .kind = kind, .pace = Pace::Long},
                    [held, request](const Work& work) { return held->assets.library().compress(request, work); },
                    [this](bool made) {
                        if (made) m_session.tell(Change::Files);
                    });
            });
        });
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
        if (m_index->known(file) || !m_lookedAt.insert(key).second) continue;
        ++m_looking;
        m_session.runner().run(
            {.owner = this, .kind = "look " + text(key)}, [index = m_index, file](const Work&) { return index->look(file); },
            [this](const MapKnowledgePtr&) {
                --m_looking;
                // Many maps that come in a row are told of together.
                if (!m_told.isActive()) m_told.start();
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

void MapService::wroteHere(const std::filesystem::path& file) {
    std::error_code none;
    m_own[file] = std::filesystem::last_write_time(file, none);
}

void MapService::fileChanged() {
    // What is being written here tells of itself when it is done.
    if (busy() || m_session.runner().running(this, "remake")) return m_reread.start();
    // A file that was replaced by another of its name is lost to the watcher.
    watchAll();
    QStringList news;
    for (const QString& file : std::exchange(m_changedFiles, {})) {
        const std::filesystem::path path = file.toStdString();
        std::error_code none;
        const auto own = m_own.find(path);
        if (own == m_own.end() || own->second != std::filesystem::last_write_time(path, none)) news << QFileInfo(file).fileName();
    }
    lookAtAll();
    if (news.isEmpty()) return;
    m_unmade.clear();
    m_session.tell(Change::Files);
    Q_EMIT knowledgeChanged();
    m_session.say(news.size() == 1 ? tr("%1 has changed on disk and was read again.").arg(news[0])
                                   : tr("%1 maps have changed on disk and were read again.").arg(news.size()));
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
    struct Read {
        ImagePtr image, small;
    };
    // What is in sight comes before what is looked at for later.
    m_session.runner().run(
        {.owner = this, .kind = "read " + text(key), .priority = 10},
        [file](const Work&) -> Read {
            Result<Image> read = readImage(file);
            if (!read) return {};
            const ImagePtr image = std::make_shared<Image>(std::move(*read));
            return {image, forScreen(image)};
        },
        [this, file, changed, key, id](const Read& read) {
            // What could not be read is not tried again until the file changes.
            if (read.image) {
                m_reading.erase(key);
                m_images.push_back({file, changed, read.image, read.small});
                if (m_images.size() > kKeptImages) m_images.erase(m_images.begin());
            }
            Q_EMIT imageReady(text(id));
        });
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
    const Compilation compiled = compileSurface(project, *resolved.master);
    return costOf(*compiled.program, compiled.offset.get(), [&](const MapSlot& slot) -> CardMap {
        Id id = slot.map;
        if (const auto it = resolved.values.find(slot.parameter); it != resolved.values.end()) id = it->second.value.map;
        if (isDrawn(id)) return {&slot, kDrawnBytes};
        const MapFile* map = project.map(id);
        const auto k = map ? knowledge(*map) : nullptr;
        if (!k || !k->problem.empty()) return {};
        return {map, cardBytes(map->format, k->facts.width, k->facts.height, k->facts.channels, k->facts.type)};
    });
}

bool MapService::start(const QString& name, Job job) {
    if (busy()) {
        m_session.say(tr("%1 is still at work. Wait for it, or cancel it.").arg(m_jobName));
        return false;
    }
    m_jobName = name;
    Q_EMIT jobChanged();
    m_session.runner().start(
        {.owner = this, .kind = "job", .pace = Pace::Long, .progress = [this](float part) { Q_EMIT jobProgress(part); }},
        [this, job = std::move(job)](const Work& work, const Runner::Tell& tell) -> std::function<void()> {
            const std::function<void()> after = job(work, tell);
            return [this, after] {
                m_jobName.clear();
                if (after) after();
                Q_EMIT jobChanged();
            };
        });
    return true;
}

void MapService::cancel() { m_session.runner().cancel(this, "job"); }

bool MapService::settled() const {
    return !busy() && m_looking == 0 && !m_settled.isActive() && !m_reread.isActive() && !m_told.isActive() &&
           !m_session.runner().running(this, "remake");
}

void MapService::addMade(const QString& step, std::function<Result<std::vector<NewMap>>(const Work&)> make) {
    start(step, [this, step, make, files_ = m_session.files()](const Work& control, const Runner::Tell&) -> std::function<void()> {
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
            const std::filesystem::path to = pathForMap(files_->assets, n.name, n.image.type);
            const bool encoded = n.kind == MapKind::Color && (n.image.type == SampleType::U8 || n.image.type == SampleType::U16);
            if (const Outcome written = writeImage(to, n.image, encoded ? PixelEncoding::Srgb : PixelEncoding::Data); !written)
                return fail(written.error());
            MapFile file{newId('t'), n.name, files_->assets.stored(to), n.kind, n.wrap, contentHash(to), {}};
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

void MapService::makeFromWires(const std::vector<WireMap>& wanted, bool replace) {
    if (wanted.empty()) return;
    const Snapshot snapshot = m_session.snapshot();
    const QString what = wanted.size() == 1 ? text(wanted[0].map.name) : tr("%1 maps").arg(wanted.size());
    start(tr("Making %1").arg(what),
          [this, wanted, replace, what, snapshot, files = m_session.files()](const Work& control,
                                                                             const Runner::Tell&) -> std::function<void()> {
              struct Made {
                  MadeMap made;
                  int width;
              };
              std::vector<Made> done;
              QString problem;
              // What one makes is not lost by another that fails.
              for (const WireMap& w : wanted) {
                  auto its = makeMap(*snapshot, files->assets, w.map, control);
                  if (its) done.push_back({std::move(*its), w.width});
                  else if (problem.isEmpty()) problem = text(its.error().sentence);
              }
              return [this, done, problem, replace, what] {
                  if (done.empty()) {
                      m_session.say(problem);
                      Q_EMIT made({});
                      return;
                  }
                  const Id worn = done[0].made.file.origin.worn;
                  const Master* master = m_session.project().masterOf(worn);
                  const Cost before = cost(m_session.project(), worn);
                  size_t bytes = 0;
                  for (const Made& m : done)
                      bytes += cardBytes({}, m.made.file.origin.width, m.made.file.origin.height, m.width, m.made.file.origin.type);
                  const bool good =
                      m_session.apply(replace ? (done.size() == 1 ? tr("replace by a map") : tr("replace by maps")) : tr("make map"),
                                      [&](const Project& p) -> Result<Project> {
                                          Result<Project> next = p;
                                          for (const Made& m : done) {
                                              if (next) next = edit::addMap(*next, m.made.file);
                                              if (!next || !replace || !master) continue;
                                              Result<Project> replaced =
                                                  edit::replaceByMap(*next, master->id, m.made.file.origin.wire, m.width, m.made.file.id);
                                              // With several, one that nothing reads is a map of the project all the same.
                                              if (replaced || done.size() == 1) next = std::move(replaced);
                                          }
                                          return next;
                                      });
                  if (!problem.isEmpty()) {
                      m_session.say(problem);
                  } else if (good && replace) {
                      const Cost after = cost(m_session.project(), worn);
                      m_session.say(
                          tr("%1 took its place: %2 operations a pixel instead of %3, %4 fetches instead of %5, %6 MB more of maps.")
                              .arg(what)
                              .arg(after.operationsPerPixel())
                              .arg(before.operationsPerPixel())
                              .arg(after.fetches)
                              .arg(before.fetches)
                              .arg(double(bytes) / 1e6, 0, 'f', 2));
                  } else if (good) {
                      const auto& cautions = done[0].made.cautions;
                      m_session.say(!cautions.empty()  ? text(cautions[0])
                                    : done.size() == 1 ? tr("%1 is a map of the project now.").arg(what)
                                                       : tr("%1 are in the project now.").arg(what));
                  }
                  Q_EMIT made(good ? text(done[0].made.file.id) : QString());
              };
          });
}

void MapService::pack(Packing packing) {
    const Snapshot snapshot = m_session.snapshot();
    start(tr("Packing %1").arg(text(packing.recipe.name)),
          [this, packing, snapshot, files = m_session.files()](const Work& control, const Runner::Tell&) mutable -> std::function<void()> {
              const auto done = packMap(*snapshot, files->assets, packing, control);
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
    return proposedSets(*maps, m_session.assets(), *m_index);
}

/// Maps follow their sources: made again in the background, in the order in which they depend on each other, and no step of undo.
void MapService::remakeStale() {
    if (busy()) return;
    m_session.runner().run(
        {.owner = this, .kind = "remake", .newer = Newer::Waits, .pace = Pace::Long},
        [snapshot = m_session.snapshot(), files = m_session.files()](const Work& work) {
            return hue::remakeStale(*snapshot, files->assets, work);
        },
        [this](const Remade& remade) {
            for (const MadeMap& made : remade.maps) wroteHere(path(made.file));
            if (!remade.maps.empty()) {
                m_session.applyQuietly([&](const Project& p) { return withRemade(p, remade); });
                m_session.say(remade.maps.size() == 1
                                  ? tr("%1 was made again, since what it comes from has changed.").arg(text(remade.maps[0].file.name))
                                  : tr("%1 maps were made again, since what they come from has changed.").arg(remade.maps.size()));
            }
            // Each that could not be made is told of once, not with every change.
            for (size_t i = 0; i < remade.failures.size(); ++i)
                if (m_unmade.insert(remade.failed[i]).second)
                    m_session.say(tr("%1 could not be made again: %2").arg(text(remade.failed[i]), text(remade.failures[i].sentence)));
        });
}

} // namespace hue
