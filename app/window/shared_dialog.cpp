#include "app/window/shared_dialog.h"

#include "app/parts/fields.h"
#include "core/document/names.h"
#include "core/document/shared_parameters.h"
#include "core/edits/edits.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

SharedDialog::SharedDialog(Session& session, QWidget* parent) : QDialog(parent), m_session(session) {
    setObjectName("sharedDialog");
    setWindowTitle(tr("Shared parameters"));
    resize(640, 380);
    auto* row = new QHBoxLayout(this);
    auto* left = new QVBoxLayout;
    m_list = new QListWidget;
    m_list->setObjectName("sharedList");
    m_list->setAccessibleName(tr("Shared parameters"));
    left->addWidget(m_list, 1);
    const auto button = [&](const char* name, const QString& words, const QString& tip, auto act) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setToolTip(tip);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, act);
        left->addWidget(b);
        return b;
    };
    button("sharedNumber", tr("New number"), tr("Such as the time of day, wetness or wind"), [this] { add(ParameterType::Number); });
    button("sharedColor", tr("New color"), tr("Such as that of the sky"), [this] { add(ParameterType::Color); });
    m_remove = button("sharedRemove", tr("Remove"), tr("Parameters that followed it keep its value"), [this] {
        if (const SharedParameter* s = chosen())
            m_session.apply(tr("remove shared parameter"), [&, id = s->id](const Project& p) { return edit::removeShared(p, id); });
    });
    row->addLayout(left);
    m_fields = new QWidget;
    auto* form = new QFormLayout(m_fields);
    const auto line = [&](const char* name, const QString& label, const std::function<void(SharedParameter&, const QString&)>& take) {
        auto* edit = new QLineEdit;
        edit->setObjectName(name);
        edit->setAccessibleName(label);
        connect(edit, &QLineEdit::editingFinished, this, [this, edit, take, label] {
            if (!edit->isModified()) return;
            edit->setModified(false);
            change(label, [&](SharedParameter& s) { take(s, edit->text().trimmed()); });
            m_session.endRow();
        });
        form->addRow(label, edit);
        return edit;
    };
    const auto value = [&](const char* name, const QString& label, Value SharedParameter::*which) {
        auto* field = new ValueField;
        field->setObjectName(name);
        field->setAccessibleName(label);
        connect(field, &ValueField::edited, this,
                [this, which, label](const Value& v) { change(label, [&](SharedParameter& s) { s.*which = v; }); });
        connect(field, &ValueField::editingDone, &m_session, &Session::endRow);
        form->addRow(label, field);
        return field;
    };
    m_name = line("sharedName", tr("Name"), [](SharedParameter& s, const QString& t) { s.name = t.toStdString(); });
    m_value = value("sharedValue", tr("Value"), &SharedParameter::value);
    m_unit = line("sharedUnit", tr("Unit"), [](SharedParameter& s, const QString& t) { s.unit = t.toStdString(); });
    m_range = line("sharedRange", tr("Slider from and to"), [](SharedParameter& s, const QString& t) {
        const QStringList ends = t.split(' ', Qt::SkipEmptyParts);
        if (ends.size() == 2) s.softMin = ends[0].toFloat(), s.softMax = ends[1].toFloat();
    });
    m_moves = new QComboBox;
    m_moves->setObjectName("sharedMoves");
    m_moves->setAccessibleName(tr("With time"));
    m_moves->addItems({tr("stays"), tr("swells and falls"), tr("runs and begins anew")});
    connect(m_moves, &QComboBox::activated, this, [this](int k) {
        change(tr("With time"), [k](SharedParameter& s) { s.moves = SharedParameter::Moves(k); });
        m_session.endRow();
    });
    form->addRow(tr("With time it"), m_moves);
    m_until = value("sharedUntil", tr("As far as"), &SharedParameter::until);
    m_period = line("sharedPeriod", tr("Seconds for a turn"), [](SharedParameter& s, const QString& t) { s.period = t.toFloat(); });
    m_followers = new QLabel;
    m_followers->setObjectName("sharedFollowers");
    m_followers->setWordWrap(true);
    m_followers->setProperty("second", true);
    form->addRow(m_followers);
    row->addWidget(m_fields, 1);
    connect(m_list, &QListWidget::currentRowChanged, this, &SharedDialog::showChosen);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Values | Change::Names | Change::Graph)) refresh();
    });
    refresh();
}

const SharedParameter* SharedDialog::chosen() const {
    const QListWidgetItem* item = m_list->currentItem();
    return item ? m_session.project().sharedParameter(item->data(Qt::UserRole).toString().toStdString()) : nullptr;
}

void SharedDialog::refresh() {
    const int at = m_list->currentRow();
    {
        const QSignalBlocker quiet(m_list);
        m_list->clear();
        for (const SharedParameter& s : m_session.project().shared) {
            auto* item = new QListWidgetItem(text(s.name), m_list);
            item->setData(Qt::UserRole, text(s.id));
        }
        m_list->setCurrentRow(std::clamp(at, m_list->count() ? 0 : -1, m_list->count() - 1));
    }
    showChosen();
}

void SharedDialog::showChosen() {
    const SharedParameter* s = chosen();
    m_remove->setEnabled(s);
    for (QWidget* field : std::initializer_list<QWidget*>{m_name, m_value, m_unit, m_range, m_moves, m_until, m_period})
        field->setEnabled(s);
    if (!s)
        return m_followers->setText(tr("One value for parameters of many masters. Make one, and let parameters follow it: double click a "
                                       "parameter on the sheet, and choose it as its default."));
    const auto show = [](QLineEdit* line, const QString& words) {
        if (!line->hasFocus() || !line->isModified()) line->setText(words);
    };
    show(m_name, text(s->name));
    show(m_unit, text(s->unit));
    show(m_range, QString("%1 %2").arg(s->softMin).arg(s->softMax));
    show(m_period, QString::number(s->period));
    for (const auto& [field, value] : {std::pair{m_value, s->value}, {m_until, s->until}}) {
        field->setColor(s->type == ParameterType::Color);
        field->setRange(s->softMin, s->softMax);
        field->setUnit(text(s->unit));
        field->setValue(value);
    }
    m_moves->setCurrentIndex(int(s->moves));
    m_until->setEnabled(s->isMoving());
    m_period->setEnabled(s->isMoving());
    QStringList followers;
    for (const std::string& f : followersOf(m_session.project(), s->id)) followers << text(f);
    m_followers->setText(followers.isEmpty()
                             ? tr("No parameter follows it yet: double click one on the sheet, and choose it as its default.")
                             : tr("Followed by %1").arg(followers.join("; ")));
}

void SharedDialog::add(ParameterType type) {
    SharedParameter s;
    s.id = newId('s');
    s.type = type;
    if (type == ParameterType::Color) s.value = Value::vec3(0.5f, 0.5f, 0.5f), s.until = Value::vec3(1, 1, 1);
    std::vector<std::string> taken;
    for (const SharedParameter& other : m_session.project().shared) taken.push_back(other.name);
    s.name = freeName(taken, type == ParameterType::Color ? "Color" : "Number");
    if (!m_session.apply(tr("new shared parameter"), [&](const Project& p) { return edit::addShared(p, s); })) return;
    m_list->setCurrentRow(m_list->count() - 1);
    m_name->setFocus();
    m_name->selectAll();
}

void SharedDialog::change(const QString& what, const std::function<void(SharedParameter&)>& take) {
    const SharedParameter* s = chosen();
    if (!s) return;
    SharedParameter changed = *s;
    take(changed);
    if (!m_session.apply(
            tr("shared parameter: %1").arg(what), [&](const Project& p) { return edit::changeShared(p, changed); },
            "shared" + what + text(changed.id)))
        showChosen();
}

} // namespace hue
