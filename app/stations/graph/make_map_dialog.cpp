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

namespace hue {

MakeMapDialog::MakeMapDialog(Session& session, MapService& service, const Source& wire, QWidget* parent)
    : QDialog(parent), m_session(session), m_service(service), m_wire(wire) {
    m_wire.take.clear();
    setWindowTitle(tr("Make a map of the wire"));
    auto* form = new QFormLayout(this);
    const Master& master = *session.master();
    const Node* node = master.graph.find(wire.node);
    const std::string title = node ? cardTitle(session.project(), master, *node) : "map";
    m_name = new QLineEdit(QString::fromStdString(node && node->title.empty() ? master.name + " " + title : title).toLower());
    form->addRow(tr("Name"), m_name);
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
    m_replace = new QCheckBox(tr("what reads the wire reads the map instead"));
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

/// What the master costs now, and would with the map in the wire's place.
void MakeMapDialog::estimate() {
    const Project& p = m_session.project();
    const Master& master = *m_session.master();
    const Compilation tap = compileTap(p, master, m_wire);
    const int32_t value = tap.program->output("tap");
    m_width = value >= 0 ? tap.program->code[size_t(value)].width : 1;
    const int side = m_size->currentData().toInt();
    const double more = double(cardBytes({}, side, side, m_width, SampleType(m_samples->currentData().toInt()))) / 1e6;
    MapFile map;
    map.id = "estimate";
    map.name = "estimate";
    Project with = p;
    with.maps.push_back(std::make_shared<MapFile>(map));
    const auto replaced = edit::replaceByMap(with, master.id, m_wire, m_width, map.id);
    if (!replaced) {
        m_replace->setChecked(false);
        m_replace->setEnabled(false);
        return m_said->setText(tr("It takes %1 MB. %2").arg(more, 0, 'f', 2).arg(QString::fromStdString(replaced.error().sentence)));
    }
    const auto costOfMaster = [](const Project& project, const Master& m) {
        const Compilation compiled = compileSurface(project, m);
        return costOf(*compiled.program, compiled.offset.get(), {});
    };
    const Cost before = costOfMaster(p, master), after = costOfMaster(*replaced, *replaced->master(master.id));
    m_said->setText(tr("In its place it saves %1 of %2 operations a pixel, for %5 MB of map; fetches are %3 instead of %4.")
                        .arg(before.operationsPerPixel() - after.operationsPerPixel())
                        .arg(before.operationsPerPixel())
                        .arg(after.fetches)
                        .arg(before.fetches)
                        .arg(more, 0, 'f', 2));
}

void MakeMapDialog::accept() {
    MapFile map;
    map.id = newId('t');
    std::vector<std::string> names;
    for (const auto& m : m_session.project().maps) names.push_back(m->name);
    map.name = freeName(names, m_name->text().trimmed().isEmpty() ? "map" : m_name->text().trimmed().toStdString());
    map.origin.from = MapOrigin::From::Wire;
    map.origin.worn = m_session.target();
    map.origin.wire = m_wire;
    map.origin.width = map.origin.height = m_size->currentData().toInt();
    map.origin.type = SampleType(m_samples->currentData().toInt());
    map.origin.seamless = m_seamless->isChecked();
    m_service.makeFromWire(map, m_replace->isChecked(), m_width);
    QDialog::accept();
}

} // namespace hue
