#include "app/window/main_window.h"

#include "app/lineup/record_dialog.h"
#include "app/parts/fields.h"
#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "app/window/keys_dialog.h"
#include "app/window/saved_elsewhere.h"
#include "app/window/status_bar.h"
#include "app/window/top_bar.h"
#include "core/project/map_library.h"

#include <QApplication>
#include <QCloseEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPointer>
#include <QSettings>
#include <QSplitter>
#include <QSplitterHandle>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

constexpr int kLineupHeight = 304;

/// The edge of the strip: dragged to make it higher, double clicked to fold it.
class Edge : public QSplitterHandle {
  public:
    Edge(QSplitter* parent, std::function<void()> fold) : QSplitterHandle(Qt::Vertical, parent), m_fold(std::move(fold)) {
        setAccessibleName(QObject::tr("Edge of the lineup"));
    }

  protected:
    void mouseDoubleClickEvent(QMouseEvent*) override { m_fold(); }

  private:
    std::function<void()> m_fold;
};
class Strip : public QSplitter {
  public:
    explicit Strip(std::function<void()> fold) : QSplitter(Qt::Vertical), m_fold(std::move(fold)) {}

  protected:
    QSplitterHandle* createHandle() override { return new Edge(this, m_fold); }

  private:
    std::function<void()> m_fold;
};

} // namespace

MainWindow::MainWindow()
    : m_commands(new Commands(this)),
      m_session(std::make_unique<Session>()),
      m_pictures(std::make_unique<PictureService>()),
      m_boardService(new BoardService(*m_session)),
      m_budget(new BudgetService(*m_session)),
      m_mapService(std::make_unique<MapService>(*m_session)),
      m_livePaint(std::make_unique<LivePaintService>(*m_session)) {
    // Before there are widgets: all of them would be dressed anew.
    setTheme(QSettings().value("theme", "Plaster").toString());
    setWindowTitle("Hue Stack");
    setAcceptDrops(true);
    auto* body = new QWidget;
    auto* column = new QVBoxLayout(body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_top = new TopBar(*m_session, *m_boardService, *m_budget, *m_commands, stations());
    m_lineup = new LineupView(*m_session, *m_pictures, *m_commands);
    m_pages = new QStackedWidget;
    m_place.reset(new Workplace{*m_session, *m_pictures, *m_boardService, *m_mapService, *m_budget, *m_lineup, *m_commands,
                                [this](const QString& key) { showStation(key); }, [this](const Place& place) { leadTo(place); }});
    for (const StationDef& def : stations()) {
        m_stations.push_back(def.make(*m_place));
        m_pages->addWidget(m_stations.back());
    }
    m_splitter = new Strip([this] { foldLineup(); });
    m_splitter->addWidget(m_lineup);
    m_splitter->addWidget(m_pages);
    m_splitter->setSizes({kLineupHeight, 424});
    m_splitter->setStretchFactor(1, 1);
    m_splitter->setChildrenCollapsible(false);
    m_splitter->setHandleWidth(4);
    m_commands->explain(m_splitter->handle(1), "lineup.fold", tr("Drag to make the pictures higher; double click to fold them away"));
    m_status = new StatusBar(*m_session, *m_commands);
    column->addWidget(m_top);
    column->addWidget(m_splitter, 1);
    column->addWidget(m_status);
    setCentralWidget(body);
    addProjectCommands();
    addMasterCommands();
    for (Station* station : m_stations) station->addCommands();
    addViewCommands();
    auto* menu = new QMenu(this);
    menu->setToolTipsVisible(true);
    m_commands->fill(menu);
    m_top->setMenu(menu);
    connect(m_commands, &Commands::refused, m_session.get(), &Session::say);
    connect(m_pictures.get(), &PictureService::ready, m_status, &StatusBar::refreshSaved);
    connect(m_boardService, &BoardService::factsChanged, this, [this] { m_status->setBuilds(m_boardService->facts()->builds); });
    connect(m_top, &TopBar::stationChosen, this, [this](int index) { showStation(stations()[size_t(index)].key); });
    connect(m_lineup, &LineupView::filledChanged, this, [this](bool filled) { m_pages->setVisible(!filled); });
    connect(m_lineup, &LineupView::paceChanged, m_status, &StatusBar::showPace);
    connect(m_pictures.get(), &PictureService::seamMeasured, m_status, &StatusBar::showSeam);
    connect(m_lineup, &LineupView::recordWanted, this, &MainWindow::record);
    ValueField::setPicker([this](ValueField* field) {
        m_lineup->pickColor([field = QPointer<ValueField>(field)](const Value& v) {
            if (field) field->take(v);
        });
    });
    connect(m_status, &StatusBar::placeWanted, this, &MainWindow::leadTo);
    connect(m_session.get(), &Session::fileChanged, this, [this] {
        setWindowTitle(QString::fromStdString(m_session->project().name) + "[*] \u2013 Hue Stack");
        setWindowModified(m_session->dirty());
    });
    connect(&m_session->projectFile(), &ProjectFile::savedElsewhere, this, [this] {
        if (m_asks) askAboutTheirs();
        else m_session->say(tr("%1 was saved by another program.").arg(QFileInfo(m_session->file()).fileName()));
    });
    m_session->setMapChecks(
        {.findings = [index = m_mapService->sharedIndex()](const Project& p,
                                                           const Assets& assets) { return mapFindings(p, assets, *index); },
         .bounds = [index = m_mapService->sharedIndex()](const Project& p, const Assets& assets,
                                                         const Id& map) { return boundsOfMap(p, assets, *index, map); }});
    connect(m_mapService.get(), &MapService::knowledgeChanged, m_session.get(), &Session::checkSoon);
    showStation(kFirstStation);
    const QSettings settings;
    resize(1280, 800);
    restoreGeometry(settings.value("window").toByteArray());
    m_splitter->restoreState(settings.value("lineupHeight").toByteArray());
}

MainWindow::~MainWindow() {
    ValueField::setPicker({});
    // Widgets that draw on the session go first, then what works for them.
    delete takeCentralWidget();
    m_session->setMapChecks({});
    m_pictures.reset();
    m_mapService.reset();
    m_livePaint.reset();
}

QString MainWindow::stationKey() const { return stations()[size_t(m_pages->currentIndex())].key; }

void MainWindow::leadTo(const Place& to) {
    for (Station* station : m_stations)
        if (station->showPlace(to)) return;
}

void MainWindow::showStation(const QString& key) {
    for (size_t i = 0; i < stations().size(); ++i) {
        if (stations()[i].key != key) continue;
        m_commands->setStation(key);
        m_pages->setCurrentIndex(int(i));
        m_top->setStation(int(i));
        sinkLineup(m_stations[i]->stripHeight());
        m_stations[i]->arrive();
    }
}

void MainWindow::sinkLineup(int height) {
    const QList<int> sizes = m_splitter->sizes();
    const int all = sizes[0] + sizes[1];
    if (m_unfolded || all <= 0) return; // folded away it stays so
    if (height > 0) {
        if (m_unsunk == 0) m_unsunk = sizes[0];
        m_splitter->setSizes({height, all - height});
    } else if (m_unsunk > 0) {
        m_splitter->setSizes({m_unsunk, all - m_unsunk});
        m_unsunk = 0;
    }
}

void MainWindow::showKeys() {
    std::map<QString, QString> names;
    for (const StationDef& def : stations()) names[def.key] = def.name;
    auto* dialog = new KeysDialog(*m_commands, names, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void MainWindow::record() {
    auto* dialog = new RecordDialog(*m_session, m_lineup->current(), m_lineup->specimen(m_lineup->current())->pictureSize(), this);
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
                              : tr("Maps are shown as their formats make them; the same key goes back."));
    m_session->tell(Change::Files);
}

void MainWindow::foldLineup() {
    const QList<int> sizes = m_splitter->sizes();
    const int all = sizes[0] + sizes[1];
    if (m_unfolded == 0) {
        m_unfolded = std::max(sizes[0], 1);
        m_lineup->setFolded(true);
        m_splitter->setSizes({m_lineup->minimumHeight(), all - m_lineup->minimumHeight()});
    } else {
        m_lineup->setFolded(false);
        m_splitter->setSizes({m_unfolded, all - m_unfolded});
        m_unfolded = 0;
    }
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
    // Where nobody can answer it stays for the next time.
    if (!m_asks) return;
    auto found = m_session->recovered();
    if (!found) return;
    QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                    tr("Hue Stack ended last time without saving %1. Bring the unsaved changes back?")
                        .arg(QString::fromStdString(m_session->project().name)),
                    QMessageBox::NoButton, this);
    QAbstractButton* bring = box.addButton(tr("Bring back"), QMessageBox::AcceptRole);
    QAbstractButton* forget = box.addButton(tr("Forget them"), QMessageBox::DestructiveRole);
    box.addButton(tr("Decide later"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == bring) m_session->takeRecovered(std::move(*found));
    else if (box.clickedButton() == forget) m_session->dropJournal();
}

void MainWindow::askAboutTheirs() {
    if (findChild<SavedElsewhere*>()) return;
    auto* dialog = new SavedElsewhere(*m_session, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

bool MainWindow::saveTo(const QString& file) {
    QString problem, code;
    if (!m_session->save(file, &problem, &code)) {
        // The question comes as soon as theirs was read.
        if (code == "project.changed-elsewhere") {
            m_session->say(problem);
            if (m_session->projectFile().theirs()) askAboutTheirs();
            return false;
        }
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
    if (m_unfolded) foldLineup();
    sinkLineup(0);
    QSettings settings;
    settings.setValue("window", saveGeometry());
    settings.setValue("lineupHeight", m_splitter->saveState());
    e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::bringIn(const QStringList& files) {
    QStringList rest;
    for (const QString& file : files) {
        if (file.endsWith(".huestack")) openFile(file);
        else if (file.endsWith(".glb") || file.endsWith(".gltf")) importFile(*m_session, file);
        else rest << file;
    }
    if (rest.isEmpty()) return;
    for (Station* station : m_stations)
        if (station->bringIn(rest)) return;
}

void MainWindow::dropEvent(QDropEvent* e) {
    QStringList files;
    for (const QUrl& url : e->mimeData()->urls()) files << url.toLocalFile();
    bringIn(files);
}

} // namespace hue
