// The window's own commands: projects, masters, the lineup, time. Stations bring theirs.
#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "app/session/new_instance.h"
#include "app/window/main_window.h"
#include "app/window/shared_dialog.h"
#include "app/window/status_bar.h"
#include "core/edits/edits.h"
#include "core/edits/starting_points.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QSettings>

namespace hue {

void MainWindow::addProjectCommands() {
    const QString fresh = tr("New"), bring = tr("Bring in"), edit = tr("Edit");
    for (const StartingPoint& s : startingPoints())
        m_commands->add({.id = "project.new-" + QString::fromUtf8(s.id.data(), qsizetype(s.id.size())),
                         .text = QString::fromUtf8(s.name.data(), qsizetype(s.name.size())),
                         .menu = fresh,
                         .keys = s.id == "empty" ? QKeySequence::keyBindings(QKeySequence::New) : QList<QKeySequence>{},
                         .help = QString::fromUtf8(s.help.data(), qsizetype(s.help.size())),
                         .act = [this, id = s.id] {
                             if (mayDiscard()) startNew(id);
                         }});
    m_commands->add(
        {.id = "project.open", .text = tr("Open"), .menu = "", .keys = QKeySequence::keyBindings(QKeySequence::Open), .act = [this] {
             const QString file = QFileDialog::getOpenFileName(this, tr("Open a project"), {}, tr("Projects (*.huestack)"));
             if (!file.isEmpty()) openFile(file);
         }});
    QAction* recent = m_commands->add({.id = "project.recent", .text = tr("Open recent"), .menu = "", .act = [] {}});
    m_recent = new QMenu(this);
    recent->setMenu(m_recent);
    connect(m_recent, &QMenu::aboutToShow, this, [this] {
        m_recent->clear();
        const QStringList files = QSettings().value("recent").toStringList();
        for (const QString& file : files) m_recent->addAction(file, this, [this, file] { openFile(file); });
        if (files.isEmpty()) m_recent->addAction(tr("Nothing was opened yet"))->setEnabled(false);
    });
    m_commands->add(
        {.id = "project.save", .text = tr("Save"), .menu = "", .keys = QKeySequence::keyBindings(QKeySequence::Save), .act = [this] {
             m_session->whenKept([this] { save(); });
         }});
    m_commands->add(
        {.id = "project.save-as", .text = tr("Save as"), .menu = "", .keys = {QKeySequence("Ctrl+Shift+S")}, .act = [this] { saveAs(); }});
    m_commands->add({.id = "project.bring-maps",
                     .text = tr("Maps"),
                     .menu = bring,
                     .help = tr("Image files; kinds and sets are guessed from names and pixels"),
                     .act = [this] { bringIn(QFileDialog::getOpenFileNames(this, tr("Bring in maps"), {}, imageFilter())); },
                     .separated = false});
    m_commands->add({.id = "project.bring-meshes", .text = tr("Meshes"), .menu = bring, .act = [this] {
                         bringIn(QFileDialog::getOpenFileNames(this, tr("Bring in meshes"), {}, meshFilter()));
                     }});
    QUndoStack* undo = m_session->undoStack();
    const auto history = [&](const char* id, const QString& verb, QList<QKeySequence> keys, auto act, auto can, auto textChanged,
                             const QString& whyNot) {
        QAction* a = m_commands->add({.id = id,
                                      .text = verb,
                                      .menu = edit,
                                      .keys = std::move(keys),
                                      .act = [undo, act] { (undo->*act)(); },
                                      .valid = [undo, can] { return (undo->*can)(); },
                                      .whyNot = whyNot});
        connect(undo, textChanged, a, [a, verb](const QString& what) { a->setText(what.isEmpty() ? verb : verb + " " + what); });
    };
    history("edit.undo", tr("Undo"), QKeySequence::keyBindings(QKeySequence::Undo), &QUndoStack::undo, &QUndoStack::canUndo,
            &QUndoStack::undoTextChanged, tr("There is nothing to undo."));
    history("edit.redo", tr("Redo"), {QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")}, &QUndoStack::redo, &QUndoStack::canRedo,
            &QUndoStack::redoTextChanged, tr("There is nothing to redo."));
}

void MainWindow::addMasterCommands() {
    const QString master = tr("Master");
    m_commands->add({.id = "master.new", .text = tr("New master"), .menu = master, .act = [this] {
                         Master m;
                         m.id = newId('m');
                         m.name = "Master";
                         if (m_session->apply(tr("new master"), [&](const Project& p) { return edit::addMaster(p, m); }))
                             m_session->showMaster(m.id);
                     }});
    const auto there = [this] { return m_session->project().master(m_session->rootId()) != nullptr; };
    const QString none = tr("There is no master yet. Make one first.");
    m_commands->add({.id = "master.rename",
                     .text = tr("Rename master"),
                     .menu = master,
                     .act =
                         [this] {
                             bool ok = false;
                             const QString name =
                                 QInputDialog::getText(this, tr("Rename master"), tr("Name"), QLineEdit::Normal,
                                                       QString::fromStdString(m_session->project().master(m_session->rootId())->name), &ok);
                             if (ok)
                                 m_session->apply(tr("rename master"), [&](const Project& p) {
                                     return edit::renameMaster(p, m_session->rootId(), name.trimmed().toStdString());
                                 });
                         },
                     .valid = there,
                     .whyNot = none});
    m_commands->add({.id = "master.remove",
                     .text = tr("Remove master and its instances"),
                     .menu = master,
                     .act =
                         [this] {
                             m_session->apply(tr("remove master"),
                                              [&](const Project& p) { return edit::removeMaster(p, m_session->rootId()); });
                         },
                     .valid = there,
                     .whyNot = none});
    m_commands->add({.id = "instance.new",
                     .text = tr("New instance"),
                     .menu = master,
                     .keys = {QKeySequence("Ctrl+I")},
                     .act = [this] { newInstance(*m_session, this, QCursor::pos()); },
                     .valid = there,
                     .whyNot = none});
    m_commands->add({.id = "project.shared",
                     .text = tr("Shared parameters\u2026"),
                     .menu = master,
                     .keys = {QKeySequence("Ctrl+Alt+S")},
                     .act = [this] {
                         auto* dialog = new SharedDialog(*m_session, this);
                         dialog->setAttribute(Qt::WA_DeleteOnClose);
                         dialog->show();
                     }});
}

void MainWindow::addViewCommands() {
    const QString view = tr("View");
    bool first = true;
    for (const StationDef& def : stations()) {
        m_commands->add({.id = "station." + def.key,
                         .text = def.name,
                         .menu = view,
                         .keys = {def.keys},
                         .help = def.help,
                         .act = [this, key = def.key] { showStation(key); },
                         .separated = first});
        first = false;
    }
    const auto add = [&](const char* id, const QString& text, QList<QKeySequence> keys, std::function<void()> act, bool separated = false) {
        m_commands->add({.id = id, .text = text, .menu = view, .keys = std::move(keys), .act = std::move(act), .separated = separated});
    };
    add(
        "lineup.fold", tr("Fold the lineup, or unfold it"), {QKeySequence("Ctrl+Shift+Return")}, [this] { foldLineup(); }, true);
    add("lineup.fill", tr("Specimen fills the window"), {QKeySequence("Ctrl+Return")},
        [this] { m_lineup->fill(m_lineup->filled() >= 0 ? -1 : int(m_lineup->current())); });
    add("lineup.next-view", tr("Next view in the lineup"), {Qt::Key_F7}, [this] { m_lineup->nextView(); });
    add("lineup.stretch", tr("Stretch the view's range"), {QKeySequence("Shift+F7")}, [this] { m_lineup->stretchView(); });
    add("lineup.yardstick", tr("Yardstick on or off"), {Qt::Key_F6}, [this] { m_lineup->toggleYardstick(); });
    add("lineup.compressed", tr("Maps compressed or original"), {Qt::Key_F11}, [this] { toggleCompressed(); });
    add("lineup.record", tr("Record"), {}, [this] { record(); });
    add(
        "time.play", tr("Play or pause"), {Qt::Key_F5}, [this] { m_session->setPlaying(!m_session->playing()); }, true);
    add("time.back", tr("One frame back"), {QKeySequence("Ctrl+Left")}, [this] { m_session->stepTime(-1); });
    add("time.on", tr("One frame on"), {QKeySequence("Ctrl+Right")}, [this] { m_session->stepTime(1); });
    add(
        "window.next-problem", tr("Next problem"), {Qt::Key_F8}, [this] { m_status->nextProblem(); }, true);
    for (const char* name : {"Plaster", "Graphite"})
        add(
            name[0] == 'P' ? "theme.plaster" : "theme.graphite", tr("Theme %1").arg(name), {},
            [name] {
                setTheme(name);
                QSettings().setValue("theme", name);
            },
            name[0] == 'P');
    m_commands->add(
        {.id = "window.keys", .text = tr("Keys"), .menu = "", .keys = {Qt::Key_F1}, .act = [this] { showKeys(); }, .separated = true});
    m_commands->add({.id = "window.quit",
                     .text = tr("Quit"),
                     .menu = "",
                     .keys = QKeySequence::keyBindings(QKeySequence::Quit),
                     .act = [this] { close(); },
                     .separated = true});
}

} // namespace hue
