#include "app/stations/paint/decal_panel.h"

#include "app/parts/theme.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

DecalPanel::DecalPanel(Session& session, PaintDesk& paint, DecalDesk& desk, QWidget* parent)
    : QWidget(parent), m_session(session), m_paint(paint), m_desk(desk) {
    setFixedWidth(206);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 10, 8);
    column->setSpacing(6);
    m_list = new QListWidget;
    m_list->setObjectName("decalList");
    m_list->setAccessibleName(tr("Decals, the highest first"));
    m_list->setToolTip(
        tr("The highest first: drag to order, F2 renames, the mark hides. Alt and arrows move the chosen one on the surface, "
           "Delete removes it."));
    m_list->setDragDropMode(QAbstractItemView::InternalMove);
    m_list->setFixedHeight(132);
    column->addWidget(m_list);
    connect(m_list, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!m_refreshing && row >= 0) m_desk.choose(m_list->item(row)->data(Qt::UserRole).toString().toStdString());
    });
    // Rows are made anew by what follows, so the list ends what it is at first.
    const auto later = [this](auto act) { QMetaObject::invokeMethod(this, act, Qt::QueuedConnection); };
    connect(m_list, &QListWidget::itemChanged, this, [this, later](QListWidgetItem* item) {
        if (m_refreshing) return;
        later([this, id = item->data(Qt::UserRole).toString().toStdString(), name = item->text().trimmed().toStdString(),
               hidden = item->checkState() != Qt::Checked] { rowEdited(id, name, hidden); });
    });
    connect(m_list->model(), &QAbstractItemModel::rowsMoved, this,
            [this, later](const QModelIndex&, int from, int, const QModelIndex&, int to) {
                if (m_refreshing) return;
                const int row = to > from ? to - 1 : to;
                later([this, moved = m_list->item(row)->data(Qt::UserRole).toString().toStdString(),
                       place = size_t(std::max(0, m_list->count() - 1 - row))] { m_desk.order(moved, place); });
            });

    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(2);
    const auto button = [&](const QString& name, const char* object, const QString& tip) {
        auto* b = new QToolButton;
        b->setText(name);
        b->setObjectName(object);
        b->setToolTip(tip);
        b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        buttons->addWidget(b);
        return b;
    };
    const auto menuOf = [this](QToolButton* b, void (DecalPanel::*fill)()) {
        b->setPopupMode(QToolButton::InstantPopup);
        b->setMenu(new QMenu(b));
        b->menu()->setToolTipsVisible(true);
        connect(b->menu(), &QMenu::aboutToShow, this, fill);
    };
    m_add = button(tr("add"), "decalAdd", tr("Puts a decal on the surface in the middle of the view"));
    menuOf(m_add, &DecalPanel::fillAddMenu);
    m_more = button(tr("more"), "decalMore", tr("Copies, mirrors, lines, order"));
    menuOf(m_more, &DecalPanel::fillMoreMenu);
    QToolButton* remove = button(tr("remove"), "decalRemove", tr("Removes the chosen decal"));
    connect(remove, &QToolButton::clicked, &m_desk, &DecalDesk::remove);
    column->addLayout(buttons);

    m_values = new QWidget;
    auto* grid = new QGridLayout(m_values);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    grid->setColumnStretch(1, 1);
    m_wears = new QComboBox;
    m_wears->setObjectName("decalWears");
    m_wears->setAccessibleName(tr("What it wears"));
    m_wears->setToolTip(tr("A master of the kind decal, or an instance of one"));
    auto* wears = new QLabel(tr("wears"));
    wears->setBuddy(m_wears);
    grid->addWidget(wears, 0, 0);
    grid->addWidget(m_wears, 0, 1);
    connect(m_wears, &QComboBox::currentIndexChanged, this, [this](int) {
        if (!m_refreshing) m_desk.wear(m_wears->currentData().toString().toStdString());
    });
    const auto field = [&](const QString& name, const char* object, const QString& tip, float low, float high, const QString& unit,
                           auto member) {
        auto* f = new ValueField;
        f->setObjectName(object);
        f->setAccessibleName(name);
        f->setToolTip(tip);
        f->setFixedHeight(26);
        f->setRange(low, high);
        f->setUnit(unit);
        auto* label = new QLabel(name);
        label->setBuddy(f);
        const int at = grid->rowCount();
        grid->addWidget(label, at, 0);
        grid->addWidget(f, at, 1);
        m_rows.push_back({f, member});
        connect(f, &ValueField::edited, this, [this, name, object, member](const Value& v) {
            if (!m_refreshing)
                m_desk.change(
                    tr("decal: %1").arg(name), [&](Decal& d) { member(d) = v[0]; }, object);
        });
        connect(f, &ValueField::editingDone, this, [this] { m_session.endRow(); });
    };
    const auto plain = [](float Decal::*member) { return [member](Decal& d) -> float& { return d.*member; }; };
    field(tr("width"), "decalWidth", tr("Across its picture"), 0, 2, "m", plain(&Decal::width));
    field(tr("height"), "decalHeight", tr("Up its picture"), 0, 2, "m", plain(&Decal::height));
    field(tr("depth"), "decalDepth", tr("How deep it reaches, half to either side of the surface"), 0, 2, "m", plain(&Decal::depth));
    field(tr("turn"), "decalTurn", tr("Counter-clockwise, seen from outside"), -180, 180, "\u00B0", plain(&Decal::turn));
    field(tr("fade from"), "decalFadeFrom", tr("Angle between the surface and the decal at which it begins to fade"), 0, 90, "\u00B0",
          plain(&Decal::fadeFrom));
    field(tr("fade to"), "decalFadeTo", tr("Angle at which it is gone"), 0, 90, "\u00B0", plain(&Decal::fadeTo));
    field(tr("depth fade"), "decalDepthFade", tr("Share of the depth, at either end, over which it fades"), 0, 1, {},
          plain(&Decal::depthFade));
    auto* touches = new QLabel(tr("How much it changes"));
    touches->setProperty("second", true);
    grid->addWidget(touches, grid->rowCount(), 0, 1, 2);
    const std::pair<QString, const char*> channels[] = {{tr("color"), "decalColor"},         {tr("normal"), "decalNormal"},
                                                        {tr("roughness"), "decalRoughness"}, {tr("metallic"), "decalMetallic"},
                                                        {tr("occlusion"), "decalOcclusion"}, {tr("emissive"), "decalEmissive"}};
    for (size_t k = 0; k < std::size(channels); ++k)
        field(channels[k].first, channels[k].second, tr("0 leaves the channel as it is beneath"), 0, 1, {},
              [k](Decal& d) -> float& { return d.weights[k]; });
    const auto check = [&](const QString& name, const char* object, const QString& tip, bool Decal::*member) {
        auto* c = new QCheckBox(name);
        c->setObjectName(object);
        c->setToolTip(tip);
        connect(c, &QCheckBox::toggled, this, [this, member, name](bool on) {
            if (!m_refreshing) m_desk.change(tr("decal: %1").arg(name), [&](Decal& d) { d.*member = on; });
        });
        grid->addWidget(c, grid->rowCount(), 0, 1, 2);
        return c;
    };
    m_mirrored = check(tr("mirrored"), "decalMirrored", tr("Left and right of its picture change places"), &Decal::mirrored);
    m_locked = check(tr("locked"), "decalLocked", tr("The mouse does not take hold of it on the mesh"), &Decal::locked);
    m_slots = new QToolButton;
    m_slots->setObjectName("decalSlots");
    m_slots->setToolTip(tr("Slots of the mesh that it is seen on"));
    m_slots->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    menuOf(m_slots, &DecalPanel::fillSlotMenu);
    grid->addWidget(m_slots, grid->rowCount(), 0, 1, 2);
    column->addWidget(m_values);
    m_cost = new QLabel;
    m_cost->setObjectName("decalCost");
    m_cost->setWordWrap(true);
    m_cost->setProperty("second", true);
    column->addWidget(m_cost);
    column->addStretch();
    connect(&desk, &DecalDesk::changed, this, &DecalPanel::refresh);
    refresh();
}

void DecalPanel::fillAddMenu() {
    QMenu* menu = m_add->menu();
    menu->clear();
    for (const Id& worn : m_desk.wearable())
        menu->addAction(text(m_session.project().nameOf(worn)), this, [this, worn] { Q_EMIT addWanted(worn); });
    if (!menu->isEmpty()) menu->addSeparator();
    menu->addAction(tr("With a new decal master"), this, [this] { Q_EMIT addWanted({}); })
        ->setToolTip(tr("A picture with its alpha, a tint and a roughness"));
    menu->addAction(tr("Words…"), this, &DecalPanel::askForWords)
        ->setToolTip(tr("Letters that lie on the surface; words that are dragged from anywhere can be dropped there as well"));
}

void DecalPanel::askForWords() {
    bool taken = false;
    const QString words = QInputDialog::getMultiLineText(this, tr("Words on the surface"), tr("Words"), {}, &taken);
    if (taken) Q_EMIT wordsWanted(words);
}

void DecalPanel::askForOtherWords() {
    bool taken = false;
    const QString words = QInputDialog::getMultiLineText(this, tr("Words on the surface"), tr("Words"), m_desk.words(), &taken);
    if (taken) m_desk.setWords(words);
}

void DecalPanel::fillMoreMenu() {
    QMenu* menu = m_more->menu();
    menu->clear();
    const bool any = m_desk.chosen() != nullptr;
    const auto add = [&](const QString& name, auto act) { menu->addAction(name, this, act)->setEnabled(any); };
    add(tr("Copy beside it"), [this] { m_desk.copy(); });
    for (int axis = 0; axis < 3; ++axis)
        add(tr("Copy mirrored across %1").arg(QString("XYZ")[axis]), [this, axis] { m_desk.mirror(axis); });
    menu->addAction(tr("Change the words\u2026"), this, &DecalPanel::askForOtherWords)->setEnabled(!m_desk.words().isEmpty());
    for (const int count : {3, 5, 10}) add(tr("A line of %1").arg(count), [this, count] { m_desk.line(count); });
    menu->addSeparator();
    add(tr("Higher"), [this] { m_desk.move(1); });
    add(tr("Lower"), [this] { m_desk.move(-1); });
}

void DecalPanel::fillSlotMenu() {
    QMenu* menu = m_slots->menu();
    menu->clear();
    const Decal* d = m_desk.chosen();
    if (!d || !m_paint.surface()) return;
    for (const MeshSlot& slot : m_paint.surface()->mesh()->slots) {
        QAction* a = menu->addAction(text(slot.name));
        a->setCheckable(true);
        a->setChecked(std::find(d->keptOff.begin(), d->keptOff.end(), slot.name) == d->keptOff.end());
        connect(a, &QAction::toggled, this, [this, name = slot.name](bool on) {
            m_desk.change(tr("decal: slots"), [&](Decal& its) {
                std::erase(its.keptOff, name);
                if (!on) its.keptOff.push_back(name);
            });
        });
    }
}

void DecalPanel::rowEdited(const Id& id, const std::string& name, bool hidden) {
    m_desk.choose(id);
    const Decal* d = m_desk.chosen();
    if (!d) return;
    if (d->hidden != hidden) m_desk.change(hidden ? tr("hide a decal") : tr("show a decal"), [&](Decal& its) { its.hidden = hidden; });
    else m_desk.change(tr("rename a decal"), [&](Decal& its) { its.name = name; });
    refresh();
}

void DecalPanel::refresh() {
    m_refreshing = true;
    const auto& all = m_desk.all();
    const Decal* chosen = m_desk.chosen();
    // While a name is typed the list stays as it is.
    if (!m_list->viewport()->findChild<QLineEdit*>()) {
        const QSignalBlocker quiet(m_list);
        m_list->clear();
        for (auto d = all.rbegin(); d != all.rend(); ++d) {
            auto* item = new QListWidgetItem(text(d->name), m_list);
            item->setData(Qt::UserRole, text(d->id));
            item->setSizeHint({100, 24});
            item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable | Qt::ItemIsUserCheckable | Qt::ItemIsDragEnabled);
            item->setCheckState(d->hidden ? Qt::Unchecked : Qt::Checked);
            item->setToolTip(text(m_session.project().nameOf(d->wears)));
            if (&*d == chosen) m_list->setCurrentItem(item);
        }
    }
    m_values->setVisible(chosen);
    m_more->setEnabled(chosen);
    findChild<QToolButton*>("decalRemove")->setEnabled(chosen);
    if (chosen) {
        m_wears->clear();
        for (const Id& worn : m_desk.wearable()) m_wears->addItem(text(m_session.project().nameOf(worn)), text(worn));
        int at = m_wears->findData(text(chosen->wears));
        if (at < 0) {
            m_wears->addItem(m_session.project().masterOf(chosen->wears) ? text(m_session.project().nameOf(chosen->wears)) : tr("nothing"),
                             text(chosen->wears));
            at = m_wears->count() - 1;
        }
        m_wears->setCurrentIndex(at);
        const float whole = m_paint.surface() ? std::max(m_paint.surface()->bounds().radius(), 1e-3f) : 1;
        Decal its = *chosen;
        for (size_t k = 0; k < m_rows.size(); ++k) {
            if (k < 3) m_rows[k].field->setRange(0, whole);
            m_rows[k].field->setValue(Value::number(m_rows[k].of(its)));
        }
        m_mirrored->setChecked(chosen->mirrored);
        m_locked->setChecked(chosen->locked);
        m_slots->setText(chosen->keptOff.empty() ? tr("on all slots")
                                                 : tr("kept off %1").arg(counted(int(chosen->keptOff.size()), tr("slot"), tr("slots"))));
    }
    m_cost->setText(m_desk.cost());
    m_cost->setVisible(chosen && !m_desk.cost().isEmpty());
    m_refreshing = false;
}

} // namespace hue
