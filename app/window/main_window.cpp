#include "app/window/main_window.h"

#include "app/lineup/lineup_view.h"
#include "app/lineup/record_dialog.h"
#include "app/parts/fields.h"
#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "app/session/map_service.h"
#include "app/stations/dispatch/dispatch_page.h"
#include "app/stations/graph/board.h"
#include "app/stations/graph/make_map_dialog.h"
#include "app/stations/graph/parameter_sheet.h"
#include "app/stations/graph/surface_rail.h"
#include "app/stations/graph/tap_panel.h"
#include "app/stations/instances/instances_page.h"
#include "app/stations/maps/maps_page.h"
#include "app/window/status_bar.h"
#include "app/window/top_bar.h"
#include "core/edits/edits.h"
#include "core/edits/starting_points.h"
#include "core/project/map_library.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPointer>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QTextBrowser>
#include <QTreeView>
#include <QVBoxLayout>

namespace hue {

MainWindow::MainWindow()
    : m_session(std::make_unique<Session>()),
      m_pictures(std::make_unique<PictureService>(*m_session)),
      m_boardService(new BoardService(*m_session)),
      m_mapService(std::make_unique<MapService>(*m_session)) {
    setWindowTitle("Hue Stack");
    setAcceptDrops(true);
    auto* body = new QWidget;
    auto* column = new QVBoxLayout(body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_top = new TopBar(*m_session, *m_boardService);
    m_lineup = new LineupView(*m_session, *m_pictures);
    m_pages = new QStackedWidget;
    auto* graph = new QWidget;
    auto* row = new QHBoxLayout(graph);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(1);
    m_sheet = new ParameterSheet(*m_session);
    m_board = new Board(*m_session, *m_boardService);
    m_rail = new SurfaceRail(*m_session, *m_boardService);
    m_board->setChannelTargets(m_rail);
    row->addWidget(m_sheet);
    row->addWidget(m_board, 1);
    m_tap = new TapPanel(*m_session);
    m_tap->hide();
    row->addWidget(m_tap);
    row->addWidget(m_rail);
    m_instances = new InstancesPage(*m_session, *m_pictures);
    m_dispatch = new DispatchPage(*m_session);
    m_maps = new MapsPage(*m_session, *m_mapService);
    m_pages->addWidget(m_maps);
    m_pages->addWidget(graph);
    m_pages->addWidget(m_instances);
    m_pages->addWidget(m_dispatch);
    m_splitter = new QSplitter(Qt::Vertical);
    m_splitter->addWidget(m_lineup);
    m_splitter->addWidget(m_pages);
    m_splitter->setSizes({304, 424});
    m_splitter->setStretchFactor(1, 1);
    m_splitter->setChildrenCollapsible(false);
    m_splitter->setHandleWidth(2);
    m_status = new StatusBar(*m_session);
    column->addWidget(m_top);
    column->addWidget(m_splitter, 1);
    column->addWidget(m_status);
    setCentralWidget(body);
    makeMenu();
    // Builds are counted when pictures arrive, which is after the edit.
    connect(m_pictures.get(), &PictureService::ready, m_status, &StatusBar::refreshSaved);
    connect(m_top, &TopBar::stationChosen, this, [this](int index) { showStation(Station(index)); });
    connect(m_rail, &SurfaceRail::viewWanted, m_lineup, &LineupView::setView);
    connect(m_rail, &SurfaceRail::moved, m_board, qOverload<>(&QWidget::update));
    connect(m_tap, &TapPanel::closed, m_tap, &QWidget::hide);
    connect(m_tap, &TapPanel::meshWanted, m_lineup, &LineupView::showWire);
    connect(m_board, &Board::mapWanted, this, &MainWindow::makeMapOfWire);
    connect(m_board, &Board::selectionChanged, this, [this] {
        // An open tap follows what is chosen.
        if (m_tap->isVisible())
            if (const auto wire = m_board->tapTarget()) m_tap->tap(*wire);
    });
    connect(m_lineup, &LineupView::filledChanged, this, [this](bool filled) { m_pages->setVisible(!filled); });
    connect(m_lineup, &LineupView::paceChanged, m_status, &StatusBar::showPace);
    connect(m_pictures.get(), &PictureService::seamMeasured, m_status, &StatusBar::showSeam);
    connect(m_lineup, &LineupView::recordWanted, this, [this] {
        auto* dialog = new RecordDialog(*m_session, m_lineup->current(), m_lineup->specimen(m_lineup->current())->pictureSize(), this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->open();
    });
    ValueField::setPicker([this](ValueField* field) {
        m_lineup->pickColor([field = QPointer<ValueField>(field)](const Value& v) {
            if (field) field->take(v);
        });
    });
    connect(m_status, &StatusBar::placeWanted, this, [this](const Place& place) {
        if (m_session->project().map(place.port)) {
            showStation(Station::Maps);
            return m_maps->choose(place.port);
        }
        if (!place.master.empty()) m_session->showMaster(place.master);
        showStation(Station::Graph);
        if (!place.node.empty()) m_board->showCard(place.node);
    });
    for (auto signal : {&Session::changed, &Session::masterShown, &Session::targetChanged})
        connect(m_session.get(), signal, m_boardService, &BoardService::refresh);
    connect(m_session.get(), &Session::fileChanged, this, [this] {
        setWindowTitle(QString::fromStdString(m_session->project().name) + "[*] \u2013 Hue Stack");
        setWindowModified(m_session->dirty());
    });
    m_session->setMapChecks([this](const Project& p) { return mapFindings(p, m_session->assets(), m_mapService->index()); });
    connect(m_mapService.get(), &MapService::knowledgeChanged, m_session.get(), &Session::checkSoon);
    m_pages->setCurrentIndex(int(Station::Graph));
    const QSettings settings;
    setTheme(settings.value("theme", "Plaster").toString());
    resize(1280, 800);
    restoreGeometry(settings.value("window").toByteArray());
    m_splitter->restoreState(settings.value("lineupHeight").toByteArray());
}

MainWindow::~MainWindow() {
    ValueField::setPicker({});
    // Widgets that draw on the session go first.
    delete takeCentralWidget();
    m_session->setMapChecks({});
    m_mapService.reset();
    m_pictures.reset();
}

void MainWindow::makeMenu() {
    auto* menu = new QMenu(this);
    auto add = [this](QMenu* to, const QString& name, const QKeySequence& key, auto action) {
        QAction* a = to->addAction(name, this, action);
        a->setShortcut(key);
        a->setShortcutContext(Qt::WindowShortcut);
        addAction(a);
        return a;
    };
    auto* fresh = menu->addMenu(tr("New"));
    for (const StartingPoint& s : startingPoints()) {
        QAction* a = add(fresh, QString::fromUtf8(s.name.data()), s.id == "empty" ? QKeySequence::New : QKeySequence(), [this, id = s.id] {
            if (mayDiscard()) startNew(id);
        });
        a->setToolTip(QString::fromUtf8(s.help.data()));
    }
    fresh->setToolTipsVisible(true);
    add(menu, tr("Open"), QKeySequence::Open, [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Open a project"), {}, tr("Projects (*.huestack)"));
        if (!file.isEmpty()) openFile(file);
    });
    m_recent = menu->addMenu(tr("Open recent"));
    connect(m_recent, &QMenu::aboutToShow, this, [this] {
        m_recent->clear();
        const QStringList files = QSettings().value("recent").toStringList();
        for (const QString& file : files) m_recent->addAction(file, this, [this, file] { openFile(file); });
        if (files.isEmpty()) m_recent->addAction(tr("Nothing was opened yet"))->setEnabled(false);
    });
    add(menu, tr("Save"), QKeySequence::Save, [this] { save(); });
    add(menu, tr("Save as"), QKeySequence("Ctrl+Shift+S"), [this] { saveAs(); });
    menu->addSeparator();
    auto* bring = menu->addMenu(tr("Bring in"));
    add(bring, tr("Maps"), {}, [this] {
        m_maps->bringIn(QFileDialog::getOpenFileNames(
            this, tr("Bring in maps"), {}, tr("Images (*.png *.jpg *.jpeg *.tga *.tif *.tiff *.exr *.hdr *.bmp *.webp *.ktx2 *.dds)")));
    });
    add(bring, tr("Meshes"), {}, [this] {
        for (const QString& file : QFileDialog::getOpenFileNames(this, tr("Bring in meshes"), {}, tr("Meshes (*.glb *.gltf)")))
            importFile(*m_session, file);
    });
    auto* master = menu->addMenu(tr("Master"));
    add(master, tr("New master"), {}, [this] {
        Master m;
        m.id = newId('m');
        m.name = "Master";
        if (m_session->apply(tr("new master"), [&](const Project& p) { return edit::addMaster(p, m); })) m_session->showMaster(m.id);
    });
    add(master, tr("Rename master"), {}, [this] {
        if (!m_session->master()) return;
        bool ok = false;
        const QString name = QInputDialog::getText(this, tr("Rename master"), tr("Name"), QLineEdit::Normal,
                                                   QString::fromStdString(m_session->master()->name), &ok);
        if (ok)
            m_session->apply(tr("rename master"),
                             [&](const Project& p) { return edit::renameMaster(p, m_session->masterId(), name.trimmed().toStdString()); });
    });
    add(master, tr("Remove master and its instances"), {},
        [this] { m_session->apply(tr("remove master"), [&](const Project& p) { return edit::removeMaster(p, m_session->masterId()); }); });
    add(master, tr("New instance"), QKeySequence("Ctrl+I"), [this] { m_sheet->newInstance(); });
    menu->addSeparator();
    auto* editing = menu->addMenu(tr("Edit"));
    QAction* undo = m_session->undoStack()->createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    QAction* redo = m_session->undoStack()->createRedoAction(this, tr("Redo"));
    redo->setShortcuts({QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")});
    editing->addActions({undo, redo});
    addActions({undo, redo});
    editing->addSeparator();
    add(editing, tr("Cut"), QKeySequence::Cut, [this] {
        m_board->copySelection();
        m_board->removeSelection();
    });
    add(editing, tr("Copy"), QKeySequence::Copy, [this] { m_board->copySelection(); });
    add(editing, tr("Paste"), QKeySequence::Paste, [this] { m_board->paste(); });
    add(editing, tr("Duplicate"), QKeySequence("Ctrl+D"), [this] { m_board->duplicateSelection(); });
    add(editing, tr("Select all"), QKeySequence::SelectAll, [this] { m_board->selectAll(); });
    add(editing, tr("Rename"), QKeySequence(Qt::Key_F2), [this] {
        if (station() == Station::Instances) m_instances->table()->edit(m_instances->table()->currentIndex());
        else if (const auto* row = qobject_cast<ParameterRow*>(QApplication::focusWidget()))
            editParameter(*m_session, row->parameter(), this);
        else m_board->renameSelection();
    });
    add(editing, tr("Mute"), QKeySequence(Qt::Key_F10), [this] { m_board->muteSelection(); });
    add(editing, tr("Expose as parameter"), QKeySequence("Ctrl+E"), [this] { m_board->exposeSelection(); });
    add(editing, tr("Make a map of the wire"), QKeySequence("Ctrl+Shift+M"), [this] { makeMapOfWire(); });
    add(editing, tr("Put a bay around"), QKeySequence("Ctrl+B"), [this] { m_board->baySelection(); });
    add(editing, tr("Tidy"), QKeySequence(Qt::Key_F4), [this] { m_board->tidy(); });
    auto* view = menu->addMenu(tr("View"));
    add(view, tr("Maps"), QKeySequence("Ctrl+1"), [this] { showStation(Station::Maps); });
    add(view, tr("Graph"), QKeySequence("Ctrl+2"), [this] { showStation(Station::Graph); });
    add(view, tr("Instances"), QKeySequence("Ctrl+3"), [this] { showStation(Station::Instances); });
    add(view, tr("Dispatch"), QKeySequence("Ctrl+4"), [this] { showStation(Station::Dispatch); });
    view->addSeparator();
    add(view, tr("Fit the selection"), QKeySequence(Qt::Key_F9), [this] { m_board->fit(!m_board->selection().empty()); });
    add(view, tr("Tap the selected wire"), QKeySequence(Qt::Key_F3), [this] { toggleTap(); });
    add(view, tr("Show the selected wire on the mesh"), QKeySequence("Shift+F3"), [this] {
        if (const auto wire = m_board->tapTarget()) m_lineup->showWire(*wire);
        else m_session->say(tr("Select a wire or a card first."));
    });
    add(view, tr("Maps compressed or original"), QKeySequence(Qt::Key_F11), [this] { toggleCompressed(); });
    add(view, tr("Yardstick on or off"), QKeySequence(Qt::Key_F6), [this] { m_lineup->toggleYardstick(); });
    add(view, tr("Specimen fills the window"), QKeySequence("Ctrl+Return"),
        [this] { m_lineup->fill(m_lineup->filled() >= 0 ? -1 : int(m_lineup->current())); });
    add(view, tr("Take a color from a specimen"), QKeySequence("Ctrl+K"), [this] { pickColor(); });
    add(view, tr("Stretch the view's range"), QKeySequence("Shift+F7"), [this] { m_lineup->stretchView(); });
    add(view, tr("One frame back"), QKeySequence("Ctrl+Left"), [this] { m_session->stepTime(-1); });
    add(view, tr("One frame on"), QKeySequence("Ctrl+Right"), [this] { m_session->stepTime(1); });
    add(view, tr("Next view in the lineup"), QKeySequence(Qt::Key_F7), [this] { m_lineup->nextView(); });
    add(view, tr("Next problem"), QKeySequence(Qt::Key_F8), [this] { m_status->nextProblem(); });
    add(view, tr("Play or pause"), QKeySequence(Qt::Key_F5), [this] { m_session->setPlaying(!m_session->playing()); });
    view->addSeparator();
    for (const char* name : {"Plaster", "Graphite"})
        add(view, tr("Theme %1").arg(name), {}, [name] {
            setTheme(name);
            QSettings().setValue("theme", name);
        });
    add(menu, tr("Keys"), QKeySequence(Qt::Key_F1), [this] { showKeys(); });
    menu->addSeparator();
    add(menu, tr("Quit"), QKeySequence::Quit, [this] { close(); });
    m_top->setMenu(menu);
}

void MainWindow::toggleTap() {
    const auto wire = m_board->tapTarget();
    if (m_tap->isVisible() && (!wire || *wire == m_tap->wire())) return m_tap->hide();
    if (!wire) return m_session->say(tr("Select a wire or a card first; then F3 taps it."));
    showStation(Station::Graph);
    m_tap->show();
    m_tap->tap(*wire);
    m_board->showCard(wire->node);
}

void MainWindow::pickColor() {
    if (m_board->hasFocus() && m_board->hasColor()) return m_lineup->pickColor([this](const Value& v) { m_board->takeColor(v); });
    auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
    if (!field || !field->isColor())
        return m_session->say(
            tr("Put the focus on a color, or select a card with one; then Ctrl+K and a click on a specimen take its color."));
    m_lineup->pickColor([field = QPointer<ValueField>(field)](const Value& v) {
        if (field) field->take(v);
    });
}

void MainWindow::showKeys() {
    auto* dialog = new QDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(tr("Keys"));
    dialog->resize(520, 560);
    QString html = tr("<h3>On the board</h3><p>Type a node, a number, a color or <i>name = value</i> to add. Arrows walk along wires, "
                      "Shift+arrows select, Enter edits the first unwired value, Delete removes, Ctrl+drag cuts wires, middle drag or "
                      "Alt+drag moves the board, the wheel zooms.</p><h3>Commands</h3><table>");
    for (const QAction* a : actions())
        if (!a->shortcut().isEmpty())
            html += QString("<tr><td><b>%1</b>&nbsp;&nbsp;</td><td>%2</td></tr>")
                        .arg(a->shortcut().toString().toHtmlEscaped(), a->text().remove('&').toHtmlEscaped());
    html += "</table>";
    auto* text = new QTextBrowser;
    text->setHtml(html);
    auto* column = new QVBoxLayout(dialog);
    column->addWidget(text);
    dialog->open();
}

Station MainWindow::station() const { return Station(m_pages->currentIndex()); }

void MainWindow::showStation(Station station) {
    m_pages->setCurrentIndex(int(station));
    m_top->setStation(int(station));
    if (station == Station::Maps) m_maps->list()->setFocus();
    if (station == Station::Graph) m_board->setFocus();
    if (station == Station::Instances) m_instances->table()->setFocus();
}

void MainWindow::makeMapOfWire() {
    const auto wire = m_board->tapTarget();
    if (!wire) return m_session->say(tr("Select a wire or a card first; then Ctrl+Shift+M makes a map of it."));
    auto* dialog = new MakeMapDialog(*m_session, *m_mapService, *wire, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void MainWindow::toggleCompressed() {
    Assets& assets = m_session->assets();
    const bool now = assets.view() == MapLibrary::View::Original;
    assets.setView(now ? MapLibrary::View::CompressedWhenReady : MapLibrary::View::Original);
    int formats = 0;
    for (const auto& m : m_session->project().maps) formats += !m->format.empty();
    m_session->say(!now       ? tr("Maps are shown as they are.")
                   : !formats ? tr("No map has a format yet; the station Maps gives them one under Compress.")
                              : tr("Maps are shown as their formats make them; F11 goes back."));
    Q_EMIT m_session->changed();
}

void MainWindow::startNew(std::string_view startingPoint) {
    m_session->startNew(startingPoint);
    offerRecovery();
}

bool MainWindow::openFile(const QString& file) {
    if (!mayDiscard()) return false;
    QString problem;
    if (!m_session->open(file, &problem)) {
        QMessageBox::warning(this, tr("Not opened"), problem);
        return false;
    }
    addRecent(m_session->file());
    offerRecovery();
    return true;
}

void MainWindow::offerRecovery() {
    auto found = m_session->recovered();
    if (!found) return;
    QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                    tr("Hue Stack ended last time without saving %1. Bring the unsaved changes back?")
                        .arg(QString::fromStdString(m_session->project().name)),
                    QMessageBox::NoButton, this);
    QAbstractButton* bring = box.addButton(tr("Bring back"), QMessageBox::AcceptRole);
    box.addButton(tr("Forget them"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == bring) m_session->takeRecovered(std::move(*found));
    else m_session->dropJournal();
}

bool MainWindow::saveTo(const QString& file) {
    QString problem;
    if (!m_session->save(file, &problem)) {
        QMessageBox::warning(this, tr("Not saved"), problem);
        return false;
    }
    addRecent(m_session->file());
    m_session->say(tr("Saved %1.").arg(m_session->file()));
    return true;
}

bool MainWindow::save() { return m_session->file().isEmpty() ? saveAs() : saveTo(m_session->file()); }

bool MainWindow::saveAs() {
    QString file = QFileDialog::getSaveFileName(
        this, tr("Save the project"),
        m_session->file().isEmpty() ? QString::fromStdString(m_session->project().name) + ".huestack" : m_session->file(),
        tr("Projects (*.huestack)"));
    if (file.isEmpty()) return false;
    if (!file.endsWith(".huestack")) file += ".huestack";
    return saveTo(file);
}

bool MainWindow::mayDiscard() {
    if (!m_session->dirty() || !m_asks) return true;
    QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                    tr("%1 has unsaved changes.").arg(QString::fromStdString(m_session->project().name)), QMessageBox::NoButton, this);
    QAbstractButton* keep = box.addButton(tr("Save"), QMessageBox::AcceptRole);
    QAbstractButton* drop = box.addButton(tr("Do not save"), QMessageBox::DestructiveRole);
    box.addButton(tr("Go back"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == keep) return save();
    if (box.clickedButton() != drop) return false;
    m_session->dropJournal();
    return true;
}

void MainWindow::addRecent(const QString& file) {
    QSettings settings;
    QStringList files = settings.value("recent").toStringList();
    files.removeAll(file);
    files.prepend(file);
    settings.setValue("recent", files.mid(0, 10));
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!mayDiscard()) return e->ignore();
    if (!m_session->dirty()) m_session->dropJournal();
    QSettings settings;
    settings.setValue("window", saveGeometry());
    settings.setValue("lineupHeight", m_splitter->saveState());
    e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    QStringList maps;
    for (const QUrl& url : e->mimeData()->urls()) {
        const QString file = url.toLocalFile();
        if (file.endsWith(".huestack")) openFile(file);
        else if (file.endsWith(".glb") || file.endsWith(".gltf")) importFile(*m_session, file);
        else maps << file;
    }
    if (!maps.isEmpty()) m_maps->bringIn(maps);
}

} // namespace hue
