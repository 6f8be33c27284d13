#include "app/session/project_file.h"

#include "app/session/runner.h"
#include "core/base/files.h"

namespace hue {

ProjectFile::ProjectFile(Runner& runner, QObject* parent) : QObject(parent), m_runner(runner) {
    // A save is a file that takes another's place: it may be away for a moment, and comes with several notices.
    m_soon.setSingleShot(true);
    m_soon.setInterval(200);
    connect(&m_watcher, &QFileSystemWatcher::fileChanged, this, [this] { m_soon.start(); });
    connect(&m_soon, &QTimer::timeout, this, &ProjectFile::look);
}

void ProjectFile::holds(const QString& file, Snapshot state, std::string hash) {
    if (file != m_file || !m_state) m_seat = Seat(file.toStdString());
    m_file = file;
    m_state = std::move(state);
    m_hash = std::move(hash);
    m_theirs = nullptr;
    watch();
}

void ProjectFile::watch() {
    if (!m_watcher.files().isEmpty()) m_watcher.removePaths(m_watcher.files());
    if (!m_file.isEmpty()) m_watcher.addPath(m_file);
}

void ProjectFile::look() {
    if (m_file.isEmpty()) return;
    watch();
    const std::string known = m_theirs ? m_theirs->hash : m_hash;
    m_runner.run(
        {.owner = this, .kind = "project file", .newer = Newer::Waits},
        [file = m_file.toStdString(), known](const Work&) -> std::shared_ptr<const Loaded> {
            const std::string now = contentHash(file);
            // One that is gone, or cannot be read, is told when it is saved.
            if (now.empty() || now == known) return nullptr;
            Result<Loaded> loaded = loadProject(file);
            return loaded ? std::make_shared<Loaded>(std::move(*loaded)) : nullptr;
        },
        [this, file = m_file](const std::shared_ptr<const Loaded>& found) {
            // Meanwhile it may have been saved from here.
            if (!found || file != m_file || found->hash == m_hash) return;
            m_theirs = found;
            Q_EMIT savedElsewhere();
        });
}

void ProjectFile::acceptTheirs() {
    if (!m_theirs) return;
    m_hash = m_theirs->hash;
    m_state = std::make_shared<Project>(m_theirs->project);
    m_theirs = nullptr;
}

} // namespace hue
