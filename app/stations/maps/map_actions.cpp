#include "app/stations/maps/map_actions.h"

#include "app/parts/theme.h"
#include "app/session/map_service.h"
#include "core/base/files.h"
#include "core/edits/edits.h"

#include <QDirIterator>
#include <QFileInfo>
#include <QInputDialog>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

} // namespace

void bringInMaps(Session& session, MapService& service, const QStringList& wanted, std::function<void(const Id&)> chosen) {
    QStringList files;
    for (const QString& f : wanted) {
        if (QFileInfo(f).isDir()) {
            QDirIterator it(f, QDir::Files, QDirIterator::Subdirectories);
            while (it.hasNext())
                if (const QString file = it.next(); isImageFile(file.toStdString())) files << file;
        } else {
            files << f;
        }
    }
    files.sort();
    if (files.isEmpty()) {
        if (!wanted.isEmpty()) session.say(QObject::tr("There are no images in %1.").arg(wanted[0]));
        return;
    }
    service.start(QObject::tr("Bringing in %1").arg(counted(int(files.size()), QObject::tr("map"), QObject::tr("maps"))),
                  [chosen, files, held = session.files(), &session,
                   index = service.sharedIndex()](const Work& control, const Runner::Tell&) -> std::function<void()> {
                      std::vector<MapFile> maps;
                      std::vector<SetCandidate> candidates;
                      QStringList refused, reasons;
                      for (qsizetype i = 0; i < files.size() && !control.stopped(); ++i) {
                          const std::filesystem::path path = QFileInfo(files[i]).absoluteFilePath().toStdString();
                          const auto k = index->look(path);
                          if (control.progress) control.progress(float(i + 1) / float(files.size()));
                          if (!k->problem.empty()) {
                              refused << text(k->problem);
                              continue;
                          }
                          MapFile m;
                          m.id = newId('t');
                          m.name = QFileInfo(files[i]).completeBaseName().replace('_', ' ').toStdString();
                          m.path = held->assets.stored(path);
                          m.kind = k->guess.kind;
                          m.role = k->guess.role;
                          m.hash = contentHash(path);
                          reasons << QObject::tr("%1 as %2: %3").arg(text(m.name), text(nameOf(m.kind)), text(k->guess.reason));
                          candidates.push_back({path.filename().string(), k->guess, k->facts.sketch});
                          maps.push_back(std::move(m));
                      }
                      const std::vector<FoundSet> sets = findSets(candidates);
                      for (const FoundSet& s : sets)
                          for (const auto& member : s.members)
                              maps[member.candidate].set = s.name, maps[member.candidate].role = member.role;
                      return [chosen, maps, refused, reasons, sets, &session] {
                          if (!maps.empty() && session.apply(QObject::tr("bring in maps"), [&](const Project& p) -> Result<Project> {
                                  Result<Project> next = p;
                                  for (const MapFile& m : maps)
                                      if (next) next = edit::addMap(*next, m);
                                  return next;
                              }))
                              chosen(maps[0].id);
                          QString said = maps.size() == 1 ? reasons[0]
                                                          : QObject::tr("%1 maps came in, %2.")
                                                                .arg(maps.size())
                                                                .arg(counted(int(sets.size()), QObject::tr("set"), QObject::tr("sets")));
                          if (!refused.isEmpty())
                              said = QObject::tr("%1 not: %2")
                                         .arg(counted(int(refused.size()), QObject::tr("file was"), QObject::tr("files were")), refused[0]);
                          session.say(said);
                      };
                  });
}

void makeMapSets(Session& session, MapService& service) {
    std::vector<const MapFile*> maps;
    const std::vector<FoundSet> found = service.proposals(&maps);
    if (found.empty()) return session.say(QObject::tr("No maps without a set seem to belong together."));
    std::vector<std::pair<std::string, std::vector<edit::SetMember>>> sets;
    for (const FoundSet& s : found) {
        sets.push_back({s.name, {}});
        for (const auto& m : s.members) sets.back().second.push_back({maps[m.candidate]->id, m.role});
    }
    session.apply(QObject::tr("make sets"), [&](const Project& p) -> Result<Project> {
        Result<Project> next = p;
        for (const auto& [name, members] : sets)
            if (next) next = edit::makeSet(*next, name, members);
        return next;
    });
    session.say(QObject::tr("%1 found.").arg(counted(int(sets.size()), QObject::tr("set was"), QObject::tr("sets were"))));
}

void wearMapSet(Session& session, const Id& map) {
    const MapFile* m = session.project().map(map);
    if (!m || m->set.empty()) return session.say(QObject::tr("Choose a map of a set first."));
    const std::string set = m->set;
    const Id target = session.target();
    // A master that has no parameters for maps gets them, with cards that read them.
    const auto worn = edit::wearSet(session.project(), target, set);
    if (!worn && worn.error().code == "set.no-parameter" && session.project().master(target)) {
        std::vector<std::string> left;
        if (!session.apply(QObject::tr("place map set"), [&](const Project& p) { return edit::placeSet(p, target, set, &left); })) return;
        QString words = QObject::tr("%1 has map parameters and cards for %2 now.").arg(text(session.project().nameOf(target)), text(set));
        QStringList unread;
        for (const std::string& name : left) unread << text(name);
        if (!unread.isEmpty()) words += QObject::tr(" No channel reads %1.").arg(unread.join(QObject::tr(", ")));
        return session.say(words);
    }
    if (session.apply(QObject::tr("wear map set"), [&](const Project&) { return worn; }))
        session.say(QObject::tr("%1 wears %2 now.").arg(text(session.project().nameOf(target)), text(set)));
}

void swapMapSets(Session& session, const Id& map, QWidget* parent) {
    const MapFile* m = session.project().map(map);
    if (!m || m->set.empty()) return session.say(QObject::tr("Choose a map of the set that is to go."));
    QStringList others;
    for (const std::string& s : session.project().mapSets())
        if (s != m->set) others << text(s);
    if (others.isEmpty()) return session.say(QObject::tr("There is no other set to swap for."));
    bool ok = false;
    const QString to = QInputDialog::getItem(parent, QObject::tr("Swap sets"),
                                             QObject::tr("Wherever %1 is read, read instead").arg(text(m->set)), others, 0, false, &ok);
    const std::string from = m->set;
    if (ok) session.apply(QObject::tr("swap sets"), [&](const Project& p) { return edit::swapSets(p, from, to.toStdString()); });
}

} // namespace hue
