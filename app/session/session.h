#pragma once
// The open project: its snapshots, undo, file, clock, and what is computed from it in the background.
#include "core/base/diagnostic.h"
#include "core/project/assets.h"
#include "core/surface/light_files.h"
#include "preview/looks.h"

#include <QDateTime>
#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <QUndoStack>

namespace hue {

class Session : public QObject {
    Q_OBJECT

  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    Snapshot snapshot() const { return m_snapshot; }
    const Project& project() const { return *m_snapshot; }
    /// The master whose graph is on the board.
    const Master* master() const;
    Id masterId() const { return m_master; }
    void showMaster(const Id& id);
    /// What the parameter sheet edits: the shown master or an instance of it.
    Id target() const;
    void setTarget(const Id& worn);

    using Edit = std::function<Result<Project>(const Project&)>;
    /// Takes the edit as one step of undo. Edits in a row with the same key become one step. False when it was refused,
    /// which is then said in the status bar.
    bool apply(const QString& name, const Edit& edit, const QString& key = {});
    /// Takes an edit that is no step of undo: what was made again from changed sources. Every state can be made again, so undo
    /// loses nothing by it.
    bool applyQuietly(const Edit& edit);
    QUndoStack* undoStack() { return &m_undo; }
    /// Ends a row of edits with the same key, as at the end of a drag.
    void endRow() { m_row.clear(); }
    /// The lineup's camera and the like: saved, but no step of undo.
    void setLineup(const Lineup& lineup);

    // Files
    QString file() const { return m_file; }
    bool dirty() const { return !m_undo.isClean(); }
    QDateTime savedAt() const { return m_savedAt; }
    void startNew(std::string_view startingPoint);
    /// False when it was refused; `problem` says why.
    bool open(const QString& file, QString* problem);
    bool save(const QString& file, QString* problem);
    /// Unsaved state of an earlier run for the file that is open (or for a project without a file), if any.
    std::optional<Project> recovered() const;
    void takeRecovered(Project project);
    void dropJournal();

    Assets& assets() { return m_assets; }
    LookCache& looks() { return m_looks; }
    LightLibrary& lights() { return m_lights; }

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
    /// What else is checked in the background with every change: findings of maps.
    void setMapChecks(std::function<std::vector<Diagnostic>(const Project&)> checks) { m_mapChecks = std::move(checks); }
    void checkSoon() { m_checkTimer.start(); }
    void say(const QString& sentence) { Q_EMIT said(sentence); }

  Q_SIGNALS:
    void changed();     ///< the snapshot
    void masterShown(); ///< another master is on the board
    void targetChanged();
    void timeChanged();
    void problemsChanged();
    void fileChanged(); ///< name, saved state
    void said(const QString& sentence);

  private:
    class Step;
    void replace(Snapshot next);
    void load(Project project, const QString& file);
    void checkInBackground();

    Snapshot m_snapshot;
    QUndoStack m_undo;
    QString m_row, m_file;
    QDateTime m_savedAt;
    Id m_master, m_target;
    Assets m_assets;
    LookCache m_looks;
    LightLibrary m_lights;
    QTimer m_clock, m_journalTimer, m_checkTimer;
    QElapsedTimer m_tick;
    double m_time = 0, m_speed = 1;
    bool m_playing = false;
    std::vector<Diagnostic> m_problems;
    std::function<std::vector<Diagnostic>(const Project&)> m_mapChecks;
    std::shared_ptr<std::atomic<int>> m_checks = std::make_shared<std::atomic<int>>(0);
};

} // namespace hue
