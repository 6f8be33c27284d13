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

Result<MapFile> mapFromFile(const Session& session, const QString& file) {
    const QFileInfo info(file);
    const std::filesystem::path path = info.absoluteFilePath().toStdString();
    // The head of the file tells whether it can be used; its pixels are looked at in the background, and what does not fit the
    // guess by its name is reported then.
    if (const Result<ImageFacts> facts = imageFacts(path); !facts) return facts.error();
    const Guess guess = guessOfName(path.filename().string());
    MapFile map{newId('t'),
                info.completeBaseName().replace('_', ' ').toStdString(),
                session.files()->assets.stored(path),
                guess.kind,
                Wrap::Repeat,
                contentHash(path),
                {}};
    map.role = guess.role;
    return map;
}

std::optional<Id> importFile(Session& session, const QString& file) {
    const QString suffix = QFileInfo(file).suffix().toLower();
    if (suffix == "glb" || suffix == "gltf") {
        importMesh(session, file, {});
        return {};
    }
    const Result<MapFile> map = mapFromFile(session, file);
    if (!map) {
        session.say(QString::fromStdString(map.error().sentence));
        return {};
    }
    if (!session.apply(QObject::tr("bring in map"), [&](const Project& p) { return edit::addMap(p, *map); })) return {};
    session.say(
        QObject::tr("%1 was brought in as a %2 map.").arg(QString::fromStdString(map->name), QString::fromUtf8(nameOf(map->kind).data())));
    return map->id;
}

} // namespace hue
