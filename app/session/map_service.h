#pragma once
// What the window knows of maps: facts and thumbnails looked up in the background, pixels of the map in sight, files that change
// on disk, and jobs that take a while.
#include "app/session/session.h"
#include "core/cost/cost.h"
#include "core/images/map_pictures.h"
#include "core/make/made_maps.h"
#include "core/project/map_index.h"

#include <QFileSystemWatcher>
#include <QImage>
#include <set>

namespace hue {

using ImagePtr = std::shared_ptr<const Image>;

/// A map that is about to come into the project.
struct NewMap {
    std::string name;
    MapKind kind = MapKind::Data;
    Image image;
    std::string set{}, role{};
    Wrap wrap = Wrap::Repeat;
};

class MapService : public QObject {
    Q_OBJECT

  public:
    explicit MapService(Session& session, QObject* parent = nullptr);

    MapIndex& index() { return *m_index; }
    std::shared_ptr<MapIndex> sharedIndex() const { return m_index; }
    /// What is known of a map by now; null while it is looked at.
    MapKnowledgePtr knowledge(const MapFile& map) const { return m_index->known(path(map)); }
    QImage thumbnail(const MapFile& map) const;
    std::filesystem::path path(const MapFile& map) const { return m_session.assets().resolve(map.path); }
    /// The pixels of a map; null while they are read, then imageReady follows. The last few are kept.
    ImagePtr image(const Id& map);
    /// The same for the screen: halved until no side is longer than 2048, so that panes can draw it at once.
    ImagePtr shown(const ImagePtr& image) const;
    /// What a master or instance costs, without reading any pixels.
    Cost cost(const Project& project, const Id& worn) const;
    bool lookingAtMaps() const { return m_looking > 0; }

    /// One job at a time, in the background. `job` returns what is to be done in the window afterwards, and must hold on to what it
    /// reads. A second job is refused while one runs.
    using Job = Runner::Step;
    bool start(const QString& name, Job job);
    bool busy() const { return !m_jobName.isEmpty(); }
    QString jobName() const { return m_jobName; }
    void cancel();
    /// Nothing is looked at, read, made or made again.
    bool settled() const;

    /// New maps from pixels, in the project's folder: made and written in the background, then brought in as one step of undo.
    void addMade(const QString& step, std::function<Result<std::vector<NewMap>>(const Work&)> make);
    struct WireMap {
        MapFile map;   ///< whose origin is a wire
        int width = 1; ///< components of the wire
    };
    /// Makes maps from wires of one master, and has what reads the wires read the maps when `replace` is set: one job, one step of undo.
    void makeFromWires(const std::vector<WireMap>& maps, bool replace);
    /// Packs; the packing is in the project or comes into it.
    void pack(Packing packing);
    /// Sets found among maps without one.
    std::vector<FoundSet> proposals(std::vector<const MapFile*>* maps) const;

  Q_SIGNALS:
    void knowledgeChanged();
    void imageReady(const QString& map);
    void jobChanged();
    void jobProgress(float part);
    /// What a job made, by id; empty when it failed.
    void made(const QString& map);

  private:
    void lookAtAll();
    void fileChanged();
    void watchAll();
    void remakeStale();
    void wroteHere(const std::filesystem::path& file);
    void forgetProject();

    Session& m_session;
    std::shared_ptr<MapIndex> m_index = std::make_shared<MapIndex>();
    QFileSystemWatcher m_watcher;
    QTimer m_settled, m_reread, m_told;
    struct Kept {
        std::filesystem::path path;
        std::filesystem::file_time_type changed;
        ImagePtr image, shown;
    };
    std::vector<Kept> m_images; ///< the newest last
    std::set<std::string> m_reading, m_lookedAt;
    std::set<QString> m_changedFiles; ///< that the watcher has told of
    /// Files that were written here, and when: no news to anybody.
    std::map<std::filesystem::path, std::filesystem::file_time_type> m_own;
    std::set<Id> m_unmade; ///< stale maps that could not be made again, and were told of
    int m_looking = 0;
    QString m_jobName;
};

/// Halved until no side is longer than 2048.
ImagePtr forScreen(ImagePtr image);
/// A picture for widgets.
QImage imageOfScreen(const ScreenPicture& picture);

} // namespace hue
