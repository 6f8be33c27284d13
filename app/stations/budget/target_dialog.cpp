#include "app/stations/budget/target_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QFileInfo>
#include <QFormLayout>
#include <QLineEdit>
#include <QPushButton>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

/// Small letters, digits and dashes, from a name.
std::string keyFrom(const QString& name) {
    std::string out;
    for (const QChar c : name.toLower()) {
        const ushort u = c.unicode();
        const bool kept = (u >= 'a' && u <= 'z') || (u >= '0' && u <= '9');
        if (kept) out += char(u);
        else if (!out.empty() && out.back() != '-') out += '-';
    }
    while (!out.empty() && out.back() == '-') out.pop_back();
    return out;
}

} // namespace

TargetDialog::TargetDialog(Session& session, BudgetService& budget, QWidget* parent)
    : QDialog(parent), m_session(session), m_budget(budget), m_before(budget.target()) {
    setObjectName("targetDialog");
    const bool own = budget.chosenTarget().endsWith(".json");
    setWindowTitle(own ? tr("Target %1").arg(text(m_before.name)) : tr("Own target after %1").arg(text(m_before.name)));
    auto* form = new QFormLayout(this);
    const auto line = [&](const QString& name, const QString& label, const QString& value, const QString& tip) {
        auto* l = new QLineEdit(value);
        l->setObjectName(name);
        l->setAccessibleName(label);
        l->setToolTip(tip);
        l->setMinimumWidth(260);
        form->addRow(label, l);
        return l;
    };
    m_name = line("targetName", tr("Name"), own ? text(m_before.name) : tr("My %1").arg(text(m_before.name).toLower()),
                  tr("As the chooser shows it"));
    m_about = line("targetAbout", tr("About"), text(m_before.about), tr("One sentence: which machines, at which picture"));
    for (const LimitDef& d : limitDefs()) {
        const float limit = m_before.limits.*d.limit;
        const QString unit = d.unit == "MB" ? tr(", MB") : QString();
        m_limits.emplace_back(&d, line("limit_" + text(d.key), text(d.name) + unit, limit > 0 ? QString::number(double(limit)) : QString(),
                                       text(d.help) + tr(". Empty: no limit.")));
    }
    QStringList formats;
    for (const std::string& f : m_before.formats) formats << text(f);
    m_formats = line("targetFormats", tr("Block formats"), formats.join(", "), tr("That it reads, as hsk compress calls them; empty: all"));
    m_where = new QComboBox;
    m_where->setObjectName("targetWhere");
    m_where->setAccessibleName(tr("Kept"));
    m_where->addItem(tr("for you, in all projects"), BudgetService::ownTargets());
    if (!session.file().isEmpty()) m_where->addItem(tr("beside this project, for the team"), QFileInfo(session.file()).path() + "/targets");
    if (own) {
        m_where->insertItem(0, tr("where it is"), QFileInfo(budget.chosenTarget()).path());
        m_where->setCurrentIndex(0);
    }
    form->addRow(tr("Kept"), m_where);
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(tr("Keep"), QDialogButtonBox::AcceptRole)->setObjectName("targetKeep");
    buttons->addButton(tr("Go back"), QDialogButtonBox::RejectRole);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, &TargetDialog::save);
}

void TargetDialog::save() {
    Target t = m_before;
    t.name = m_name->text().trimmed().toStdString();
    t.about = m_about->text().trimmed().toStdString();
    const QString folder = m_where->currentData().toString();
    const bool inPlace = m_budget.chosenTarget().endsWith(".json") && folder == QFileInfo(m_budget.chosenTarget()).path();
    if (!inPlace) t.key = keyFrom(m_name->text());
    if (t.name.empty() || t.key.empty()) return m_session.say(tr("A target needs a name with letters or digits."));
    for (const auto& [def, line] : m_limits) {
        const QString words = line->text().trimmed();
        bool good = true;
        const float limit = words.isEmpty() ? 0 : words.toFloat(&good);
        if (!good || !(limit >= 0))
            return m_session.say(tr("%1 is no limit of %2. Write a number of 0 or above, or nothing.").arg(words, text(def->name)));
        t.limits.*def->limit = limit;
    }
    t.formats.clear();
    for (const QString& f : m_formats->text().split(',', Qt::SkipEmptyParts)) t.formats.push_back(f.trimmed().toStdString());
    // What it would not be read as again is said now.
    if (const Result<Target> back = parseTarget(targetText(t), t.name); !back) return m_session.say(text(back.error().sentence));
    const QString file = inPlace ? m_budget.chosenTarget() : folder + "/" + text(t.key) + ".json";
    if (!inPlace && QFileInfo::exists(file))
        return m_session.say(tr("There is a target %1 already. Choose another name.").arg(text(t.name)));
    QDir().mkpath(folder);
    if (const Outcome written = writeTarget(t, file.toStdString()); !written) return m_session.say(text(written.error().sentence));
    if (m_budget.choose(file)) accept();
}

} // namespace hue
