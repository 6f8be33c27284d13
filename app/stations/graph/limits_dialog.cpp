#include "app/stations/graph/limits_dialog.h"

#include "app/parts/ask_moved.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/instances/value_words.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QListWidget>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

/// Two numbers with a blank between; nothing where the line is empty, or `good` false.
std::optional<std::pair<float, float>> rangeIn(const QLineEdit* line, bool& good) {
    const QStringList parts = line->text().split(' ', Qt::SkipEmptyParts);
    if (parts.isEmpty()) return {};
    bool a = false, b = false;
    std::pair<float, float> out;
    if (parts.size() == 2) out = {parts[0].toFloat(&a), parts[1].toFloat(&b)};
    good = good && a && b;
    return out;
}

} // namespace

LimitsDialog::LimitsDialog(Session& session, const Id& first, QWidget* parent) : QDialog(parent), m_session(session) {
    setObjectName("limitsDialog");
    setWindowTitle(tr("Limits of several parameters"));
    auto* form = new QFormLayout(this);
    m_list = new QListWidget;
    m_list->setObjectName("limitsOf");
    m_list->setAccessibleName(tr("Parameters"));
    m_list->setMinimumWidth(340);
    const Parameter* like = session.master()->parameter(first);
    for (const Parameter& p : session.master()->parameters) {
        if (!kindOf(p.type).ranged) continue;
        auto* item = new QListWidgetItem(tr("%1   slider %2 to %3, never beyond %4 and %5")
                                             .arg(text(p.name))
                                             .arg(p.softMin)
                                             .arg(p.softMax)
                                             .arg(p.hardMin)
                                             .arg(p.hardMax),
                                         m_list);
        item->setData(Qt::UserRole, text(p.id));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(p.id == first || (like && p.type == like->type && !p.group.empty() && p.group == like->group) ? Qt::Checked
                                                                                                                          : Qt::Unchecked);
    }
    form->addRow(m_list);
    const auto line = [&](const char* name, const QString& label) {
        auto* l = new QLineEdit;
        l->setObjectName(name);
        l->setAccessibleName(label);
        l->setPlaceholderText(tr("two numbers, or empty: as it is"));
        form->addRow(label, l);
        return l;
    };
    m_slider = line("limitsSlider", tr("Slider from and to"));
    m_hard = line("limitsHard", tr("Never below and above"));
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(tr("Change"), QDialogButtonBox::AcceptRole)->setObjectName("limitsChange");
    buttons->addButton(tr("Leave as they are"), QDialogButtonBox::RejectRole);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, &LimitsDialog::change);
}

void LimitsDialog::change() {
    bool good = true;
    const auto slider = rangeIn(m_slider, good), hard = rangeIn(m_hard, good);
    if (!good) return m_session.say(tr("Write a range as two numbers with a blank between, such as 0 20."));
    std::vector<Id> ids;
    for (int k = 0; k < m_list->count(); ++k)
        if (m_list->item(k)->checkState() == Qt::Checked) ids.push_back(m_list->item(k)->data(Qt::UserRole).toString().toStdString());
    if (ids.empty() || (!slider && !hard)) return m_session.say(tr("Tick parameters, and write a range."));
    const Id master = m_session.masterId();
    const Result<Project> next = edit::setLimits(m_session.project(), master, ids, slider, hard);
    std::vector<std::string> moved;
    if (next)
        for (const Id& id : ids)
            for (std::string& words : changedValues(m_session.project(), *next, id)) moved.push_back(std::move(words));
    if (!agreedToMove(this, windowTitle(), tr("Own values that change:"), moved, tr("Change them"))) return;
    if (m_session.apply(tr("limits of several parameters"),
                        [&](const Project& p) { return edit::setLimits(p, master, ids, slider, hard); }))
        accept();
}

void setLimitsOfSeveral(Session& session, const Id& first, QWidget* parent) {
    if (!session.master()) return;
    auto* dialog = new LimitsDialog(session, first, parent);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

} // namespace hue
