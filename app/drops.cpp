#include "app/drops.h"

#include "core/document/edits.h"

#include <QDir>
#include <QFileInfo>
#include <QRegularExpression>

namespace hue {

MapKind guessMapKind(const QString& name) {
    const QStringList words = name.toLower().split(QRegularExpression("[^a-z0-9]+"), Qt::SkipEmptyParts);
    auto any = [&](std::initializer_list<const char*> list) {
        return std::any_of(list.begin(), list.end(), [&](const char* w) { return words.contains(QLatin1String(w)); });
    };
    if (any({"normal", "normals", "nrm", "nor"})) return MapKind::Normal;
    if (any({"height", "displacement", "bump"})) return MapKind::Height;
    if (any({"roughness", "rough", "metallic", "metal", "occlusion", "ao", "orm", "mask", "masks", "packed", "data", "alpha", "opacity"}))
        return MapKind::Data;
    return MapKind::Color;
}

std::optional<Id> importFile(Session& session, const QString& file) {
    const QFileInfo info(file);
    const std::filesystem::path path = info.absoluteFilePath().toStdString();
    const QString suffix = info.suffix().toLower();
    std::string stored = path.string();
    if (!session.file().isEmpty()) stored = path.lexically_relative(session.assets().folder()).generic_string();
    std::string name = info.completeBaseName().replace('_', ' ').toStdString();
    if (suffix == "glb" || suffix == "gltf") {
        if (const Result<Mesh> mesh = readMesh(path); !mesh) {
            session.say(QString::fromStdString(mesh.error().sentence));
            return {};
        }
        session.apply(QObject::tr("bring in mesh"), [&](const Project& p) { return edit::addMesh(p, {{}, name, stored, {}}); });
        return {};
    }
    const MapKind kind = guessMapKind(info.completeBaseName());
    // Read once here, so that a file that cannot be used never gets in; the library keeps what was read.
    if (const Result<Map> map = readMap(path, kind, Wrap::Repeat); !map) {
        session.say(QString::fromStdString(map.error().sentence));
        return {};
    }
    const Id id = newId('t');
    if (!session.apply(QObject::tr("bring in map"), [&](const Project& p) {
            return edit::addMap(p, {id, name, stored, kind, Wrap::Repeat, contentHash(path), {}});
        }))
        return {};
    session.say(QObject::tr("%1 was brought in as a %2 map.").arg(QString::fromStdString(name), QString::fromUtf8(nameOf(kind).data())));
    return id;
}

} // namespace hue
