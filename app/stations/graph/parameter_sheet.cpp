#include "app/stations/graph/parameter_sheet.h"

#include "app/parts/fields.h"
#include "app/parts/theme.h"
#include "app/session/new_instance.h"
#include "app/stations/graph/builds_dialog.h"
#include "app/stations/graph/parameter_row.h"
#include "core/check/parameters_behind.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/edits/wearing.h"
#include "core/surface/channels.h"

#include <QComboBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

ParameterSheet::ParameterSheet(Session& session, Commands& commands, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(232);
    setAcceptDrops(true);
    setAccessibleName(tr("Parameter sheet"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 8);
    column->setSpacing(4);
    auto* top = new QHBoxLayout;
    top->setContentsMargins(12, 0, 12, 0);
    m_target = new QComboBox;
    m_target->setAccessibleName(tr("Master or instance whose values are shown"));
    m_target->setToolTip(tr("Whose values are shown and changed here"));
    m_target->setObjectName("sheetTarget");
    auto* add = new QToolButton;
    add->setText("+");
    commands.explain(add, "instance.new", tr("New instance of what is shown"));
    add->setAccessibleName(tr("New instance"));
    top->addWidget(m_target, 1);
    top->addWidget(add);
    column->addLayout(top);
    m_worn = new QLabel;
    m_worn->setProperty("second", true);
    m_worn->setContentsMargins(12, 0, 12, 0);
    m_worn->setWordWrap(true);
    column->addWidget(m_worn);
    m_changes = new QComboBox;
    m_changes->setObjectName("sheetChanges");
    m_changes->setAccessibleName(tr("What changes go to"));
    m_changes->setToolTip(tr("Several specimens wear this instance. What is chosen here is remembered"));
    connect(m_changes, &QComboBox::activated, this, [this](int own) { m_session.setWantsOwnCopies(own == 1); });
    auto* changes = new QHBoxLayout;
    changes->setContentsMargins(12, 0, 12, 0);
    changes->addWidget(m_changes);
    column->addLayout(changes);
    m_builds = new QToolButton;
    m_builds->setObjectName("buildsButton");
    m_builds->setToolTip(tr("Combinations of build choices that are in use, and what each costs"));
    connect(m_builds, &QToolButton::clicked, this, [this] {
        auto* dialog = new BuildsDialog(m_session, m_session.masterId(), window());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    auto* builds = new QHBoxLayout;
    builds->setContentsMargins(6, 0, 6, 0);
    builds->addWidget(m_builds);
    const auto asking = [&](const char* name, const QString& words, const QString& tip, void (ParameterSheet::*fill)(QMenu*)) {
        auto* b = new QToolButton;
        b->setObjectName(name);
        b->setText(words);
        b->setToolTip(tip);
        b->setPopupMode(QToolButton::InstantPopup);
        auto* menu = new QMenu(b);
        b->setMenu(menu);
        connect(menu, &QMenu::aboutToShow, this, [this, menu, fill] {
            menu->clear();
            (this->*fill)(menu);
        });
        builds->addWidget(b);
        return b;
    };
    m_presets =
        asking("presetsButton", tr("Presets"), tr("Values under a name, to be given to what is tuned"), &ParameterSheet::fillPresets);
    m_sets = asking("mapSetButton", tr("Map set"), tr("The maps of a set for all parameters that are for one of them"),
                    &ParameterSheet::fillSets);
    builds->addStretch();
    column->addLayout(builds);
    m_ownSurface = new QWidget;
    auto* own = new QHBoxLayout(m_ownSurface);
    own->setContentsMargins(6, 0, 6, 0);
    own->setSpacing(0);
    m_alphaMode = new QToolButton;
    m_alphaMode->setPopupMode(QToolButton::InstantPopup);
    m_alphaMode->setAccessibleName(tr("Own alpha mode"));
    m_alphaMode->setToolTip(tr("Alpha mode of this instance, its own or inherited"));
    auto* modes = new QMenu(m_alphaMode);
    auto ownSurface = [this](const QString& name, const std::function<void(edit::OwnSurface&)>& change) {
        const Instance* i = m_session.project().instance(m_session.target());
        if (!i) return;
        edit::OwnSurface s{i->alphaMode, i->alphaCutoff, i->doubleSided};
        change(s);
        m_session.apply(
            name, [&](const Project& p) { return edit::setOwnSurface(p, i->id, s); }, name);
    };
    modes->addAction(tr("inherited"), this,
                     [=] { ownSurface(tr("inherit alpha mode"), [](edit::OwnSurface& s) { s.alphaMode.reset(); }); });
    for (AlphaMode mode : {AlphaMode::Opaque, AlphaMode::Mask, AlphaMode::Blend})
        modes->addAction(QString::fromUtf8(nameOf(mode).data()), this,
                         [=] { ownSurface(tr("own alpha mode"), [mode](edit::OwnSurface& s) { s.alphaMode = mode; }); });
    m_alphaMode->setMenu(modes);
    m_sides = new QToolButton;
    m_sides->setPopupMode(QToolButton::InstantPopup);
    m_sides->setAccessibleName(tr("Own double sided"));
    auto* sides = new QMenu(m_sides);
    sides->addAction(tr("inherited"), this,
                     [=] { ownSurface(tr("inherit double sided"), [](edit::OwnSurface& s) { s.doubleSided.reset(); }); });
    sides->addAction(tr("one-sided"), this,
                     [=] { ownSurface(tr("own double sided"), [](edit::OwnSurface& s) { s.doubleSided = false; }); });
    sides->addAction(tr("double-sided"), this,
                     [=] { ownSurface(tr("own double sided"), [](edit::OwnSurface& s) { s.doubleSided = true; }); });
    m_sides->setMenu(sides);
    m_cutoff = new ValueField;
    m_cutoff->setAccessibleName(tr("Own alpha cutoff"));
    m_cutoff->setToolTip(tr("Alpha cutoff of this instance"));
    connect(m_cutoff, &ValueField::edited, this,
            [=](const Value& v) { ownSurface(tr("own alpha cutoff"), [&](edit::OwnSurface& s) { s.alphaCutoff = v[0]; }); });
    connect(m_cutoff, &ValueField::editingDone, &session, &Session::endRow);
    own->addWidget(m_alphaMode);
    own->addWidget(m_sides);
    own->addWidget(m_cutoff, 1);
    own->addStretch();
    column->addWidget(m_ownSurface);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_body = new QWidget;
    m_column = new QVBoxLayout(m_body);
    m_column->setContentsMargins(0, 0, 0, 0);
    m_column->setSpacing(3);
    scroll->setWidget(m_body);
    column->addWidget(scroll, 1);
    connect(m_target, &QComboBox::activated, this,
            [this](int index) { m_session.setTarget(m_target->itemData(index).toString().toStdString()); });
    connect(add, &QToolButton::clicked, this, [this, add] { newInstance(m_session, this, add->mapToGlobal(QPoint(0, add->height()))); });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Values | Change::Surface | Change::Names | Change::Maps | Change::Lineup)) refresh();
    });
    connect(&session, &Session::masterShown, this, &ParameterSheet::refresh);
    connect(&session, &Session::targetChanged, this, &ParameterSheet::refresh);
    connect(&session, &Session::problemsChanged, this, &ParameterSheet::findWarnings);
    connect(&session, &Session::masterShown, this, &ParameterSheet::findWarnings);
    refresh();
}

bool ParameterSheet::rowsFit() const {
    const Master* m = m_session.master();
    if (!m) return m_rows.empty();
    // Rows stand by groups, in the order in which groups first come.
    std::vector<const Parameter*> wanted;
    for (const Parameter& p : m->parameters)
        if (std::none_of(wanted.begin(), wanted.end(), [&](const Parameter* w) { return w->group == p.group; }))
            for (const Parameter& q : m->parameters)
                if (q.group == p.group) wanted.push_back(&q);
    return m_hasHint == wanted.empty() &&
           std::equal(m_rows.begin(), m_rows.end(), wanted.begin(), wanted.end(),
                      [](const ParameterRow* row, const Parameter* p) { return row->parameter() == p->id && row->group() == p->group; });
}

void ParameterSheet::rebuild() {
    m_rows.clear();
    m_headings.clear();
    m_hasHint = false;
    while (QLayoutItem* item = m_column->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
    const Master* master = m_session.master();
    if (!master) return;
    std::vector<std::string> groups;
    for (const Parameter& p : master->parameters)
        if (std::find(groups.begin(), groups.end(), p.group) == groups.end()) groups.push_back(p.group);
    for (const std::string& group : groups) {
        if (!group.empty()) {
            auto* label = new QLabel(text(group).toUpper());
            label->setFont(textFont(11));
            label->setProperty("second", true);
            label->setContentsMargins(12, 8, 0, 0);
            m_column->addWidget(label);
            m_headings.emplace_back(label, group);
        }
        for (const Parameter& p : master->parameters) {
            if (p.group != group) continue;
            auto* row = new ParameterRow(m_session, p, m_body);
            m_rows.push_back(row);
            m_column->addWidget(row);
        }
    }
    m_hasHint = master->parameters.empty();
    if (m_hasHint) {
        auto* hint = new QLabel(
            m_session.assembly()
                ? tr("No inputs yet.\n\nSelect a value of a card and press Ctrl+E, or type on the board:\n\namount = 0.5, 0 to 1")
                : tr("Nothing is exposed yet.\n\nSelect a constant card and press Ctrl+E, or type on the board:\n\ngrout width = 6 mm, 0 "
                     "to 20"));
        hint->setObjectName("nothingExposed");
        hint->setWordWrap(true);
        hint->setProperty("second", true);
        hint->setContentsMargins(12, 8, 12, 0);
        m_column->addWidget(hint);
    }
    m_column->addStretch();
}

void ParameterSheet::refresh() {
    const Project& p = m_session.project();
    const QSignalBlocker block(m_target);
    m_target->clear();
    auto addWithChildren = [&](auto&& self, const Id& parent, int depth) -> void {
        for (const auto& i : p.instances)
            if (i->parent == parent) {
                m_target->addItem(QString(depth * 3, ' ') + text(i->name), text(i->id));
                if (depth < 32) self(self, i->id, depth + 1);
            }
    };
    for (const auto& m : p.masters) {
        m_target->addItem(text(m->name) + tr(" (master)"), text(m->id));
        addWithChildren(addWithChildren, m->id, 1);
    }
    m_target->setCurrentIndex(m_target->findData(text(m_session.target())));
    if (!rowsFit()) rebuild();
    for (ParameterRow* row : m_rows) row->refresh(m_idle.contains(row->parameter()), m_warnings[row->parameter()]);
    showRows();
    const Assembly* assembly = m_session.assembly();
    const Instance* instance = assembly ? nullptr : p.instance(m_session.target());
    const auto wearers = wearersOf(p, m_session.target());
    QStringList list;
    for (const std::string& w : wearers) list << text(w);
    m_worn->setText(assembly         ? tr("Inputs of %1 with their defaults").arg(text(assembly->name))
                    : list.isEmpty() ? tr("worn by no specimen")
                                     : tr("worn by %1").arg(list.join("; ")));
    const Master* shown = p.master(m_session.masterId());
    m_presets->setVisible(shown && !shown->parameters.empty());
    m_sets->setVisible(
        shown && !p.mapSets().empty() &&
        std::any_of(shown->parameters.begin(), shown->parameters.end(), [](const Parameter& q) { return q.type == ParameterType::Map; }));
    const bool choices = shown && hasBuildChoices(*shown);
    m_builds->setVisible(choices);
    if (choices) {
        // Goes through all instances, and this is called while a value is dragged.
        m_session.runner().run(
            {.owner = this, .kind = "builds", .newer = Newer::Waits},
            [snapshot = m_session.snapshot(), id = shown->id](const Work&) {
                return buildCountWords(*snapshot->master(id), usedOf(buildsOf(*snapshot, *snapshot->master(id))));
            },
            [this](const std::string& words) {
                m_builds->setText(text(words));
                m_builds->setAccessibleName(tr("%1 in use").arg(text(words)));
            });
    }
    const size_t wearing = instance ? specimensWearing(p, instance->id).size() : 0;
    m_changes->setVisible(wearing > 1);
    if (wearing > 1) {
        const std::optional<size_t> tuned = m_session.tunedSpecimen(instance->id);
        m_changes->clear();
        m_changes->addItem(tr("change all %1 that wear it").arg(wearing));
        if (tuned) m_changes->addItem(tr("make a copy for specimen %1").arg(*tuned + 1));
        m_changes->setCurrentIndex(tuned && m_session.wantsOwnCopies() ? 1 : 0);
    }
    m_ownSurface->setVisible(instance);
    if (instance) {
        const SurfaceSettings s = resolve(p, instance->id).surface;
        QFont bold = textFont(13, true), plain = textFont(13);
        m_alphaMode->setText(QString::fromUtf8(nameOf(s.alphaMode).data()) + " \u25BE");
        m_alphaMode->setFont(instance->alphaMode ? bold : plain);
        m_sides->setText((s.doubleSided ? tr("double-sided") : tr("one-sided")) + " \u25BE");
        m_sides->setFont(instance->doubleSided ? bold : plain);
        m_cutoff->setVisible(s.alphaMode == AlphaMode::Mask);
        m_cutoff->setValue(Value::number(s.alphaCutoff));
        m_cutoff->setQuiet(!instance->alphaCutoff);
    }
}

void ParameterSheet::showRows() {
    const Master* master = m_session.master();
    if (!master) return;
    const Resolved values = resolve(m_session.project(), m_session.tuned());
    std::set<std::string> groups;
    for (ParameterRow* row : m_rows) {
        const Parameter* p = master->parameter(row->parameter());
        const bool shown = !p || isShown(*master, *p, values);
        row->setVisible(shown);
        if (shown) groups.insert(row->group());
    }
    for (const auto& [heading, group] : m_headings) heading->setVisible(groups.contains(group));
}

void ParameterSheet::fillPresets(QMenu* menu) {
    const Master* master = m_session.project().master(m_session.masterId());
    if (!master) return;
    const Id worn = m_session.tuned(), id = master->id;
    for (const Preset& preset : master->presets)
        menu->addAction(text(preset.name), this, [this, worn, name = preset.name] {
            m_session.apply(tr("use preset %1").arg(text(name)), [&](const Project& p) { return edit::usePreset(p, worn, name); });
        });
    if (!master->presets.empty()) menu->addSeparator();
    menu->addAction(tr("Keep these values\u2026"), this, [this, worn] {
        bool done = false;
        const QString name = QInputDialog::getText(this, tr("Keep as a preset"), tr("Name; one of the same name is replaced:"),
                                                   QLineEdit::Normal, {}, &done);
        if (done)
            m_session.apply(tr("keep preset"), [&](const Project& p) { return edit::keepPreset(p, worn, name.trimmed().toStdString()); });
    });
    if (master->presets.empty()) return;
    QMenu* remove = menu->addMenu(tr("Remove"));
    for (const Preset& preset : master->presets)
        remove->addAction(text(preset.name), this, [this, id, name = preset.name] {
            m_session.apply(tr("remove preset"), [&](const Project& p) { return edit::removePreset(p, id, name); });
        });
}

void ParameterSheet::fillSets(QMenu* menu) {
    const Id worn = m_session.tuned();
    // Of those that are taken of no set yet, one for each role.
    std::vector<Id> free;
    std::set<std::string> roles;
    if (const Master* master = m_session.project().master(m_session.masterId()))
        for (const Parameter& p : master->parameters)
            if (p.type == ParameterType::Map && p.ofSet.empty() && roles.insert(edit::roleOf(p)).second) free.push_back(p.id);
    for (const std::string& set : m_session.project().mapSets())
        menu->addAction(text(set), this, [this, worn, set] {
            m_session.apply(tr("wear map set %1").arg(text(set)), [&](const Project& p) { return edit::wearSet(p, worn, set); });
        });
    menu->addSeparator();
    menu->addAction(tr("Choose the set by one parameter"), this, [this, free] { takeOfNewSet(m_session, m_session.masterId(), free); })
        ->setEnabled(!free.empty());
}

void ParameterSheet::findWarnings() {
    m_warnings.clear();
    if (const Master* master = m_session.master())
        for (const Diagnostic& d : m_session.problems())
            if (d.severity != Severity::Advice && isOfRanges(d))
                for (const Id& id : parametersBehind(*master, d.place)) m_warnings[id] << text(d.sentence);
    for (ParameterRow* row : m_rows) row->refresh(m_idle.contains(row->parameter()), m_warnings[row->parameter()]);
}

void ParameterSheet::setIdle(std::set<Id> idle) {
    if (idle == m_idle) return;
    m_idle = std::move(idle);
    for (ParameterRow* row : m_rows) row->refresh(m_idle.contains(row->parameter()), m_warnings[row->parameter()]);
}

ParameterRow* ParameterSheet::row(const Id& parameter) const {
    for (ParameterRow* r : m_rows)
        if (r->parameter() == parameter) return r;
    return nullptr;
}

} // namespace hue
