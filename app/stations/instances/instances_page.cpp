#include "app/stations/instances/instances_page.h"

#include "app/parts/theme.h"
#include "app/parts/value_text.h"
#include "app/session/drops.h"
#include "core/edits/edits.h"
#include "core/surface/channels.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QShortcut>
#include <QStyledItemDelegate>
#include <QTreeView>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

// Places of the picture service beyond those of the lineup.
constexpr int kFirstPlace = 1000;
// What the rows show: names, values, who wears what.
constexpr Changes kRows = Change::Names | Change::Values | Change::Surface | Change::Graph | Change::Lineup | Change::Maps;

/// Own values in ink, inherited ones in second ink; colors with a patch.
class ValueDelegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem& o, const QModelIndex& i) const override {
        return {QStyledItemDelegate::sizeHint(o, i).width(), i.data(InstanceModel::MasterRole).toBool() ? 46 : 34};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& t = theme();
        const bool chosen = option.state & QStyle::State_Selected;
        const bool master = index.data(InstanceModel::MasterRole).toBool();
        p->fillRect(option.rect, chosen ? t.ink : master ? t.panel : t.card);
        p->setPen(t.hairline);
        p->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
        QRect r = option.rect.adjusted(6, 0, -6, 0);
        // Each master has parameters of its own, so their names stand in its row, over its defaults.
        const QString parameter = index.data(InstanceModel::NameRole).toString();
        if (master && !parameter.isEmpty()) {
            p->setFont(textFont(11));
            p->setPen(chosen ? t.card : t.ink2);
            p->drawText(QRect(r.left(), r.top() + 3, r.width(), 16), Qt::AlignLeft | Qt::AlignVCenter,
                        p->fontMetrics().elidedText(parameter, Qt::ElideRight, r.width()));
            r.setTop(r.top() + 18);
        }
        if (const auto picture = index.data(Qt::DecorationRole).value<QImage>(); !picture.isNull()) {
            p->drawImage(QRect(r.left(), r.center().y() - 14, 30, 30), picture);
            r.setLeft(r.left() + 38);
        }
        const QVariant color = index.data(InstanceModel::ColorRole);
        if (color.isValid()) {
            const QRect patch(r.left(), r.center().y() - 6, 16, 13);
            p->fillRect(patch, color.value<QColor>());
            p->setPen(t.hairline);
            p->drawRect(patch);
            r.setLeft(patch.right() + 6);
        }
        const bool own = index.data(InstanceModel::OwnRole).toBool();
        p->setPen(chosen ? t.card : own ? t.ink : t.ink2);
        const bool name = index.column() <= InstanceModel::Wearers;
        QFont f = name ? textFont(13, index.column() == 0 && own) : codeFont(12);
        if (!name) f.setBold(own);
        p->setFont(f);
        p->drawText(r, Qt::AlignLeft | Qt::AlignVCenter, p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, r.width()));
        if (option.state & QStyle::State_HasFocus) {
            p->setPen(QPen(chosen ? t.card : t.ink, 1, Qt::DotLine));
            p->drawRect(option.rect.adjusted(1, 1, -2, -2));
        }
    }
};

} // namespace

InstanceModel::InstanceModel(Session& session, QObject* parent) : QAbstractItemModel(parent), m_session(session) {
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(kRows)) refresh();
    });
    refresh();
}

std::vector<InstanceModel::Entry> InstanceModel::entries() const {
    std::vector<Entry> out(1);
    const Project& p = m_session.project();
    std::function<void(const Id&, int)> add = [&](const Id& id, int parent) {
        const int at = int(out.size());
        out.push_back({id, parent, {}});
        out[size_t(parent)].children.push_back(at);
        for (const auto& i : p.instances)
            if (i->parent == id) add(i->id, at);
    };
    for (const auto& m : p.masters) add(m->id, 0);
    return out;
}

void InstanceModel::refresh() {
    std::vector<Entry> now = entries();
    size_t columns = 0;
    for (const auto& m : m_session.project().masters) columns = std::max(columns, m->parameters.size());
    if (now != m_entries || columns != m_columns) {
        beginResetModel();
        m_entries = std::move(now);
        m_columns = columns;
        endResetModel();
        return;
    }
    // Values only: every row may have changed by inheritance.
    std::function<void(const QModelIndex&)> tell = [&](const QModelIndex& parent) {
        const int rows = rowCount(parent);
        if (!rows) return;
        Q_EMIT dataChanged(index(0, 0, parent), index(rows - 1, columnCount() - 1, parent));
        for (int r = 0; r < rows; ++r) tell(index(r, 0, parent));
    };
    tell({});
}

QModelIndex InstanceModel::index(int row, int column, const QModelIndex& parent) const {
    const size_t at = parent.isValid() ? size_t(parent.internalId()) : 0;
    if (row < 0 || row >= int(m_entries[at].children.size())) return {};
    return createIndex(row, column, quintptr(m_entries[at].children[size_t(row)]));
}

QModelIndex InstanceModel::parent(const QModelIndex& child) const {
    const int up = m_entries[size_t(child.internalId())].parent;
    if (up <= 0) return {};
    const auto& siblings = m_entries[size_t(m_entries[size_t(up)].parent)].children;
    return createIndex(int(std::find(siblings.begin(), siblings.end(), up) - siblings.begin()), 0, quintptr(up));
}

int InstanceModel::rowCount(const QModelIndex& parent) const {
    if (parent.column() > 0) return 0;
    return int(m_entries[parent.isValid() ? size_t(parent.internalId()) : 0].children.size());
}

int InstanceModel::columnCount(const QModelIndex&) const { return FirstParameter + int(m_columns); }

Id InstanceModel::idAt(const QModelIndex& index) const { return index.isValid() ? m_entries[size_t(index.internalId())].id : Id{}; }

QModelIndex InstanceModel::indexOf(const Id& worn) const {
    for (size_t n = 1; n < m_entries.size(); ++n)
        if (m_entries[n].id == worn) {
            const auto& siblings = m_entries[size_t(m_entries[n].parent)].children;
            return createIndex(int(std::find(siblings.begin(), siblings.end(), int(n)) - siblings.begin()), 0, quintptr(n));
        }
    return {};
}

const Parameter* InstanceModel::parameterAt(const QModelIndex& index) const {
    const Master* m = m_session.project().masterOf(idAt(index));
    const int at = index.column() - FirstParameter;
    return m && at >= 0 && at < int(m->parameters.size()) ? &m->parameters[size_t(at)] : nullptr;
}

QVariant InstanceModel::data(const QModelIndex& index, int role) const {
    const Project& p = m_session.project();
    const Id id = idAt(index);
    const Instance* instance = p.instance(id);
    const Master* master = p.master(id);
    if (role == IdRole) return text(id);
    if (role == MasterRole) return master != nullptr;
    if (role == NameRole) return parameterAt(index) ? text(parameterAt(index)->name) : QString();
    if (role == Qt::DecorationRole) {
        auto it = m_pictures.find(id);
        return index.column() == Name && it != m_pictures.end() ? QVariant(it->second) : QVariant();
    }
    if (index.column() == Name) {
        if (role == Qt::DisplayRole || role == Qt::EditRole)
            return instance ? text(instance->name) : master ? text(master->name) : QString();
        if (role == OwnRole) return master != nullptr;
        return {};
    }
    if (index.column() == Wearers) {
        if (role != Qt::DisplayRole && role != Qt::ToolTipRole) return {};
        QStringList list;
        for (const std::string& w : wearersOf(p, id)) list << text(w);
        return list.join("; ");
    }
    const Resolved resolved = resolve(p, id);
    if (index.column() == AlphaModeColumn) {
        if (role == Qt::DisplayRole || role == Qt::EditRole) return text(nameOf(resolved.surface.alphaMode));
        if (role == OwnRole) return master || (instance && instance->alphaMode);
        return {};
    }
    if (index.column() == Sides) {
        if (role == Qt::DisplayRole || role == Qt::EditRole) return resolved.surface.doubleSided ? tr("double") : tr("one");
        if (role == OwnRole) return master || (instance && instance->doubleSided);
        return {};
    }
    const Parameter* parameter = parameterAt(index);
    if (!parameter) return {};
    auto it = resolved.values.find(parameter->id);
    if (it == resolved.values.end()) return {};
    const bool color = parameter->type == ParameterType::Color;
    switch (role) {
    case Qt::DisplayRole:
    case Qt::EditRole:
        if (parameter->type == ParameterType::Map)
            return p.map(it->second.value.map) ? text(p.map(it->second.value.map)->name) : tr("neutral");
        return valueText(it->second.value.value, color);
    case OwnRole: return it->second.origin == id;
    case ColorRole:
        if (color) return QColor(text(hexFromColor(it->second.value.value)));
        return {};
    case Qt::ToolTipRole:
        return text(parameter->name + (parameter->description.empty() ? "" : ": " + parameter->description)) +
               (it->second.origin == id ? QString() : tr("\nInherited from %1").arg(text(p.nameOf(it->second.origin))));
    case Qt::AccessibleTextRole: return text(parameter->name) + " " + data(index, Qt::DisplayRole).toString();
    default: return {};
    }
}

QVariant InstanceModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    static const char* fixed[] = {QT_TR_NOOP("Instance"), QT_TR_NOOP("Worn by"), QT_TR_NOOP("Alpha"), QT_TR_NOOP("Sides")};
    if (section < FirstParameter) return tr(fixed[section]);
    return {};
}

void InstanceModel::setPicture(const Id& worn, const QImage& picture) {
    m_pictures[worn] = picture;
    const QModelIndex at = indexOf(worn);
    if (at.isValid()) Q_EMIT dataChanged(at, at, {Qt::DecorationRole});
}

std::vector<Id> InstanceModel::rows() const {
    std::vector<Id> out;
    for (size_t n = 1; n < m_entries.size(); ++n) out.push_back(m_entries[n].id);
    return out;
}

Qt::ItemFlags InstanceModel::flags(const QModelIndex& index) const {
    Qt::ItemFlags f = Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsDragEnabled;
    const Parameter* p = parameterAt(index);
    const bool instance = m_session.project().instance(idAt(index));
    if (index.column() == Name || (p && p->type != ParameterType::Map) ||
        (instance && (index.column() == AlphaModeColumn || index.column() == Sides)))
        f |= Qt::ItemIsEditable;
    return f;
}

bool InstanceModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::EditRole) return false;
    const Id id = idAt(index);
    const QString typed = value.toString().trimmed();
    if (index.column() == Name) {
        const bool master = m_session.project().master(id);
        return m_session.apply(tr("rename"), [&](const Project& p) {
            return master ? edit::renameMaster(p, id, typed.toStdString()) : edit::renameInstance(p, id, typed.toStdString());
        });
    }
    if (const Instance* i = m_session.project().instance(id); i && (index.column() == AlphaModeColumn || index.column() == Sides)) {
        edit::OwnSurface own{i->alphaMode, i->alphaCutoff, i->doubleSided};
        if (index.column() == Sides) {
            if (typed != tr("one") && typed != tr("double")) return m_session.say(tr("Write one or double.")), false;
            own.doubleSided = typed == tr("double");
        } else {
            own.alphaMode.reset();
            for (AlphaMode m : {AlphaMode::Opaque, AlphaMode::Mask, AlphaMode::Blend})
                if (typed == text(nameOf(m))) own.alphaMode = m;
            if (!own.alphaMode) return m_session.say(tr("Write opaque, mask or blend.")), false;
        }
        return m_session.apply(tr("own surface setting"), [&](const Project& p) { return edit::setOwnSurface(p, id, own); });
    }
    const Parameter* parameter = parameterAt(index);
    Value v;
    if (!parameter || !valueFromText(typed, parameter->width(), v)) {
        m_session.say(tr("%1 is no value here. Write numbers with blanks between them, or a color as #RRGGBB.").arg(typed));
        return false;
    }
    if (valueText(v, parameter->type == ParameterType::Color) == data(index, Qt::EditRole).toString()) return false;
    const Id p = parameter->id;
    return m_session.apply(tr("change %1").arg(text(parameter->name)), [&](const Project& q) { return edit::setOwn(q, id, p, {v, {}}); });
}

QStringList InstanceModel::mimeTypes() const { return {kWornMime}; }

QMimeData* InstanceModel::mimeData(const QModelIndexList& indexes) const {
    auto* data = new QMimeData;
    if (!indexes.isEmpty()) data->setData(kWornMime, QByteArray::fromStdString(idAt(indexes[0])));
    return data;
}

InstancesPage::InstancesPage(Workplace& workplace)
    : Station(workplace, kRows | Change::Graph | Change::Maps | Change::Files | Change::Camera),
      m_session(workplace.session),
      m_pictures(workplace.pictures) {
    Session& session = m_session;
    PictureService& pictures = m_pictures;
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 10, 12, 10);
    auto* bar = new QHBoxLayout;
    auto button = [&](const QString& name, const QString& tip, auto action) {
        auto* b = new QPushButton(name);
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, action);
        bar->addWidget(b);
        return b;
    };
    QPushButton* fresh =
        button(tr("New instance"), {}, [this] { select(m_session.deriveInstance(m_model->idAt(m_table->currentIndex()))); });
    workplace.commands.explain(fresh, "instance.new", tr("A child of the chosen row"));
    button(tr("Own copy"), tr("A sibling with the same own values"), [this] {
        const Instance* from = m_session.project().instance(m_model->idAt(m_table->currentIndex()));
        if (!from) return m_session.say(tr("Choose an instance to copy."));
        Instance i = *from;
        i.id = newId('i');
        const Id id = i.id;
        if (m_session.apply(tr("copy instance"), [&](const Project& p) { return edit::addInstance(p, i); })) select(id);
    });
    QPushButton* giveBack = button(tr("Return value"), tr("Give the chosen cell back to what is inherited (Delete)"), [this] {
        const QModelIndex at = m_table->currentIndex();
        const Id id = m_model->idAt(at);
        const Instance* i = m_session.project().instance(id);
        if (!i) return m_session.say(tr("A master's value is where inheritance starts; there is nothing to return to."));
        if (const Parameter* p = m_model->parameterAt(at)) {
            m_session.apply(tr("return value"), [&, pid = p->id](const Project& q) { return edit::clearOwn(q, id, pid); });
        } else {
            edit::OwnSurface own{i->alphaMode, i->alphaCutoff, i->doubleSided};
            if (at.column() == InstanceModel::AlphaModeColumn) own.alphaMode.reset();
            if (at.column() == InstanceModel::Sides) own.doubleSided.reset();
            m_session.apply(tr("return value"), [&](const Project& q) { return edit::setOwnSurface(q, id, own); });
        }
    });
    button(tr("Remove"), tr("Remove the chosen instance; its children go to its parent"), [this] {
        const Id id = m_model->idAt(m_table->currentIndex());
        if (m_session.project().instance(id))
            m_session.apply(tr("remove instance"), [&](const Project& p) { return edit::removeInstance(p, id); });
        else m_session.say(tr("Choose an instance to remove."));
    });
    bar->addStretch();
    m_hint = new QLabel(tr("Drag a row on a specimen to wear it. Bold values are its own, the others are inherited."));
    m_hint->setProperty("second", true);
    bar->addWidget(m_hint);
    column->addLayout(bar);
    m_model = new InstanceModel(session, this);
    m_table = new QTreeView;
    m_table->setModel(m_model);
    m_table->setItemDelegate(new ValueDelegate(m_table));
    m_table->setObjectName("instanceTable");
    m_table->setAccessibleName(tr("Instance table"));
    m_table->setSelectionBehavior(QAbstractItemView::SelectItems);
    m_table->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed | QAbstractItemView::AnyKeyPressed);
    m_table->setDragEnabled(true);
    m_table->setDragDropMode(QAbstractItemView::DragOnly);
    m_table->header()->setStretchLastSection(false);
    column->addWidget(m_table, 1);
    auto* remove = new QShortcut(QKeySequence(Qt::Key_Delete), m_table, nullptr, nullptr, Qt::WidgetShortcut);
    connect(remove, &QShortcut::activated, giveBack, &QPushButton::click);
    auto layOut = [this] {
        m_table->expandAll();
        for (int c = 0; c < m_model->columnCount(); ++c)
            m_table->setColumnWidth(c, c == 0 ? 230 : c == 1 ? 130 : c < InstanceModel::FirstParameter ? 66 : 116);
    };
    connect(m_model, &QAbstractItemModel::modelReset, this, layOut);
    layOut();
    connect(&pictures, &PictureService::ready, this, [this](int place, const FinishedPicture& finished) {
        const int at = place - kFirstPlace;
        if (at >= 0 && at < int(m_pictured.size()) && !finished.picture.isNull())
            m_model->setPicture(m_pictured[size_t(at)], finished.picture);
    });
    connect(m_table->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& now) {
        if (now.isValid()) m_session.setTarget(m_model->idAt(now));
    });
}

void InstancesPage::arrive() { m_table->setFocus(); }

void InstancesPage::projectChanged(Changes) { requestPictures(); }

void InstancesPage::addCommands() {
    place().commands.add(
        {.id = "instance.rename", .text = tr("Rename"), .menu = tr("Edit"), .keys = {Qt::Key_F2}, .where = {"instances"}, .act = [this] {
             m_table->edit(m_table->currentIndex());
         }});
}

void InstancesPage::showEvent(QShowEvent*) {
    // Coming here changes nothing of what is being tuned.
    select(m_session.target());
    requestPictures();
}

void InstancesPage::requestPictures() {
    if (!isVisible()) return;
    const Project& p = m_session.project();
    m_pictured = m_model->rows();
    static quint64 serial = 0;
    for (size_t i = 0; i < m_pictured.size(); ++i) {
        PictureRequest r;
        r.files = m_session.files();
        r.snapshot = m_session.snapshot();
        r.specimen.wears = {m_pictured[i]};
        r.settings = settingsFor(p, r.specimen, m_session.lights(), m_session.assets().folder(), false);
        r.settings.view = 0;
        r.settings.backdrop = Backdrop::Surround;
        r.settings.width = r.settings.height = 30;
        r.settings.camera = p.lineup.orbit;
        r.settings.camera.standOff = 0.8f;
        r.settings.camera.panX = r.settings.camera.panY = 0;
        r.time = m_session.time();
        r.serial = ++serial;
        m_pictures.request(kFirstPlace + int(i), std::move(r));
    }
}

void InstancesPage::select(const Id& id) {
    const QModelIndex at = m_model->indexOf(id);
    m_table->setCurrentIndex(at);
    m_table->scrollTo(at);
}

} // namespace hue
