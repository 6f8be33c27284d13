#include "app/stations/instances/parent_dialog.h"

#include "core/document/lineage.h"
#include "core/edits/edits.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

ParentDialog::ParentDialog(Session& session, const Id& instance, QWidget* parent)
    : QDialog(parent), m_session(session), m_instance(instance) {
    const Project& p = session.project();
    setWindowTitle(tr("Another parent for %1").arg(text(p.nameOf(instance))));
    auto* column = new QVBoxLayout(this);
    m_parents = new QComboBox;
    m_parents->setObjectName("parents");
    m_parents->setAccessibleName(tr("Parent"));
    m_parents->setToolTip(tr("A master, or an instance that does not derive from this one"));
    const std::vector<const Master*> masters = mastersOfInstances(p);
    for (const MasterPtr& m : p.masters) {
        m_parents->addItem(text(m->name), text(m->id));
        for (size_t k = 0; k < masters.size(); ++k) {
            if (masters[k] != m.get()) continue;
            const Instance& offered = *p.instances[k];
            const std::vector<const Instance*> chain = p.chainOf(offered.id);
            const bool below = std::any_of(chain.begin(), chain.end(), [&](const Instance* above) { return above->id == instance; });
            if (!below) m_parents->addItem(text(m->name + "/" + offered.name), text(offered.id));
        }
    }
    column->addWidget(m_parents);
    m_said = new QLabel;
    m_said->setObjectName("parentSaid");
    m_said->setWordWrap(true);
    m_said->setMinimumSize(360, 120);
    m_said->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(m_said);
    auto* buttons = new QDialogButtonBox;
    m_take = buttons->addButton(tr("Take this parent"), QDialogButtonBox::AcceptRole);
    buttons->addButton(tr("Go back"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    connect(m_parents, &QComboBox::currentIndexChanged, this, &ParentDialog::tell);
    m_parents->setCurrentIndex(m_parents->findData(text(p.instance(instance)->parent)));
    tell();
}

Id ParentDialog::parentId() const { return m_parents->currentData().toString().toStdString(); }

void ParentDialog::tell() {
    const Project& p = m_session.project();
    const bool other = parentId() != p.instance(m_instance)->parent;
    m_take->setEnabled(other);
    if (!other) return m_said->setText(tr("That is its parent now."));
    const Result<edit::ParentChange> change = edit::parentChange(p, m_instance, parentId());
    if (!change) return m_said->setText(text(change.error().sentence));
    QStringList lines;
    const auto list = [&](const QString& head, const std::vector<Id>& parameters, const Master* master) {
        QStringList names;
        for (const Id& id : parameters)
            if (const Parameter* its = master ? master->parameter(id) : nullptr) names << text(its->name);
        if (!names.isEmpty()) lines << tr("%1: %2").arg(head, names.join(", "));
    };
    const Master *from = p.masterOf(m_instance), *to = p.masterOf(parentId());
    list(tr("Stay its own"), change->kept, to);
    list(tr("Inherited anew, with another value"), change->changed, to);
    list(tr("New with this parent"), change->fresh, to);
    list(tr("Without a place there; kept, but idle"), change->lost, from);
    if (lines.isEmpty()) lines << tr("No value changes.");
    m_said->setText(lines.join("\n"));
}

} // namespace hue
