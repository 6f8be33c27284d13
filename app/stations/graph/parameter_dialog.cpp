#include "app/stations/graph/parameter_dialog.h"

#include "app/parts/ask_moved.h"
#include "core/builds/builds.h"
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/images/image.h"
#include "core/instances/value_words.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

/// Kinds that one can become: those with as many components.
std::vector<ParameterType> kindsFor(const Parameter& p) {
    std::vector<ParameterType> out;
    for (const ParameterKind& k : parameterKinds())
        if (k.width == kindOf(p.type).width && (k.type == ParameterType::Finish) == (p.type == ParameterType::Finish) &&
            (k.type == ParameterType::MapSet) == (p.type == ParameterType::MapSet))
            out.push_back(k.type);
    return out;
}

bool twoNumbers(const QLineEdit* line, float& low, float& high) {
    const QStringList parts = line->text().split(' ', Qt::SkipEmptyParts);
    bool a = false, b = false;
    if (parts.size() == 2) low = parts[0].toFloat(&a), high = parts[1].toFloat(&b);
    return a && b;
}

} // namespace

ParameterDialog::ParameterDialog(Session& session, const Parameter& parameter, QWidget* parent)
    : QDialog(parent), m_session(session), m_before(parameter) {
    const Parameter& p = m_before;
    setObjectName("parameterDialog");
    setWindowTitle(tr("Parameter %1").arg(text(p.name)));
    m_form = new QFormLayout(this);
    const auto line = [&](const char* name, const QString& label, const QString& value, const QString& tip = {}) {
        auto* edit = new QLineEdit(value);
        edit->setObjectName(name);
        edit->setAccessibleName(label);
        edit->setToolTip(tip);
        edit->setMinimumWidth(300);
        m_form->addRow(label, edit);
        return edit;
    };
    const auto list = [&](const char* name, const QString& label, const QString& tip) {
        auto* combo = new QComboBox;
        combo->setObjectName(name);
        combo->setAccessibleName(label);
        combo->setToolTip(tip);
        m_form->addRow(label, combo);
        return combo;
    };
    m_name = line("parameterName", tr("Name"), text(p.name));
    m_code = line("parameterCode", tr("Name in code"), text(p.codeName));
    m_group = line("parameterGroup", tr("Group"), text(p.group));
    m_description = line("parameterHelp", tr("What it does"), text(p.description), tr("One sentence, shown over the value"));
    m_kind = list("parameterKind", tr("Kind"), tr("Instances keep their values as far as the new kind can hold them"));
    for (const ParameterType type : kindsFor(p)) {
        const std::string_view name = kindOf(type).name;
        m_kind->addItem(QString::fromUtf8(name.data(), qsizetype(name.size())), int(type));
        if (type == p.type) m_kind->setCurrentIndex(m_kind->count() - 1);
    }
    QStringList options;
    for (const std::string& o : p.options) options << text(o);
    m_options = line("parameterOptions", tr("Options"), options.join(" / "),
                     tr("Names of its values with a slash between, such as plain / stripes"));
    m_build = new QCheckBox(tr("Build choice"));
    m_build->setObjectName("parameterBuild");
    m_build->setToolTip(tr("Resolved when compiling: what is not chosen costs nothing, and each combination in use is a build of its own"));
    m_build->setChecked(p.build);
    m_form->addRow(QString(), m_build);
    m_cost = new QLabel;
    m_cost->setObjectName("parameterCost");
    m_cost->setProperty("second", true);
    m_cost->setWordWrap(true);
    m_cost->setMinimumHeight(2 * m_cost->fontMetrics().lineSpacing() + 6);
    m_cost->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    m_form->addRow(QString(), m_cost);
    m_alpha = new QCheckBox(tr("With alpha"));
    m_alpha->setObjectName("parameterAlpha");
    m_alpha->setToolTip(tr("A fourth component that says how much the color covers"));
    m_alpha->setChecked(p.alpha);
    m_form->addRow(QString(), m_alpha);
    m_strongest = line("parameterStrongest", tr("Strength up to"), QString::number(p.strongest),
                       tr("1 for surfaces; above it the color glows, and has a strength beside it on the sheet"));
    m_pixels = line("parameterPixels", tr("Pixels a side, at most"), p.mostPixels ? QString::number(p.mostPixels) : QString(),
                    tr("Maps that are larger are named among the problems; empty: any"));
    m_channels = line("parameterChannels", tr("Channels, at least"), p.leastChannels ? QString::number(p.leastChannels) : QString(),
                      tr("Maps that have fewer are named among the problems; empty: any"));
    m_unit = line("parameterUnit", tr("Unit"), text(p.unit));
    m_soft = line("parameterSlider", tr("Slider from and to"), QString("%1 %2").arg(p.softMin).arg(p.softMax));
    m_step = line("parameterStep", tr("Step of the slider"), p.step > 0 ? QString::number(p.step) : QString(), tr("Empty: any value"));
    m_curve = list("parameterCurve", tr("Slider is"), tr("How its length is shared out among the values"));
    m_curve->addItem(tr("even"), int(SliderCurve::Even));
    m_curve->addItem(tr("finer at its low end"), int(SliderCurve::FineBelow));
    m_curve->addItem(tr("by equal factors"), int(SliderCurve::Decades));
    m_curve->setCurrentIndex(int(p.slider));
    m_hard = line("parameterLimits", tr("Never below and above"), QString("%1 %2").arg(p.hardMin).arg(p.hardMax));
    m_shown = list("parameterShown", tr("Is shown"), tr("The sheet hides it while another parameter is set otherwise"));
    m_shown->addItem(tr("always"));
    for (const Parameter& other : session.master()->parameters) {
        const std::vector<std::string> names = optionsOf(other);
        for (size_t k = 0; other.id != p.id && k < names.size(); ++k) {
            m_shown->addItem(tr("when %1 is %2").arg(text(other.name), text(names[k])), QStringList{text(other.id), QString::number(k)});
            if (p.shownWhen == ShownWhen{other.id, {int(k)}}) m_shown->setCurrentIndex(m_shown->count() - 1);
        }
    }
    // Several values at once come from files alone; they stay.
    if (p.shownWhen.is.size() > 1) {
        m_shown->addItem(tr("as before, at several values"), QStringList{});
        m_shown->setCurrentIndex(m_shown->count() - 1);
    }
    QStringList components;
    for (const std::string& c : p.components) components << text(c);
    m_components =
        line("parameterComponents", tr("Components"), components.join(" / "), tr("What its numbers are called, such as across / down"));
    m_follows = list("parameterFollows", tr("Default"), tr("A shared parameter gives one value to many masters"));
    m_follows->addItem(tr("its own"), QString());
    for (const SharedParameter& shared : session.project().shared) {
        if (shared.type != p.type) continue;
        m_follows->addItem(tr("shared: %1").arg(text(shared.name)), text(shared.id));
        if (p.shared == shared.id) m_follows->setCurrentIndex(m_follows->count() - 1);
    }
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(tr("Change"), QDialogButtonBox::AcceptRole)->setObjectName("parameterChange");
    buttons->addButton(tr("Leave as it is"), QDialogButtonBox::RejectRole);
    m_form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, &ParameterDialog::change);
    connect(m_kind, &QComboBox::currentIndexChanged, this, &ParameterDialog::showFields);
    showFields();
    if (p.isNamed() && session.project().master(session.masterId())) {
        m_cost->setText(tr("counting what it costs either way"));
        session.runner().run(
            {.owner = this, .kind = "cost"},
            [snapshot = session.snapshot(), master = session.masterId(), id = p.id](const Work&) {
                return choiceCostWords(choiceCosts(*snapshot, *snapshot->master(master), id));
            },
            [this](const std::string& words) { m_cost->setText(tr("As a build choice %1.").arg(text(words))); });
    }
}

ParameterType ParameterDialog::kind() const { return ParameterType(m_kind->currentData().toInt()); }

void ParameterDialog::showFields() {
    const auto show = [this](QWidget* field, bool shown) {
        field->setVisible(shown);
        if (QWidget* label = m_form->labelForField(field)) label->setVisible(shown);
    };
    const bool named = kind() == ParameterType::OnOff || kind() == ParameterType::Choice, ranged = kindOf(kind()).ranged;
    const bool scalar = kindOf(kind()).width == 1;
    show(m_kind, m_kind->count() > 1);
    show(m_options, kind() == ParameterType::Choice);
    show(m_build, named && m_session.project().master(m_session.masterId()));
    show(m_cost, named && m_before.isNamed());
    show(m_unit, !named && kindOf(kind()).width);
    show(m_alpha, kind() == ParameterType::Color);
    show(m_strongest, kind() == ParameterType::Color);
    show(m_pixels, kind() == ParameterType::Map);
    show(m_channels, kind() == ParameterType::Map);
    show(m_soft, ranged);
    show(m_step, ranged && scalar);
    show(m_curve, ranged && scalar);
    show(m_hard, ranged);
    show(m_shown, m_shown->count() > 1);
    show(m_components, kind() == ParameterType::Vector2 || kind() == ParameterType::Vector3);
    show(m_follows, kind() == m_before.type && m_follows->count() > 1);
    adjustSize();
}

std::optional<Parameter> ParameterDialog::entered() const {
    Parameter p = m_before;
    p.type = kind();
    const bool ranged = kindOf(p.type).ranged;
    if (ranged && (!twoNumbers(m_soft, p.softMin, p.softMax) || !twoNumbers(m_hard, p.hardMin, p.hardMax)))
        return m_session.say(tr("Write a range as two numbers with a blank between, such as 0 20.")), std::nullopt;
    bool good = true;
    const QString step = m_step->text().trimmed();
    if (ranged) p.step = step.isEmpty() ? 0 : step.toFloat(&good);
    if (!good || p.step < 0) return m_session.say(tr("%1 is no step. Write a number above 0, or nothing.").arg(step)), std::nullopt;
    p.slider = SliderCurve(m_curve->currentData().toInt());
    p.name = m_name->text().trimmed().toStdString();
    p.codeName = m_code->text().trimmed().isEmpty() ? std::string{} : codeNameFrom(m_code->text().toStdString());
    p.group = m_group->text().trimmed().toStdString();
    p.description = m_description->text().trimmed().toStdString();
    p.unit = m_unit->text().trimmed().toStdString();
    p.options.clear();
    if (p.type == ParameterType::Choice)
        for (const QString& option : m_options->text().split('/')) p.options.push_back(option.trimmed().toStdString());
    p.build = m_build->isChecked();
    p.alpha = m_alpha->isChecked();
    p.strongest = m_strongest->text().toFloat(&good);
    if (!good || !(p.strongest >= 1 && p.strongest <= Parameter::kStrongest))
        return m_session.say(tr("%1 is no strength. Write a number of 1 to %2.").arg(m_strongest->text()).arg(Parameter::kStrongest)),
               std::nullopt;
    const auto whole = [&](const QLineEdit* line, int most, int& out) {
        const QString words = line->text().trimmed();
        out = words.isEmpty() ? 0 : words.toInt(&good);
        if (good && out >= 0 && out <= most) return true;
        m_session.say(tr("%1 cannot be asked of a map. Write a whole number up to %2, or nothing.").arg(words).arg(most));
        return false;
    };
    if (!whole(m_pixels, kLargestSide, p.mostPixels) || !whole(m_channels, 4, p.leastChannels)) return std::nullopt;
    p.shared = m_follows->currentData().toString().toStdString();
    p.components.clear();
    if (p.type == ParameterType::Vector2 || p.type == ParameterType::Vector3)
        for (const QString& name : m_components->text().split('/', Qt::SkipEmptyParts))
            p.components.push_back(name.trimmed().toStdString());
    if (!p.components.empty() && int(p.components.size()) != p.width())
        return m_session.say(tr("%1 has %2 components. Name all of them, with slashes between.").arg(text(p.name)).arg(p.width())),
               std::nullopt;
    if (const QVariant shown = m_shown->currentData(); !shown.isValid()) {
        p.shownWhen = {};
    } else if (const QStringList when = shown.toStringList(); when.size() == 2) {
        p.shownWhen = {when[0].toStdString(), {when[1].toInt()}};
    }
    return p;
}

void ParameterDialog::change() {
    const std::optional<Parameter> p = entered();
    if (!p) return;
    const Result<Project> next = edit::changeParameter(m_session.project(), m_session.masterId(), *p);
    // What would not be as it was is said first.
    if (next && !agreedToMove(this, windowTitle(), tr("Own values that change:"), changedValues(m_session.project(), *next, m_before.id),
                              tr("Change them")))
        return;
    if (m_session.apply(tr("change parameter"), [&](const Project& q) { return edit::changeParameter(q, m_session.masterId(), *p); }))
        accept();
}

void editParameter(Session& session, const Id& id, QWidget* parent) {
    const Master* master = session.master();
    const Parameter* p = master ? master->parameter(id) : nullptr;
    if (!p) return;
    auto* dialog = new ParameterDialog(session, *p, parent);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

} // namespace hue
