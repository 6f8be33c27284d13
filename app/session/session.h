#pragma once
// The open project: its snapshots, undo, file, clock, and what is computed from it in the background.
#include "app/session/project_file.h"
#include "app/session/runner.h"
#include "core/base/diagnostic.h"
#include "core/document/changes.h"
#include "core/picture/looks.h"
#include "core/program/intervals.h"
#include "core/project/assets.h"
#include "core/surface/light_files.h"

#include <QDateTime>
#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <QUndoStack>

namespace hue {

/// What is read from the files of one project, and made of them. Work in the background holds on to it, so that another project may be
/// opened meanwhile; what nobody holds any more is gone from memory.
struct ProjectFiles {
    Assets assets;
    LookCache looks;
    LightLibrary lights;
};
using ProjectFilesPtr = std::shared_ptr<ProjectFiles>;

class Session : public QObject {
    Q_OBJECT

  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    Snapshot snapshot() const { return m_snapshot; }
    const Project& project() const { return *m_snapshot; }
    /// The master or assembly whose graph is on the board.
    const Master* master() const;
    Id masterId() const { return m_master; }
    /// Shows a master, or an assembly by itself.
    void showMaster(const Id& id);
    /// The master that is on the board, or was last, before assemblies were entered.
    Id rootId() const { return m_root; }
    /// The assembly on the board; null while it is a master.
    const Assembly* assembly() const { return project().assembly(m_master); }
    /// Cards through which the assembly on the board was entered, from the root's board on: their values are seen in it. Empty for a
    /// master, and an assembly that is shown by itself.
    const std::vector<Id>& path() const { return m_path; }
    /// The same as compilers take it: "card/card".
    Id pathText() const;
    /// Shows the assembly that a card of the board stands for, with what it gets there.
    void enter(const Id& card);
    /// Back to the board that is `levels` of the path away; from an assembly by itself to the root.
    void leave(size_t levels = 1);
    /// Whose values the sheet edits: the assembly on the board, else the target.
    Id tuned() const { return assembly() ? m_master : target(); }
    /// What is worn and tuned: the root or an instance of it.
    Id target() const;
    /// `specimen`: of the lineup, from 0, in which it is tuned; -1 where that is not said.
    void setTarget(const Id& worn, int specimen = -1);
    /// The specimen in which `worn` is tuned: the one that was chosen, or the only one that wears it.
    std::optional<size_t> tunedSpecimen(const Id& worn) const;
    /// An own value of what is tuned, as one step of undo for a row of such edits. Where several specimens wear it and own copies are
    /// wanted, the one that is tuned gets a copy first, which is tuned from then on.
    bool setTunedValue(const QString& name, const Id& parameter, const ParameterValue& value);
    /// Whether values of what several specimens wear change for the tuned one alone. Remembered from one run to the next.
    bool wantsOwnCopies() const;
    void setWantsOwnCopies(bool own);

    using Edit = std::function<Result<Project>(const Project&)>;
    /// Takes the edit as one step of undo. Edits in a row with the same key become one step. False when it was refused,
    /// which is then said in the status bar.
    bool apply(const QString& name, const Edit& edit, const QString& key = {});
    /// A new instance of what is being tuned, or of `parent`, which these specimens wear; it is tuned from now on. Empty when there was
    /// nothing to derive from. See newInstance(), which asks who wears it.
    Id deriveInstance(const Id& parent, const std::vector<size_t>& specimens);
    /// Takes an edit that is no step of undo: what was made again from changed sources. Every state can be made again, so undo
    /// loses nothing by it.
    bool applyQuietly(const Edit& edit);
    QUndoStack* undoStack() { return &m_undo; }
    /// Ends a row of edits with the same key, as at the end of a drag.
    void endRow() { m_row.clear(); }
    /// The lineup's camera and the like: saved beside the project's content, but no step of undo and no reason to call it changed.
    void setLineup(const Lineup& lineup);
    /// For who knows of changes that are none of the document's: files on the disk, how maps are shown.
    void tell(Changes what) { Q_EMIT changed(what); }

    // Files
    QString file() const { return m_file; }
    bool dirty() const { return !m_undo.isClean(); }
    QDateTime savedAt() const { return m_savedAt; }
    void startNew(std::string_view startingPoint);
    /// False when it was refused; `problem` says why.
    bool open(const QString& file, QString* problem);
    /// `code`: of the error, such as project.changed-elsewhere, which is then asked about (see ProjectFile).
    bool save(const QString& file, QString* problem, QString* code = nullptr);
    /// Calls back once what is unsaved is kept on the disk in the background, which makes a save of large paint short; at once where that
    /// takes no time. Not where another project is opened meanwhile.
    void whenKept(std::function<void()> then);
    /// The state before a step of undo, counted from the first; null where there is none.
    Snapshot stateBefore(int step) const;
    /// What was last opened or saved; null for a project that was neither.
    Snapshot savedState() const { return m_file.isEmpty() ? nullptr : m_projectFile->state(); }
    /// What the file holds, and what somebody else has saved there.
    ProjectFile& projectFile() { return *m_projectFile; }
    /// Answers to somebody else's save: their state as one step of undo; ours, whose next save goes over theirs; or both together, as one
    /// step. False when it could not be done, which is then said.
    bool takeTheirs();
    bool keepOurs();
    bool takeBoth();
    /// Unsaved state of an earlier run for the file that is open (or for a project without a file), if any.
    std::optional<Project> recovered();
    void takeRecovered(Project project);
    void dropJournal();
    /// Whether unsaved work of this session lies in a journal.
    bool keepsJournal() const;

    ProjectFilesPtr files() const { return m_files; }
    Assets& assets() { return m_files->assets; }
    LookCache& looks() { return m_files->looks; }
    LightLibrary& lights() { return m_files->lights; }
    /// All work in the background.
    Runner& runner() { return *m_runner; }
    /// Has the file of a light read in the background; Change::Files is told when it is there.
    void readLightSoon(const std::filesystem::path& file);

    // Clock
    double time() const { return m_time; }
    bool playing() const { return m_playing; }
    double speed() const { return m_speed; }
    void setPlaying(bool playing);
    void setTime(double seconds);
    /// One frame of 1/30 s forward or back, within the loop; pauses.
    void stepTime(int frames);
    void setSpeed(double speed);

    /// Problems of the project as last checked, in the background.
    const std::vector<Diagnostic>& problems() const { return m_problems; }
    /// What is known of maps, for what is checked in the background with every change. Called on other threads.
    struct MapChecks {
        std::function<std::vector<Diagnostic>(const Project&, const Assets&)> findings;
        std::function<std::optional<Interval>(const Project&, const Assets&, const Id& map)> bounds;
    };
    void setMapChecks(MapChecks checks) { m_mapChecks = std::move(checks); }
    void checkSoon() { m_checkTimer.start(); }
    void say(const QString& sentence) { Q_EMIT said(sentence); }

  Q_SIGNALS:
    void changed(hue::Changes what); ///< the snapshot, and how
    void projectOpened();            ///< another project: nothing of the last one is of use any more
    void masterShown();              ///< another master is on the board
    void targetChanged();
    void timeChanged();
    void problemsChanged();
    void fileChanged(); ///< name, saved state
    void said(const QString& sentence);

  private:
    class Step;
    /// `travels`: by undo or redo, to a state that stood before.
    void replace(Snapshot next, bool travels);
    void load(Project project, const QString& file);
    void checkInBackground();
    void writeJournalSoon();

    std::unique_ptr<Runner> m_runner;
    std::unique_ptr<ProjectFile> m_projectFile;
    ProjectFilesPtr m_files = std::make_shared<ProjectFiles>();
    Snapshot m_snapshot;
    QUndoStack m_undo;
    QString m_row, m_file;
    QDateTime m_savedAt;
    Id m_master, m_root, m_target;
    int m_tunedSpecimen = -1;
    std::vector<Id> m_path;
    /// The board at the end of the path, as far as the path holds.
    Id followPath();
    QTimer m_clock, m_journalTimer, m_checkTimer;
    QElapsedTimer m_tick;
    double m_time = 0, m_speed = 1;
    bool m_playing = false;
    std::vector<Diagnostic> m_problems;
    MapChecks m_mapChecks;
    /// Writing a journal and dropping it never cross: what was written of an earlier turn is not kept.
    struct Journal {
        std::mutex mutex;
        int turn = 0;
        bool written = false; ///< in this turn
    };
    int m_recoveredSeat = -1; ///< whose journal was offered
    std::shared_ptr<Journal> m_journal = std::make_shared<Journal>();
    std::vector<std::function<void()>> m_whenKept;
};

} // namespace hue
