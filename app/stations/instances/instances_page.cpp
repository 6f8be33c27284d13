#include "app/stations/instances/instances_page.h"

#include "app/parts/theme.h"
#include "app/session/new_instance.h"
#include "app/stations/instances/affected_panel.h"
#include "app/stations/instances/parent_dialog.h"
#include "app/stations/instances/variations_dialog.h"
#include "core/base/files.h"
#include "core/edits/edits.h"
#include "core/instances/instance_csv.h"
#include "core/instances/variations.h"
#include "preview/lineup_pictures.h"
#include "preview/worn_pictures.h"

#include <QFile>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollBar>
#include <QShortcut>
#include <QVBoxLayout>
#include <set>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

// Places of the picture service beyond those of the lineup.
constexpr int kFirstPlace = 1000;

} // namespace

InstancesPage::InstancesPage(Workplace& workplace)
    : Station(workplace, kInstanceRows | Change::Files | Change::Camera), m_session(workplace.session), m_pictures(workplace.pictures) {
    Session& session = m_session;
    PictureService& pictures = m_pictures;
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 10, 12, 10);
    auto* bar = new QHBoxLayout;
    auto button = [&](const QString& name, const QString& tip, auto action) {
        auto* b = new QPushButton(name);
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, action);
        bar->addWidget(b);
        return b;
    };
    QPushButton* fresh = button(tr("New instance"), {}, [this] {
        newInstance(m_session, this, QCursor::pos(), m_model->idAt(m_table->currentIndex()), [this](const Id& made) { select(made); });
    });
    workplace.commands.explain(fresh, "instance.new", tr("A child of the chosen row"));
    button(tr("Own copy"), tr("A sibling with the same own values"), [this] {
        const Instance* from = m_session.project().instance(m_model->idAt(m_table->currentIndex()));
        if (!from) return m_session.say(tr("Choose an instance to copy."));
        Instance i = *from;
        i.id = newId('i');
        const Id id = i.id;
        if (m_session.apply(tr("copy instance"), [&](const Project& p) { return edit::addInstance(p, i); })) select(id);
    });
    QPushButton* giveBack =
        button(tr("Return value"), tr("Give the chosen cells back to what is inherited (Delete)"), [this] { m_table->giveBack(); });
    button(tr("Remove"), tr("Remove the chosen instances; their children go to their parents"), [this] {
        const std::vector<Id> chosen = m_table->chosenInstances();
        if (chosen.empty()) return m_session.say(tr("Choose an instance to remove."));
        m_session.apply(tr("remove instances"), [&](const Project& p) {
            Result<Project> next = p;
            for (const Id& id : chosen)
                if (next) next = edit::removeInstance(*next, id);
            return next;
        });
    });
    auto* more = new QPushButton(tr("More"));
    more->setObjectName("instanceMore");
    more->setToolTip(tr("Parents, tables for spreadsheets, what goes up and down"));
    auto* menu = new QMenu(more);
    more->setMenu(menu);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] { fillMore(menu); });
    bar->addWidget(more);
    m_affectedButton = new QPushButton(tr("Affected"));
    m_affectedButton->setObjectName("affectedButton");
    m_affectedButton->setCheckable(true);
    workplace.commands.explain(m_affectedButton, "instance.affected", tr("Who looks different from what was saved, and by how much"));
    connect(m_affectedButton, &QPushButton::toggled, this, [this](bool on) { m_affected->setVisible(on); });
    bar->addWidget(m_affectedButton);
    bar->addStretch();
    const auto line = [&](const char* object, const QString& name, const QString& placeholder, const QString& tip) {
        auto* l = new QLineEdit;
        l->setObjectName(object);
        l->setAccessibleName(name);
        l->setPlaceholderText(placeholder);
        l->setToolTip(tip);
        l->setClearButtonEnabled(true);
        l->setFixedWidth(190);
        bar->addWidget(l);
        return l;
    };
    m_filter = line("instanceFilter", tr("Filter"), tr("filter"),
                    tr("Rows that hold these words; \"own\": with values of their own; \"unworn\": that nobody wears; \"locked\"; \"out of "
                       "range\": beyond a slider"));
    m_words = line("instanceWords", tr("Value for the chosen cells"), tr("value, *1.1, +0.05"),
                   tr("A value for all chosen cells, or arithmetic on what each has: *1.1, /2, +0.05, +-0.05. Enter writes."));
    column->addLayout(bar);
    m_model = new InstanceModel(session, this);
    m_table = new InstanceTable(session, m_model);
    m_affected = new AffectedPanel(session, pictures);
    m_affected->hide();
    auto* middle = new QHBoxLayout;
    middle->setSpacing(8);
    middle->addWidget(m_table, 1);
    middle->addWidget(m_affected);
    column->addLayout(middle, 1);
    connect(m_affected, &AffectedPanel::chosen, this, &InstancesPage::select);
    connect(m_affected, &AffectedPanel::counted, this,
            [this](int affected) { m_affectedButton->setText(affected ? tr("Affected: %1").arg(affected) : tr("Affected")); });
    m_hintWords = tr("Drag a row on a specimen to wear it. Bold values are its own, the others are inherited.");
    m_hint = new QLabel(m_hintWords);
    m_hint->setObjectName("instanceHint");
    auto* stop = new QShortcut(QKeySequence(Qt::Key_Escape), this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
    connect(stop, &QShortcut::activated, this, [this] {
        if (!m_session.runner().running(this, "sheet")) return;
        m_session.runner().cancel(this, "sheet");
        m_hint->setText(m_hintWords);
        m_session.say(tr("The contact sheet was not written."));
    });
    m_hint->setProperty("second", true);
    column->addWidget(m_hint);
    connect(m_filter, &QLineEdit::textChanged, m_table, &InstanceTable::setFilter);
    m_soon.setSingleShot(true);
    m_soon.setInterval(80);
    connect(&m_soon, &QTimer::timeout, this, &InstancesPage::requestPictures);
    connect(m_table->verticalScrollBar(), &QScrollBar::valueChanged, &m_soon, qOverload<>(&QTimer::start));
    connect(m_table, &QTreeView::expanded, &m_soon, qOverload<>(&QTimer::start));
    connect(m_filter, &QLineEdit::textChanged, &m_soon, qOverload<>(&QTimer::start));
    connect(m_words, &QLineEdit::returnPressed, this, [this] {
        if (m_words->text().trimmed().isEmpty() || !m_table->write(m_words->text().trimmed())) return;
        m_words->clear();
        m_table->setFocus();
    });
    m_table->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(m_table, &QWidget::customContextMenuRequested, this, [this](const QPoint& at) {
        auto* under = new QMenu(this);
        under->setAttribute(Qt::WA_DeleteOnClose);
        fillMore(under);
        under->popup(m_table->viewport()->mapToGlobal(at));
    });
    auto* remove = new QShortcut(QKeySequence(Qt::Key_Delete), m_table, nullptr, nullptr, Qt::WidgetShortcut);
    connect(remove, &QShortcut::activated, giveBack, &QPushButton::click);
    auto layOut = [this] {
        m_table->expandAll();
        for (int c = 0; c < m_model->columnCount(); ++c)
            m_table->setColumnWidth(c, c == 0 ? 230 : c == 1 ? 130 : c < InstanceModel::FirstParameter ? 66 : 116);
        m_table->setFilter(m_table->filter());
    };
    connect(m_model, &QAbstractItemModel::modelReset, this, layOut);
    layOut();
    connect(&pictures, &PictureService::ready, this, [this](int place, const FinishedPicture& finished) {
        const int at = place - kFirstPlace;
        if (at >= 0 && at < int(m_pictured.size()) && !finished.picture.isNull())
            m_model->setPicture(m_pictured[size_t(at)], finished.picture);
    });
    connect(m_table->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& now) {
        if (now.isValid()) m_session.setTarget(m_model->idAt(now));
    });
}

void InstancesPage::arrive() { m_table->setFocus(); }

void InstancesPage::projectChanged(Changes) { requestPictures(); }

void InstancesPage::fillMore(QMenu* menu) {
    menu->clear();
    const bool instance = m_session.project().instance(m_model->idAt(m_table->currentIndex()));
    menu->addAction(tr("Copy values"), m_table, &InstanceTable::copy);
    menu->addAction(tr("Paste values"), m_table, &InstanceTable::paste);
    menu->addAction(tr("Fill down"), m_table, &InstanceTable::fillDown);
    menu->addSeparator();
    menu->addAction(tr("Give the value to the parent"), m_table, &InstanceTable::pushUp)->setEnabled(instance);
    menu->addAction(tr("Let all below inherit it"), m_table, &InstanceTable::pullDown);
    menu->addAction(tr("Another parent\u2026"), this, &InstancesPage::chooseParent)->setEnabled(instance);
    menu->addSeparator();
    const std::vector<Id> chosen = m_table->chosenInstances();
    const auto isLocked = [this](const Id& id) { return m_session.project().instance(id)->locked; };
    const bool allLocked = !chosen.empty() && std::all_of(chosen.begin(), chosen.end(), isLocked);
    menu->addAction(allLocked ? tr("Unlock") : tr("Lock"), m_table, &InstanceTable::lockOrUnlock)->setEnabled(!chosen.empty());
    menu->addAction(tr("Tags\u2026"), this, &InstancesPage::askTags)->setEnabled(!chosen.empty());
    menu->addAction(tr("Note\u2026"), this, &InstancesPage::askNote)->setEnabled(instance);
    menu->addSeparator();
    fillColumns(menu->addMenu(tr("Columns")));
    menu->addAction(tr("Order by this column"), m_table, &InstanceTable::sortByCursor);
    menu->addSeparator();
    menu->addAction(tr("Show in the lineup"), this, &InstancesPage::showInLineup)
        ->setToolTip(tr("The chosen rows side by side, on the first specimen's mesh; undo brings the lineup back"));
    menu->addAction(tr("Variations\u2026"), this, &InstancesPage::makeVariations)
        ->setToolTip(tr("Many children of the chosen row, that vary some values within ranges"));
    menu->addAction(tr("One for each map set"), this, &InstancesPage::makeForSets)
        ->setToolTip(tr("Children of the chosen row, each with the maps of one set"));
    menu->addAction(tr("Contact sheet\u2026"), this, &InstancesPage::askSheet)
        ->setToolTip(tr("The chosen rows as one picture, each with its name; of one row, it and all below"));
    menu->addAction(tr("Bring in a table\u2026"), this, &InstancesPage::bringTable)
        ->setToolTip(tr("A CSV file with values of this master's instances"));
    menu->addAction(tr("Write a table\u2026"), this, &InstancesPage::writeTable)
        ->setToolTip(tr("Values of this master's instances as a CSV file"));
}

void InstancesPage::fillColumns(QMenu* menu) {
    const Master* master = m_model->masterAt(m_table->currentIndex());
    QAction* only = menu->addAction(tr("Only what differs"), this, [this] { m_model->setOnlyDifferent(!m_model->onlyDifferent()); });
    only->setCheckable(true);
    only->setChecked(m_model->onlyDifferent());
    menu->addAction(tr("All"), this, [this] {
        m_model->setOnlyDifferent(false);
        m_model->setHidden({});
    });
    menu->addSeparator();
    if (!master) return;
    for (const Parameter& p : master->parameters) {
        QAction* column =
            menu->addAction(p.group.empty() ? text(p.name) : tr("%1: %2").arg(text(p.group), text(p.name)), this, [this, id = p.id] {
                std::set<Id> hidden = m_model->hidden();
                if (!hidden.erase(id)) hidden.insert(id);
                m_model->setHidden(std::move(hidden));
            });
        column->setCheckable(true);
        column->setChecked(!m_model->hidden().contains(p.id));
    }
}

void InstancesPage::askTags() {
    const std::vector<Id> chosen = m_table->chosenInstances();
    if (chosen.empty()) return m_session.say(tr("Choose instances."));
    QStringList now;
    for (const std::string& tag : m_session.project().instance(chosen[0])->tags) now << text(tag);
    bool done = false;
    const QString words = QInputDialog::getText(
        this, tr("Tags"), tr("Words to find %1 by, with commas between:").arg(counted(int(chosen.size()), tr("instance"), tr("instances"))),
        QLineEdit::Normal, now.join(", "), &done);
    if (!done) return;
    std::vector<std::string> tags;
    for (const QString& tag : words.split(',')) tags.push_back(tag.toStdString());
    m_session.apply(tr("tags"), [&](const Project& p) { return edit::setTags(p, chosen, tags); });
}

void InstancesPage::askNote() {
    const Instance* i = m_session.project().instance(m_model->idAt(m_table->currentIndex()));
    if (!i) return m_session.say(tr("Choose an instance."));
    bool done = false;
    const QString note = QInputDialog::getMultiLineText(this, tr("Note"), tr("About %1:").arg(text(i->name)), text(i->note), &done);
    if (done) m_session.apply(tr("note"), [&, id = i->id](const Project& p) { return edit::setNote(p, id, note.toStdString()); });
}

void InstancesPage::chooseParent() {
    const Id id = m_model->idAt(m_table->currentIndex());
    if (!m_session.project().instance(id)) return m_session.say(tr("Choose an instance."));
    ParentDialog dialog(m_session, id, this);
    if (dialog.exec() != QDialog::Accepted) return;
    if (m_session.apply(tr("another parent"), [&](const Project& p) { return edit::changeParent(p, id, dialog.parentId()); })) select(id);
}

void InstancesPage::makeVariations() {
    const Id of = m_model->idAt(m_table->currentIndex());
    if (!m_session.project().masterOf(of)) return m_session.say(tr("Choose a row that the instances are to derive from."));
    VariationsDialog dialog(m_session, of, this);
    if (dialog.exec() != QDialog::Accepted) return;
    const Result<Variations> wanted = dialog.variations();
    if (!wanted) return m_session.say(text(wanted.error().sentence));
    std::vector<Id> made;
    if (m_session.apply(tr("make variations"), [&](const Project& p) { return withVariations(p, *wanted, &made); })) select(made[0]);
}

void InstancesPage::showInLineup() {
    // As many as the strip shows.
    constexpr size_t kMost = 6;
    std::vector<Id> chosen = m_table->chosenRows();
    if (chosen.size() > kMost) chosen.resize(kMost);
    if (chosen.empty()) return m_session.say(tr("Choose rows: click one, and with Shift the last of several."));
    m_session.apply(tr("show in the lineup"), [&](const Project& p) {
        Lineup lineup = p.lineup;
        Specimen bare;
        if (!lineup.specimens.empty()) bare.mesh = lineup.specimens[0].mesh;
        lineup.specimens.clear();
        for (const Id& id : chosen) {
            bare.wears = {id};
            lineup.specimens.push_back(bare);
        }
        return edit::setLineup(p, lineup);
    });
}

void InstancesPage::askSheet() {
    if (m_session.runner().running(this, "sheet")) return m_session.runner().cancel(this, "sheet");
    std::vector<Id> worn = m_table->chosenRows();
    if (worn.empty()) return m_session.say(tr("Choose rows: click one, and with Shift the last of several."));
    if (worn.size() == 1)
        for (const InstancePtr& i : m_session.project().instances)
            for (const Instance* above : m_session.project().chainOf(i->id))
                if (i->id != worn[0] && (above->id == worn[0] || above->parent == worn[0])) {
                    worn.push_back(i->id);
                    break;
                }
    const QString file = QFileDialog::getSaveFileName(this, tr("Contact sheet of %1").arg(counted(int(worn.size()), tr("row"), tr("rows"))),
                                                      "sheet.png", tr("Pictures (*.png)"));
    if (!file.isEmpty()) writeSheet(worn, file);
}

void InstancesPage::writeSheet(const std::vector<Id>& worn, const QString& file) {
    const SheetLayout layout{int(worn.size()), 0, 192};
    m_session.runner().run(
        {.owner = this,
         .kind = "sheet",
         .pace = Pace::Long,
         .progress = [this](float share) { m_hint->setText(tr("Contact sheet: %1 %, Esc stops it").arg(int(share * 100))); }},
        [=, snapshot = m_session.snapshot(), files = m_session.files()](const Work& work) -> Outcome {
            const auto pictures = WornPictures::start(*snapshot, files->assets);
            if (!pictures) return pictures.error();
            (*pictures)->samples = 4;
            const Result<std::vector<uint8_t>> made = (*pictures)->sheet(worn, layout, work);
            if (!made) return made.error();
            return writeScreenPicture(file.toStdString(), *made, layout.width(), layout.height());
        },
        [this, file](const Outcome& written) {
            m_hint->setText(m_hintWords);
            m_session.say(written ? tr("Wrote %1.").arg(file) : text(written.error().sentence));
        });
}

void InstancesPage::makeForSets() {
    const Id of = m_model->idAt(m_table->currentIndex());
    std::vector<Id> made;
    if (m_session.apply(tr("one for each map set"), [&](const Project& p) { return withMapSets(p, of, &made); })) select(made[0]);
}

void InstancesPage::bringTable() {
    const Master* master = m_session.project().masterOf(m_model->idAt(m_table->currentIndex()));
    if (!master) return m_session.say(tr("Choose a row of the master whose instances the table is of."));
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Values of %1").arg(text(master->name)), {}, tr("Tables (*.csv *.tsv *.txt)"));
    if (file.isEmpty()) return;
    std::string words;
    if (QFile in(file); in.open(QIODevice::ReadOnly)) words = in.readAll().toStdString();
    else return m_session.say(tr("%1 cannot be read: %2.").arg(file, in.errorString()));
    CsvRead read;
    const bool done = m_session.apply(tr("bring in a table"), [&, id = master->id](const Project& p) -> Result<Project> {
        Result<CsvRead> with = withInstanceCsv(p, *p.master(id), words);
        if (!with) return with.error();
        read = std::move(*with);
        return read.project;
    });
    if (!done) return;
    QString said = counted(int(read.values), tr("value changed"), tr("values changed"));
    if (!read.added.empty()) said += tr(", %1 new").arg(read.added.size());
    if (!read.moved.empty()) said += tr(", %1 with another parent").arg(read.moved.size());
    m_session.say(said + (read.cautions.empty() ? tr(".") : tr(". %1").arg(text(read.cautions[0]))));
}

void InstancesPage::writeTable() {
    const Master* master = m_session.project().masterOf(m_model->idAt(m_table->currentIndex()));
    if (!master) return m_session.say(tr("Choose a row of the master whose instances are to be written."));
    const QString file =
        QFileDialog::getSaveFileName(this, tr("Values of %1").arg(text(master->name)), text(master->name) + ".csv", tr("Tables (*.csv)"));
    if (file.isEmpty()) return;
    const Outcome written = writeFile(file.toStdString(), instanceCsv(m_session.project(), *master));
    m_session.say(written ? tr("Wrote %1.").arg(file) : text(written.error().sentence));
}

void InstancesPage::addCommands() {
    const auto add = [this](const char* id, const QString& name, const QList<QKeySequence>& keys, void (InstanceTable::*act)()) {
        place().commands.add(
            {.id = id, .text = name, .menu = tr("Edit"), .keys = keys, .where = {"instances"}, .act = [this, act] { (m_table->*act)(); }});
    };
    place().commands.add({.id = "instance.copy",
                          .text = tr("Copy values"),
                          .menu = tr("Edit"),
                          .keys = QKeySequence::keyBindings(QKeySequence::Copy),
                          .where = {"instances"},
                          .act = [this] { m_table->copy(); }});
    add("instance.paste", tr("Paste values"), QKeySequence::keyBindings(QKeySequence::Paste), &InstanceTable::paste);
    add("instance.fill-down", tr("Fill down"), {QKeySequence("Ctrl+D")}, &InstanceTable::fillDown);
    place().commands.add({.id = "instance.show",
                          .text = tr("Show the chosen in the lineup"),
                          .menu = tr("View"),
                          .keys = {QKeySequence("Ctrl+Shift+L")},
                          .where = {"instances"},
                          .act = [this] { showInLineup(); }});
    add("instance.lock", tr("Lock or unlock"), {QKeySequence("Ctrl+L")}, &InstanceTable::lockOrUnlock);
    add("instance.order", tr("Order by this column"), {QKeySequence("Ctrl+Shift+O")}, &InstanceTable::sortByCursor);
    place().commands.add({.id = "instance.affected",
                          .text = tr("Who is affected by unsaved changes"),
                          .menu = tr("View"),
                          .keys = {QKeySequence("Ctrl+Shift+A")},
                          .where = {"instances"},
                          .act = [this] { m_affectedButton->toggle(); }});
    place().commands.add({.id = "instance.tags",
                          .text = tr("Tags\u2026"),
                          .menu = tr("Edit"),
                          .keys = {QKeySequence("Ctrl+T")},
                          .where = {"instances"},
                          .act = [this] { askTags(); }});
    place().commands.add({.id = "instance.filter",
                          .text = tr("Filter"),
                          .menu = tr("Edit"),
                          .keys = QKeySequence::keyBindings(QKeySequence::Find),
                          .where = {"instances"},
                          .act = [this] { m_filter->setFocus(), m_filter->selectAll(); }});
    place().commands.add({.id = "instance.words",
                          .text = tr("Value for the chosen cells"),
                          .menu = tr("Edit"),
                          .keys = {QKeySequence("Ctrl+E")},
                          .where = {"instances"},
                          .act = [this] { m_words->setFocus(), m_words->selectAll(); }});
    place().commands.add(
        {.id = "instance.rename", .text = tr("Rename"), .menu = tr("Edit"), .keys = {Qt::Key_F2}, .where = {"instances"}, .act = [this] {
             m_table->edit(m_table->currentIndex());
         }});
}

void InstancesPage::showEvent(QShowEvent*) {
    // Coming here changes nothing of what is being tuned.
    select(m_session.target());
    m_soon.start();
}

void InstancesPage::resizeEvent(QResizeEvent*) { m_soon.start(); }

void InstancesPage::requestPictures() {
    if (!isVisible()) return;
    const Project& p = m_session.project();
    m_pictured = m_model->rows();
    static quint64 serial = 0;
    // Of those that are seen; others when they are scrolled to.
    std::set<Id> seen;
    const int bottom = m_table->viewport()->height();
    for (QModelIndex row = m_table->indexAt({0, 0}); row.isValid() && m_table->visualRect(row).top() < bottom;
         row = m_table->indexBelow(row))
        seen.insert(m_model->idAt(row));
    for (size_t i = 0; i < m_pictured.size(); ++i) {
        if (!seen.contains(m_pictured[i])) continue;
        PictureRequest r;
        r.files = m_session.files();
        r.snapshot = m_session.snapshot();
        r.specimen.wears = {m_pictured[i]};
        r.settings = settingsFor(p, r.specimen, m_session.lights(), m_session.assets().folder(), false);
        r.settings.view = 0;
        r.settings.backdrop = Backdrop::Surround;
        r.settings.width = r.settings.height = 30;
        r.settings.camera = p.lineup.orbit;
        r.settings.camera.standOff = 0.8f;
        r.settings.camera.panX = r.settings.camera.panY = 0;
        r.time = m_session.time();
        r.serial = ++serial;
        m_pictures.request(kFirstPlace + int(i), std::move(r));
    }
}

void InstancesPage::select(const Id& id) {
    const QModelIndex at = m_model->indexOf(id);
    m_table->setCurrentIndex(at);
    m_table->scrollTo(at);
}

} // namespace hue
