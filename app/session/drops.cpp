#include "app/session/drops.h"

#include "app/parts/theme.h"
#include "core/base/files.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"
#include "core/maps/statistics.h"

#include <QDir>
#include <QFileInfo>
#include <QRegularExpression>

namespace hue {

QString imageFilter() {
    QStringList patterns;
    for (const std::string_view suffix : imageSuffixes()) patterns << "*" + QString::fromUtf8(suffix.data(), qsizetype(suffix.size()));
    return QObject::tr("Images (%1)").arg(patterns.join(' '));
}

QString meshFilter() { return QObject::tr("Meshes (*.glb *.gltf)"); }

void importMesh(Session& session, const QString& file, const std::function<void(const Id&)>& done) {
    const QFileInfo info(file);
    const std::filesystem::path path = info.absoluteFilePath().toStdString();
    session.say(QObject::tr("Reading %1.").arg(info.fileName()));
    // A large mesh takes seconds to read; the window goes on.
    session.runner().run(
        {.owner = &session, .kind = {}}, [path](const Work&) { return std::make_shared<Result<Mesh>>(readMesh(path)); },
        [&session, path, done, name = info.completeBaseName().replace('_', ' ').toStdString()](const std::shared_ptr<Result<Mesh>>& mesh) {
            if (!*mesh) return session.say(QString::fromStdString(mesh->error().sentence));
            const size_t triangles = (**mesh).indices.size() / 3, slots_ = (**mesh).slots.size();
            session.assets().keep(path, std::make_shared<Mesh>(std::move(**mesh)));
            const Id id = newId('g');
            if (!session.apply(QObject::tr("bring in mesh"), [&](const Project& p) {
                    return edit::addMesh(p, {id, name, session.assets().stored(path), {}});
                }))
                return;
            session.say(QObject::tr("%1 was brought in: %2 triangles, %3.")
                            .arg(QString::fromStdString(name))
                            .arg(triangles)
                            .arg(counted(int(slots_), QObject::tr("slot"), QObject::tr("slots"))));
            if (done) done(id);
        });
}

namespace {

Result<MapFile> mapFromFile(const Assets& assets, const QString& file) {
    const QFileInfo info(file);
    const std::filesystem::path path = info.absoluteFilePath().toStdString();
    // The head of the file tells whether it can be used; its pixels are looked at later, and what does not fit the guess by its name
    // is reported then.
    if (const Result<ImageFacts> facts = imageFacts(path); !facts) return facts.error();
    const Guess guess = guessOfName(path.filename().string());
    MapFile map;
    map.id = newId('t');
    map.name = info.completeBaseName().replace('_', ' ').toStdString();
    map.path = assets.stored(path);
    map.kind = guess.kind;
    map.role = guess.role;
    map.hash = contentHash(path);
    return map;
}

} // namespace

void mapsFromFiles(Session& session, const QStringList& files, const std::function<void(const std::vector<MapFile>&)>& done) {
    session.runner().run(
        {.owner = &session, .kind = {}},
        [files, held = session.files()](const Work&) {
            std::vector<Result<MapFile>> read;
            for (const QString& file : files) read.push_back(mapFromFile(held->assets, file));
            return read;
        },
        [&session, done](const std::vector<Result<MapFile>>& read) {
            std::vector<MapFile> maps;
            for (const Result<MapFile>& map : read)
                if (map) maps.push_back(*map);
                else session.say(QString::fromStdString(map.error().sentence));
            if (!maps.empty()) done(maps);
        });
}

void importFile(Session& session, const QString& file) {
    const QString suffix = QFileInfo(file).suffix().toLower();
    if (suffix == "glb" || suffix == "gltf") return importMesh(session, file, {});
    mapsFromFiles(session, {file}, [&session](const std::vector<MapFile>& maps) {
        const MapFile& map = maps[0];
        if (!session.apply(QObject::tr("bring in map"), [&](const Project& p) { return edit::addMap(p, map); })) return;
        session.say(QObject::tr("%1 was brought in as a %2 map.")
                        .arg(QString::fromStdString(map.name), QString::fromUtf8(nameOf(map.kind).data())));
    });
}

} // namespace hue
