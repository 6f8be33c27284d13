#include "app/stations/graph/make_map_dialog.h"

#include "core/compile/compile.h"
#include "core/compress/block_format.h"
#include "core/cost/cost.h"
#include "core/document/names.h"
#include "core/edits/edits.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <optional>

namespace hue {

MakeMapDialog::MakeMapDialog(Session& session, MapService& service, std::vector<Source> wires, QWidget* parent)
    : QDialog(parent), m_session(session), m_service(service), m_wires(std::move(wires)) {
    setWindowTitle(m_wires.size() == 1 ? tr("Make a map of the wire") : tr("Make maps of %1 wires").arg(m_wires.size()));
    auto* form = new QFormLayout(this);
    const Master& master = *session.master();
    for (Source& wire : m_wires) {
        wire.take.clear();
        const Node* node = master.graph.find(wire.node);
        std::string title = node ? cardTitle(session.project(), master, *node) : "map";
        auto* name = new QLineEdit(QString::fromStdString(node && node->title.empty() ? master.name + " " + title : title).toLower());
        name->setObjectName(QString("makeName%1").arg(m_names.size()));
        name->setAccessibleName(tr("Name of the map of %1").arg(QString::fromStdString(title)));
        form->addRow(m_wires.size() == 1 ? tr("Name") : QString::fromStdString(title), name);
        m_names.push_back(name);
    }
    m_size = new QComboBox;
    m_size->setObjectName("makeSize");
    for (int s : {64, 128, 256, 512, 1024, 2048, 4096, 8192}) m_size->addItem(tr("%1 x %1 pixels").arg(s), s);
    m_size->setCurrentIndex(4);
    form->addRow(tr("Size"), m_size);
    m_samples = new QComboBox;
    for (SampleType t : {SampleType::U8, SampleType::U16, SampleType::F16, SampleType::F32})
        m_samples->addItem(QString::fromUtf8(nameOf(t).data(), qsizetype(nameOf(t).size())), int(t));
    form->addRow(tr("Samples"), m_samples);
    m_seamless = new QCheckBox(tr("make its edges meet"));
    m_seamless->setToolTip(tr("Needed where the wire does not repeat after one UV unit; noises have a seamless form of their own"));
    form->addRow(m_seamless);
    m_replace = new QCheckBox(m_wires.size() == 1 ? tr("what reads the wire reads the map instead")
                                                  : tr("what reads the wires reads the maps instead"));
    m_replace->setObjectName("makeReplace");
    m_replace->setChecked(true);
    form->addRow(m_replace);
    m_said = new QLabel;
    m_said->setWordWrap(true);
    m_said->setObjectName("makeSaid");
    form->addRow(m_said);
    auto* buttons = new QDialogButtonBox;
    auto* make = buttons->addButton(tr("Make"), QDialogButtonBox::AcceptRole);
    make->setObjectName("makeButton");
    buttons->addButton(tr("Go back"), QDialogButtonBox::RejectRole);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &MakeMapDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(m_size, &QComboBox::activated, this, &MakeMapDialog::estimate);
    connect(m_samples, &QComboBox::activated, this, &MakeMapDialog::estimate);
    estimate();
}

/// What the master costs now, and would with the maps in the wires' places.
void MakeMapDialog::estimate() {
    const Project& p = m_session.project();
    const Master& master = *m_session.master();
    const int side = m_size->currentData().toInt();
    double more = 0;
    m_widths.clear();
    Project with = p;
    std::optional<Error> problem;
    int replacedOnes = 0;
    for (size_t k = 0; k < m_wires.size(); ++k) {
        const Compilation tap = compileTap(p, master, m_wires[k]);
        const int32_t value = tap.program->output("tap");
        m_widths.push_back(value >= 0 ? tap.program->code[size_t(value)].width : 1);
        more += double(cardBytes({}, side, side, m_widths[k], SampleType(m_samples->currentData().toInt()))) / 1e6;
        MapFile map;
        map.id = map.name = "estimate" + std::to_string(k);
        with.maps.push_back(std::make_shared<MapFile>(map));
        Result<Project> replaced = edit::replaceByMap(with, master.id, m_wires[k], m_widths[k], map.id);
        if (replaced) with = std::move(*replaced), ++replacedOnes;
        else if (!problem) problem = replaced.error();
    }
    if (!replacedOnes) {
        m_replace->setChecked(false);
        m_replace->setEnabled(false);
        return m_said->setText((m_wires.size() == 1 ? tr("It takes %1 MB. %2") : tr("They take %1 MB. %2"))
                                   .arg(more, 0, 'f', 2)
                                   .arg(QString::fromStdString(problem->sentence)));
    }
    const auto costOfMaster = [](const Project& project, const Master& m) {
        const Compilation compiled = compileSurface(project, m);
        return costOf(*compiled.program, compiled.offset.get(), {});
    };
    const Cost before = costOfMaster(p, master), after = costOfMaster(with, *with.master(master.id));
    m_said->setText((m_wires.size() == 1
                         ? tr("In its place it saves %1 of %2 operations a pixel, for %5 MB of map; fetches are %3 instead of %4.")
                         : tr("In their places they save %1 of %2 operations a pixel, for %5 MB of maps; fetches are %3 instead of %4."))
                        .arg(before.operationsPerPixel() - after.operationsPerPixel())
                        .arg(before.operationsPerPixel())
                        .arg(after.fetches)
                        .arg(before.fetches)
                        .arg(more, 0, 'f', 2));
}

void MakeMapDialog::accept() {
    std::vector<std::string> names;
    for (const auto& m : m_session.project().maps) names.push_back(m->name);
    std::vector<MapService::WireMap> wanted;
    for (size_t k = 0; k < m_wires.size(); ++k) {
        MapFile map;
        map.id = newId('t');
        const QString typed = m_names[k]->text().trimmed();
        map.name = freeName(names, typed.isEmpty() ? "map" : typed.toStdString());
        names.push_back(map.name);
        map.origin.from = MapOrigin::From::Wire;
        map.origin.worn = m_session.target();
        map.origin.wire = m_wires[k];
        map.origin.width = map.origin.height = m_size->currentData().toInt();
        map.origin.type = SampleType(m_samples->currentData().toInt());
        map.origin.seamless = m_seamless->isChecked();
        wanted.push_back({std::move(map), m_widths[k]});
    }
    m_service.makeFromWires(wanted, m_replace->isChecked());
    QDialog::accept();
}

} // namespace hue
