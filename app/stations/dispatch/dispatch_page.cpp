#include "app/stations/dispatch/dispatch_page.h"

#include "app/parts/theme.h"
#include "app/stations/dispatch/sending.h"

#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QTime>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

/// What an entry stands for, among ids of what is worn: a specimen, or its decals alone.
const QString kSpecimen = "specimen ", kDecals = "decals ";
/// The index of the specimen after such a word; -1 for other entries.
int specimenOf(const QVariant& entry, const QString& kind) {
    const QString word = entry.toString();
    return word.startsWith(kind) ? word.mid(kind.size()).toInt() : -1;
}

} // namespace

DispatchPage::DispatchPage(Workplace& workplace)
    : Station(workplace, Change::Names | Change::Meshes | Change::Lineup), m_session(workplace.session) {
    Session& session = m_session;
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(20, 16, 20, 16);
    row->setSpacing(28);
    auto* left = new QVBoxLayout;
    auto* form = new QFormLayout;
    form->setVerticalSpacing(10);
    m_worn = new QComboBox;
    m_worn->setObjectName("dispatchWorn");
    m_worn->setToolTip(
        tr("A master or an instance, on a mesh of choice; or a specimen as it stands, with its paint and its decals, in maps over its "
           "own UVs for each slot; or its decals alone, cut out of its mesh, with one set of maps for all"));
    m_mesh = new QComboBox;
    m_mesh->setObjectName("dispatchMesh");
    m_uvSet = new QComboBox;
    m_uvSet->setObjectName("dispatchUvSet");
    m_uvSet->addItem(tr("first set"), 0);
    m_uvSet->addItem(tr("second set"), 1);
    m_uvSet->setToolTip(tr("UVs that lay a specimen out; the second where the first repeat"));
    m_uvSet->setEnabled(false);
    m_size = new QComboBox;
    for (int size : {256, 512, 1024, 2048, 4096}) m_size->addItem(tr("%1 x %1 pixels").arg(size), size);
    m_size->setCurrentIndex(2);
    m_size->setObjectName("dispatchSize");
    m_folder = new QLineEdit;
    m_folder->setObjectName("dispatchFolder");
    m_folder->setAccessibleName(tr("Folder"));
    m_folder->setPlaceholderText(tr("a folder for the files"));
    auto* browse = new QPushButton(tr("Choose"));
    auto* folderRow = new QHBoxLayout;
    folderRow->addWidget(m_folder, 1);
    folderRow->addWidget(browse);
    form->addRow(tr("What goes out"), m_worn);
    form->addRow(tr("On the mesh"), m_mesh);
    form->addRow(tr("Over its UVs"), m_uvSet);
    form->addRow(tr("Size of the maps"), m_size);
    form->addRow(tr("Into the folder"), folderRow);
    left->addLayout(form);
    left->addSpacing(10);
    auto* buttons = new QHBoxLayout;
    m_bake = new QPushButton(tr("Bake maps"));
    m_bake->setObjectName("bakeButton");
    m_bake->setToolTip(tr("base_color, occlusion_roughness_metallic, normal and emissive as PNG"));
    m_glb = new QPushButton(tr("Write GLB"));
    m_glb->setObjectName("glbButton");
    m_glb->setToolTip(tr("The mesh with the baked maps embedded, as glTF 2.0"));
    m_cancel = new QPushButton(tr("Cancel"));
    m_cancel->setEnabled(false);
    buttons->addWidget(m_bake);
    buttons->addWidget(m_glb);
    buttons->addWidget(m_cancel);
    buttons->addStretch();
    left->addLayout(buttons);
    m_progress = new QProgressBar;
    m_progress->setAccessibleName(tr("Progress"));
    m_progress->hide();
    left->addWidget(m_progress);
    left->addSpacing(10);
    auto* layoutNote = new QLabel(
        tr("Layout: glTF 2.0. Occlusion in red, roughness in green, metallic in blue; normals with green up; base color and emissive "
           "sRGB-encoded. Maps are baked over the unit UV square, those of a specimen over its mesh, by the CPU evaluator, from the "
           "same program that the lineup shows."));
    layoutNote->setWordWrap(true);
    layoutNote->setProperty("second", true);
    left->addWidget(layoutNote);
    left->addStretch();
    auto* holder = new QWidget;
    holder->setLayout(left);
    holder->setMaximumWidth(520);
    row->addWidget(holder, 1);
    auto* right = new QVBoxLayout;
    auto* title = new QLabel(tr("Report of the last dispatch"));
    title->setProperty("title", true);
    m_report = new QPlainTextEdit;
    m_report->setObjectName("dispatchReport");
    m_report->setReadOnly(true);
    m_report->setFont(codeFont());
    m_report->setPlaceholderText(tr("Nothing has gone out yet. Choose what, on which mesh and where to, then bake maps or write a GLB."));
    m_report->setAccessibleName(tr("Report of the last dispatch"));
    right->addWidget(title);
    right->addWidget(m_report);
    row->addLayout(right, 1);
    connect(browse, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Choose a folder"), m_folder->text());
        if (!folder.isEmpty()) m_folder->setText(folder);
    });
    connect(m_worn, &QComboBox::currentIndexChanged, this, [this] {
        const bool specimen = specimenOf(m_worn->currentData(), kSpecimen) >= 0;
        m_mesh->setEnabled(!specimen && specimenOf(m_worn->currentData(), kDecals) < 0);
        m_uvSet->setEnabled(specimen);
    });
    connect(m_bake, &QPushButton::clicked, this, [this] { run(false); });
    connect(m_glb, &QPushButton::clicked, this, [this] { run(true); });
    connect(m_cancel, &QPushButton::clicked, this, [this] { m_session.runner().cancel(this, "dispatch"); });
    connect(&session, &Session::fileChanged, this, &DispatchPage::refresh);
    // The folder of the last project is none of the next one.
    connect(&session, &Session::projectOpened, this, [this] {
        m_folder->clear();
        m_report->clear();
    });
    refresh();
}

void DispatchPage::refresh() {
    const Project& p = m_session.project();
    auto fill = [](QComboBox* box, const std::vector<std::pair<Id, std::string>>& entries) {
        const QVariant now = box->currentData();
        box->clear();
        for (const auto& [id, name] : entries) box->addItem(text(name), text(id));
        if (const int at = box->findData(now); at >= 0) box->setCurrentIndex(at);
    };
    std::vector<std::pair<Id, std::string>> worn, meshes;
    for (const auto& i : p.instances) worn.emplace_back(i->id, p.nameOf(i->id));
    for (const auto& m : p.masters) worn.emplace_back(m->id, m->name);
    for (size_t k = 0; k < p.lineup.specimens.size(); ++k) {
        const Id& mesh = p.lineup.specimens[k].mesh;
        const QString name = p.mesh(mesh) ? text(p.mesh(mesh)->name) : text(mesh).section(':', -1);
        worn.emplace_back((kSpecimen + QString::number(k)).toStdString(), tr("Specimen %1, %2").arg(k + 1).arg(name).toStdString());
        if (!p.lineup.specimens[k].decals.empty())
            worn.emplace_back((kDecals + QString::number(k)).toStdString(),
                              tr("Decals of specimen %1, %2").arg(k + 1).arg(name).toStdString());
    }
    for (const auto& m : p.meshes) meshes.emplace_back(m->id, m->name);
    for (const auto& [id, name] : shapes()) meshes.emplace_back(id, name);
    fill(m_worn, worn);
    fill(m_mesh, meshes);
    if (m_folder->text().isEmpty() && !m_session.file().isEmpty())
        m_folder->setText(QFileInfo(m_session.file()).absolutePath() + "/dispatch");
}

void DispatchPage::showEvent(QShowEvent*) {
    const Id target = m_session.target();
    m_worn->setCurrentIndex(std::max(0, m_worn->findData(text(target))));
    for (const Specimen& s : m_session.project().lineup.specimens)
        if (std::find(s.wears.begin(), s.wears.end(), target) != s.wears.end())
            return m_mesh->setCurrentIndex(std::max(0, m_mesh->findData(text(s.mesh))));
}

void DispatchPage::run(bool glb) {
    const QString folder = m_folder->text().trimmed();
    if (folder.isEmpty()) return m_session.say(tr("Choose a folder for the files first."));
    if (m_worn->currentIndex() < 0) return m_session.say(tr("There is nothing to send out yet."));
    if (!QDir().mkpath(folder)) return m_session.say(tr("The folder %1 cannot be made. Choose another.").arg(folder));
    for (QPushButton* b : {m_bake, m_glb}) b->setEnabled(false);
    m_cancel->setEnabled(true);
    m_progress->setValue(0);
    m_progress->show();
    const Project& project = m_session.project();
    const int decals = specimenOf(m_worn->currentData(), kDecals),
              specimen = std::max(decals, specimenOf(m_worn->currentData(), kSpecimen));
    Sending what{.what = decals >= 0     ? Sending::What::Decals
                         : specimen >= 0 ? Sending::What::Specimen
                                         : Sending::What::Worn,
                 .glb = glb,
                 .worn = m_worn->currentData().toString().toStdString(),
                 .mesh = m_mesh->currentData().toString().toStdString(),
                 .size = m_size->currentData().toInt(),
                 .uvSet = m_uvSet->currentData().toInt(),
                 .time = m_session.time(),
                 .file = {}};
    if (specimen >= 0) what.specimen = project.lineup.specimens[size_t(specimen)];
    QString base = specimen < 0 ? text(project.nameOf(what.worn)).toLower() : m_worn->currentText().toLower().remove(',');
    base.replace('/', "_").replace(' ', "_");
    what.file = (folder + "/" + base).toStdString();
    m_session.runner().run(
        {.owner = this,
         .kind = "dispatch",
         .pace = Pace::Long,
         .outlives = true,
         .progress = [this](float part) { m_progress->setValue(int(part * 100)); }},
        [what, snapshot = m_session.snapshot(), files = m_session.files()](const Work& work) {
            return send(*snapshot, files->assets, what, work);
        },
        [this](const Sent& sent) { done(sent.ok, sent.lines); });
}

void DispatchPage::projectChanged(Changes) { refresh(); }

bool DispatchPage::busy() const { return m_session.runner().running(this, "dispatch"); }

void DispatchPage::done(bool ok, const QStringList& lines) {
    for (QPushButton* b : {m_bake, m_glb}) b->setEnabled(true);
    m_cancel->setEnabled(false);
    m_progress->hide();
    m_report->setPlainText(QTime::currentTime().toString("HH:mm:ss") + (ok ? tr(" done\n") : tr(" not done\n")) + lines.join('\n'));
    Q_EMIT finished(ok);
}

} // namespace hue
