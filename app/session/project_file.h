#pragma once
// The open project's file: what it held when it was last read or written, and whether somebody else has saved it since.
#include "core/project/store.h"

#include <QFileSystemWatcher>
#include <QObject>
#include <QTimer>

namespace hue {

class Runner;

class ProjectFile : public QObject {
    Q_OBJECT

  public:
    ProjectFile(Runner& runner, QObject* parent);

    /// From now on the file holds `state`; `hash` is that of its content. An empty file: a project that was never saved.
    void holds(const QString& file, Snapshot state, std::string hash);
    const std::string& hash() const { return m_hash; }
    const Snapshot& state() const { return m_state; }
    /// The window's place among those that have the file open.
    const Seat& seat() const { return m_seat; }

    /// What somebody else has saved since; null while nobody has.
    const std::shared_ptr<const Loaded>& theirs() const { return m_theirs; }
    /// Looks at once, in the background.
    void look();
    /// What is theirs is known now: the next save goes over it.
    void acceptTheirs();

  Q_SIGNALS:
    void savedElsewhere(); ///< theirs() has come, or has changed

  private:
    void watch();

    Runner& m_runner;
    QFileSystemWatcher m_watcher;
    QTimer m_soon;
    QString m_file;
    Snapshot m_state;
    std::string m_hash;
    Seat m_seat;
    std::shared_ptr<const Loaded> m_theirs;
};

} // namespace hue
