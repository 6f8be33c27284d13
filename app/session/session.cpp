#include "app/session/session.h"

#include "core/base/diagnostic.h"
#include "core/check/check.h"
#include "core/compile/compile.h"
#include "core/compile/opened_graph.h"
#include "core/decals/decal_problems.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/edits/starting_points.h"
#include "core/edits/wearing.h"
#include "core/mesh/paint_data.h"
#include "core/nodes/finish.h"
#include "core/paint/paint_problems.h"
#include "core/project/map_library.h"
#include "core/project/merge.h"
#include "core/project/store.h"

#include <QDateTime>
#include <QFileInfo>
#include <QSettings>
#include <QUndoCommand>
#include <cmath>

namespace hue {

namespace {

std::filesystem::path scratchFolder() { return journalFor({}).parent_path() / "scratch"; }

/// Maps that were made before the first save move into the project's folder.
void bringHome(Project& project, const std::filesystem::path& to) {
    for (auto& m : project.maps) {
        const std::filesystem::path from = scratchFolder() / m->path;
        if (std::filesystem::path(m->path).is_absolute() || !m->path.starts_with("maps/")) continue;
        std::error_code failed;
        std::filesystem::create_directories(to / "maps", failed);
        std::filesystem::copy_file(from, to / m->path, std::filesystem::copy_options::overwrite_existing, failed);
        if (failed) continue;
        auto copy = std::make_shared<MapFile>(*m);
        copy->path = (to / m->path).string();
        m = std::move(copy);
    }
}

} // namespace

/// One named snapshot to the next.
class Session::Step : public QUndoCommand {
  public:
    Step(Session& session, const QString& name, Snapshot before, Snapshot after, int row)
        : QUndoCommand(name), m_session(session), m_before(std::move(before)), m_after(std::move(after)), m_row(row) {}
    void undo() override { m_session.replace(m_before, true); }
    void redo() override { m_session.replace(m_after, std::exchange(m_wasDone, true)); }
    int id() const override { return m_row; }
    const Snapshot& before() const { return m_before; }
    bool mergeWith(const QUndoCommand* next) override {
        m_after = static_cast<const Step*>(next)->m_after;
        return true;
    }

  private:
    Session& m_session;
    Snapshot m_before, m_after;
    int m_row;
    bool m_wasDone = false;
};

Session::Session(QObject* parent)
    : QObject(parent),
      m_runner(std::make_unique<Runner>()),
      m_projectFile(std::make_unique<ProjectFile>(*m_runner, nullptr)),
      m_snapshot(std::make_shared<Project>()) {
    m_clock.setInterval(33);
    connect(&m_clock, &QTimer::timeout, this, [this] {
        const double step = double(m_tick.restart()) / 1000 * m_speed;
        m_time = std::fmod(m_time + step, double(project().loopSeconds));
        Q_EMIT timeChanged();
    });
    // A step of undo tells of its change before the stack knows whether it is back at what is saved.
    connect(&m_undo, &QUndoStack::cleanChanged, this, &Session::fileChanged);
    m_journalTimer.setSingleShot(true);
    m_journalTimer.setInterval(1000);
    connect(&m_journalTimer, &QTimer::timeout, this, &Session::writeJournalSoon);
    m_checkTimer.setSingleShot(true);
    m_checkTimer.setInterval(150);
    connect(&m_checkTimer, &QTimer::timeout, this, &Session::checkInBackground);
}

Session::~Session() = default;

Snapshot Session::stateBefore(int step) const {
    const auto* command = dynamic_cast<const Step*>(m_undo.command(step));
    return command ? command->before() : nullptr;
}

const Master* Session::master() const { return project().board(m_master); }

void Session::showMaster(const Id& id) {
    if (!project().board(id)) return;
    m_master = id;
    m_path.clear();
    if (project().master(id)) {
        m_root = id;
        if (const Master* m = project().masterOf(m_target); !m || m->id != id) m_target = id;
    }
    Q_EMIT masterShown();
    Q_EMIT targetChanged();
}

Id Session::pathText() const {
    Id out;
    for (const Id& card : m_path) out = within(out, card);
    return out;
}

void Session::enter(const Id& card) {
    const Node* node = master() ? master()->graph.find(card) : nullptr;
    if (node && node->kind == kFinishOfKind) {
        const Master* worn = project().masterOf(finishOf(*master(), *node));
        if (!worn) return say(tr("The project does not have the master that this card takes a finish of."));
        return showMaster(worn->id);
    }
    if (!node || !isAssembly(*node)) return;
    const Id of = assemblyOf(*node);
    if (!project().assembly(of)) return say(tr("The project does not have the assembly that this card stands for."));
    // From an assembly by itself nothing leads back to a master's values.
    if (m_master == m_root || !m_path.empty()) m_path.push_back(card);
    m_master = of;
    Q_EMIT masterShown();
    Q_EMIT targetChanged();
}

void Session::leave(size_t levels) {
    if (!assembly()) return;
    m_path.resize(m_path.size() - std::min(std::max<size_t>(levels, 1), m_path.size()));
    m_master = followPath();
    Q_EMIT masterShown();
    Q_EMIT targetChanged();
}

Id Session::followPath() {
    const Master* at = project().master(m_root);
    for (size_t k = 0; at && k < m_path.size(); ++k) {
        const Node* card = at->graph.find(m_path[k]);
        const Assembly* next = card ? project().assembly(assemblyOf(*card)) : nullptr;
        if (!next) {
            m_path.resize(k);
            break;
        }
        at = next;
    }
    return at ? at->id : m_root;
}

Id Session::target() const { return project().masterOf(m_target) ? m_target : m_root; }

std::optional<size_t> Session::tunedSpecimen(const Id& worn) const {
    const std::vector<size_t> wearing = specimensWearing(project(), worn);
    if (wearing.size() == 1) return wearing[0];
    if (std::find(wearing.begin(), wearing.end(), size_t(m_tunedSpecimen)) == wearing.end()) return {};
    return size_t(m_tunedSpecimen);
}

bool Session::wantsOwnCopies() const { return QSettings().value("wearing/ownCopies", false).toBool(); }
void Session::setWantsOwnCopies(bool own) { QSettings().setValue("wearing/ownCopies", own); }

bool Session::setTunedValue(const QString& name, const Id& parameter, const ParameterValue& value) {
    const Id tuned = this->tuned();
    const Master* board = project().master(tuned);
    const Parameter* p = board ? board->parameter(parameter) : nullptr;
    // On the master itself, what follows a shared parameter is that one's value.
    if (const SharedParameter* shared = p ? project().sharedParameter(p->shared) : nullptr) {
        SharedParameter changed = *shared;
        changed.value = limited(*p, value).value;
        return apply(
            name, [&](const Project& q) { return edit::changeShared(q, changed); }, "shared" + QString::fromStdString(shared->id));
    }
    const auto key = [&](const Id& of) { return "own" + QString::fromStdString(of + parameter); };
    const std::optional<size_t> specimen = tunedSpecimen(tuned);
    if (!project().instance(tuned) || !wantsOwnCopies() || !specimen || specimensWearing(project(), tuned).size() < 2)
        return apply(
            name, [&](const Project& q) { return edit::setOwn(q, tuned, parameter, value); }, key(tuned));
    const Id copy = newId('i');
    const bool done = apply(
        name,
        [&](const Project& q) -> Result<Project> {
            const Result<Project> with = edit::ownCopyFor(q, tuned, copy, *specimen);
            return with ? edit::setOwn(*with, copy, parameter, value) : with;
        },
        key(copy));
    if (done) setTarget(copy, int(*specimen));
    return done;
}

void Session::setTarget(const Id& worn, int specimen) {
    const Master* m = project().masterOf(worn);
    if (!m) return;
    m_target = worn;
    m_tunedSpecimen = specimen;
    // In an assembly that was entered from that master its values are seen at once.
    if (m->id != m_root || (assembly() && m_path.empty())) {
        m_master = m_root = m->id;
        m_path.clear();
        Q_EMIT masterShown();
    }
    Q_EMIT targetChanged();
}

bool Session::apply(const QString& name, const Edit& edit, const QString& key) {
    Result<Project> next = edit(project());
    if (!next) {
        say(QString::fromStdString(next.error().sentence));
        return false;
    }
    const bool sameRow = !key.isEmpty() && key == m_row;
    m_row = key;
    // QUndoStack merges commands whose ids are equal and not -1.
    static int rows = 0;
    if (!sameRow) ++rows;
    m_undo.push(new Step(*this, name, m_snapshot, std::make_shared<Project>(std::move(*next)), key.isEmpty() ? -1 : rows));
    return true;
}

Id Session::deriveInstance(const Id& parent, const std::vector<size_t>& specimens) {
    const Id id = newId('i'), from = parent.empty() ? target() : parent;
    if (!apply(tr("new instance"), [&](const Project& p) { return edit::deriveFor(p, from, id, specimens); })) return {};
    setTarget(id, specimens.empty() ? -1 : int(specimens[0]));
    return id;
}

bool Session::applyQuietly(const Edit& edit) {
    Result<Project> next = edit(project());
    if (!next) {
        say(QString::fromStdString(next.error().sentence));
        return false;
    }
    const Snapshot before = std::exchange(m_snapshot, std::make_shared<Project>(std::move(*next)));
    Q_EMIT changed(changesBetween(*before, project()));
    m_checkTimer.start();
    return true;
}

void Session::replace(Snapshot next, bool travels) {
    // Undo must not turn the camera back, nor say of a file what it no longer holds.
    if (travels)
        if (auto copy = std::make_shared<Project>(*next); keepMadeFiles(*copy, project())) next = std::move(copy);
    if (Lineup kept = withCameraOf(next->lineup, project().lineup); !(kept == next->lineup)) {
        auto copy = std::make_shared<Project>(*next);
        copy->lineup = std::move(kept);
        next = std::move(copy);
    }
    const Snapshot before = std::exchange(m_snapshot, std::move(next));
    const Changes what = changesBetween(*before, project());
    if (!project().master(m_root)) m_root = project().masters.empty() ? Id{} : project().masters[0]->id;
    // The cards on the way may be gone, or stand for something else now.
    const Id shown = std::exchange(m_master, m_path.empty() && project().assembly(m_master) ? m_master : followPath());
    if (shown != m_master) Q_EMIT masterShown();
    Q_EMIT changed(what);
    Q_EMIT fileChanged();
    // At the latest so long after the first edit that is not kept yet, however many follow it.
    if (!m_journalTimer.isActive()) m_journalTimer.start();
    if (!what.only(Change::Board)) m_checkTimer.start();
}

void Session::setLineup(const Lineup& lineup) {
    auto next = std::make_shared<Project>(project());
    next->lineup = lineup;
    const Snapshot before = std::exchange(m_snapshot, std::move(next));
    const Changes what = changesBetween(*before, project());
    if (!what.none()) Q_EMIT changed(what);
}

void Session::load(Project project, const QString& file) {
    m_undo.clear();
    m_row.clear();
    m_file = file;
    m_savedAt = {};
    // Until it is saved, a project has a folder of the program's own for the maps that it makes.
    // What works on the last project keeps its files until it has ended.
    const MapLibrary::View view = m_files->assets.view();
    m_files = std::make_shared<ProjectFiles>();
    m_files->assets.setView(view);
    m_files->assets.setFolder(file.isEmpty() ? scratchFolder() : std::filesystem::path(QFileInfo(file).absolutePath().toStdString()),
                              file.isEmpty());
    m_runner->dropProject();
    m_whenKept.clear();
    m_master = project.masters.empty() ? Id{} : project.masters[0]->id;
    m_path.clear();
    m_target = m_master;
    // What is seen first is what one wants to tune first.
    if (!project.lineup.specimens.empty() && !project.lineup.specimens[0].wears.empty())
        if (const Master* worn = project.masterOf(project.lineup.specimens[0].wears[0])) {
            m_master = worn->id;
            m_target = project.lineup.specimens[0].wears[0];
        }
    m_root = m_master;
    m_time = 0;
    m_snapshot = std::make_shared<Project>(std::move(project));
    m_problems.clear();
    Q_EMIT projectOpened();
    Q_EMIT masterShown();
    Q_EMIT targetChanged();
    Q_EMIT changed(Changes::all());
    Q_EMIT fileChanged();
    Q_EMIT problemsChanged();
    m_checkTimer.start();
}

void Session::startNew(std::string_view startingPoint) {
    // What was open is laid aside; what an earlier window left in its place is still there to be offered.
    {
        // A journal that is still to be written would be of the old one.
        const std::lock_guard lock(m_journal->mutex);
        ++m_journal->turn;
    }
    if (keepsJournal()) dropJournal();
    load(makeProject(startingPoint), {});
    m_projectFile->holds({}, m_snapshot, {});
}

bool Session::open(const QString& file, QString* problem) {
    Result<Loaded> loaded = loadProject(file.toStdString());
    if (!loaded) {
        *problem = QString::fromStdString(loaded.error().sentence);
        return false;
    }
    load(std::move(loaded->project), QFileInfo(file).absoluteFilePath());
    m_projectFile->holds(m_file, m_snapshot, loaded->hash);
    m_savedAt = QFileInfo(file).lastModified();
    Q_EMIT fileChanged();
    if (!loaded->report.empty())
        say(tr("Some of the file was odd (%1 in all). The first: %2")
                .arg(loaded->report.size())
                .arg(QString::fromStdString(loaded->report[0].sentence)));
    if (m_projectFile->seat().openElsewhere())
        say(tr("%1 is open in another window as well. Whoever saves second is asked what is to become of both changes.")
                .arg(QFileInfo(m_file).fileName()));
    return true;
}

bool Session::save(const QString& file, QString* problem, QString* code) {
    Project state = project();
    const QString target = QFileInfo(file).absoluteFilePath();
    if (target != m_file) {
        const std::filesystem::path to = QFileInfo(target).absolutePath().toStdString();
        if (m_file.isEmpty()) bringHome(state, to);
        state = withPathsFor(std::move(state), assets().folder(), to);
        state.name = QFileInfo(target).completeBaseName().toStdString();
    }
    std::string hash;
    const SaveOver over{target == m_file ? m_projectFile->hash() : std::string(), nullptr,
                        journalFor(m_file.toStdString(), m_projectFile->seat().number()), &hash};
    if (const Outcome saved = saveProject(state, target.toStdString(), over); !saved) {
        if (code) *code = QString::fromStdString(saved.error().code);
        if (saved.error().code == "project.changed-elsewhere") m_projectFile->look();
        *problem = QString::fromStdString(saved.error().sentence);
        return false;
    }
    dropJournal();
    Changes what = Change::Names;
    if (target != m_file) {
        // Earlier states name their files from the old folder.
        if (!m_file.isEmpty() && QFileInfo(m_file).absolutePath() != QFileInfo(target).absolutePath()) m_undo.clear();
        m_file = target;
        assets().setFolder(QFileInfo(target).absolutePath().toStdString());
        m_snapshot = std::make_shared<Project>(std::move(state));
        what = Changes::all();
    }
    m_projectFile->holds(m_file, m_snapshot, std::move(hash));
    m_undo.setClean();
    m_row.clear();
    m_savedAt = QDateTime::currentDateTime();
    Q_EMIT changed(what);
    Q_EMIT fileChanged();
    return true;
}

bool Session::takeTheirs() {
    const auto theirs = m_projectFile->theirs();
    if (!theirs || !apply(tr("take what is on the disk"), [&](const Project&) -> Result<Project> { return theirs->project; })) return false;
    m_projectFile->acceptTheirs();
    m_undo.setClean();
    dropJournal();
    Q_EMIT fileChanged();
    return true;
}

bool Session::keepOurs() {
    m_projectFile->acceptTheirs();
    // What is open differs from the file now, whether it was edited or not.
    m_undo.resetClean();
    Q_EMIT fileChanged();
    return true;
}

bool Session::takeBoth() {
    const auto theirs = m_projectFile->theirs();
    const Snapshot base = m_projectFile->state();
    if (!theirs || !base) return false;
    const bool done = apply(tr("bring both together"), [&](const Project& ours) -> Result<Project> {
        Result<Merged> both = merged(*base, ours, theirs->project);
        if (!both) return both.error();
        return std::move(both->project);
    });
    if (done) m_projectFile->acceptTheirs();
    return done;
}

std::optional<Project> Session::recovered() {
    m_recoveredSeat = m_projectFile->seat().abandoned();
    return m_recoveredSeat < 0 ? std::nullopt : readJournal(m_file.toStdString(), m_recoveredSeat);
}

void Session::takeRecovered(Project project) {
    apply(tr("bring back unsaved changes"), [&](const Project&) -> Result<Project> { return project; });
}

void Session::writeJournalSoon() {
    if (!dirty()) return;
    const std::string file = m_file.toStdString();
    m_runner->run(
        {.owner = this, .kind = "journal", .newer = Newer::Waits, .pace = Pace::Kept},
        [state = m_snapshot, file, journal = m_journal, turn = m_journal->turn,
         seat = m_projectFile->seat().number()](const Work&) -> Outcome {
            const std::lock_guard lock(journal->mutex);
            if (turn != journal->turn) return Done{};
            const Outcome written = writeJournal(*state, file, seat);
            journal->written |= bool(written);
            return written;
        },
        [this](const Outcome& written) {
            if (!written) say(QString::fromStdString(written.error().sentence));
            for (const auto& then : std::exchange(m_whenKept, {})) then();
        });
}

void Session::whenKept(std::function<void()> then) {
    // What takes no time is written with the project itself.
    const auto isLarge = [](const std::shared_ptr<const Paintwork>& w) { return w->paint && w->paint->vertices() > 100'000; };
    const auto& all = project().paintworks;
    const bool large = std::any_of(all.begin(), all.end(), isLarge);
    const bool kept = !m_journalTimer.isActive() && !m_runner->running(this, "journal");
    if (!large || kept || !dirty()) return then();
    say(tr("Saving\u2026"));
    m_whenKept.push_back(std::move(then));
    m_journalTimer.stop();
    writeJournalSoon();
}

bool Session::keepsJournal() const {
    const std::lock_guard lock(m_journal->mutex);
    return m_journal->written;
}

void Session::dropJournal() {
    m_journalTimer.stop();
    const std::lock_guard lock(m_journal->mutex);
    ++m_journal->turn;
    m_journal->written = false;
    hue::dropJournal(m_file.toStdString(), m_projectFile->seat().number());
    if (m_recoveredSeat >= 0) hue::dropJournal(m_file.toStdString(), std::exchange(m_recoveredSeat, -1));
}

void Session::setPlaying(bool playing) {
    m_playing = playing;
    m_tick.restart();
    if (playing) m_clock.start();
    else m_clock.stop();
    Q_EMIT timeChanged();
}

void Session::stepTime(int frames) {
    setPlaying(false);
    const double loop = double(project().loopSeconds);
    double t = std::round(m_time * 30 + frames) / 30;
    t = std::fmod(t, loop);
    setTime(t < 0 ? t + loop : t);
}

void Session::setTime(double seconds) {
    m_time = std::fmod(std::max(0.0, seconds), double(project().loopSeconds));
    Q_EMIT timeChanged();
}

void Session::setSpeed(double speed) {
    m_speed = speed;
    Q_EMIT timeChanged();
}

void Session::checkInBackground() {
    m_runner->run(
        {.owner = this, .kind = "check", .newer = Newer::Waits},
        [state = m_snapshot, files = m_files, checks = m_mapChecks](const Work&) {
            std::vector<Diagnostic> found = checkProject(
                *state, [&](const Id& map) { return checks.bounds ? checks.bounds(*state, files->assets, map) : std::nullopt; });
            for (Diagnostic& d : files->assets.problems(*state, false)) found.push_back(std::move(d));
            for (Diagnostic& d : paintProblems(*state, files->assets)) found.push_back(std::move(d));
            for (Diagnostic& d : decalProblems(*state, files->assets)) found.push_back(std::move(d));
            // Remarks on single maps stand beside them in their station; here is what needs mending.
            if (checks.findings)
                for (Diagnostic& d : checks.findings(*state, files->assets))
                    if (d.severity != Severity::Advice) found.push_back(std::move(d));
            std::stable_sort(found.begin(), found.end(), [](const Diagnostic& a, const Diagnostic& b) { return a.severity > b.severity; });
            return std::make_pair(files, std::move(found));
        },
        [this](std::pair<ProjectFilesPtr, std::vector<Diagnostic>> found) {
            if (found.first != m_files) return;
            m_problems = std::move(found.second);
            Q_EMIT problemsChanged();
        });
}

void Session::readLightSoon(const std::filesystem::path& file) {
    const QString kind = "light " + QString::fromStdString(file.string());
    if (m_runner->running(this, kind)) return;
    m_runner->run(
        {.owner = this, .kind = kind},
        [files = m_files, file](const Work&) {
            files->lights.read(file);
            return files;
        },
        [this](const ProjectFilesPtr& files) {
            if (files == m_files) tell(Change::Files);
        });
}

} // namespace hue
