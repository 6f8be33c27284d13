#include "app/stations/instances/instance_model.h"

#include "app/parts/value_text.h"
#include "app/session/drops.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/instances/value_words.h"
#include "core/surface/channels.h"

#include <QColor>
#include <QMimeData>
#include <unordered_map>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

} // namespace

InstanceModel::InstanceModel(Session& session, QObject* parent) : QAbstractItemModel(parent), m_session(session) {
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(kInstanceRows)) refresh();
    });
    refresh();
}

std::vector<InstanceModel::Entry> InstanceModel::entries() const {
    std::vector<Entry> out(1);
    const Project& p = m_session.project();
    std::unordered_map<std::string_view, std::vector<const Id*>> children;
    for (const auto& i : p.instances) children[i->parent].push_back(&i->id);
    std::function<void(const Id&, int)> add = [&](const Id& id, int parent) {
        const int at = int(out.size());
        out.push_back({id, parent, {}});
        out[size_t(parent)].children.push_back(at);
        const auto its = children.find(id);
        if (its == children.end()) return;
        if (m_sortColumn >= 0)
            std::stable_sort(its->second.begin(), its->second.end(), [this](const Id* a, const Id* b) { return before(*a, *b); });
        for (const Id* child : its->second) add(*child, at);
    };
    for (const auto& m : p.masters) add(m->id, 0);
    return out;
}

std::unordered_map<Id, std::vector<size_t>> InstanceModel::columnsShown() const {
    const Project& p = m_session.project();
    std::set<Id> differ;
    if (m_onlyDifferent)
        for (const InstancePtr& i : p.instances)
            for (const auto& [parameter, value] : i->own) differ.insert(parameter);
    std::unordered_map<Id, std::vector<size_t>> out;
    for (const MasterPtr& m : p.masters)
        for (size_t k = 0; k < m->parameters.size(); ++k) {
            const Id& id = m->parameters[k].id;
            if (!m_hidden.contains(id) && (!m_onlyDifferent || differ.contains(id))) out[m->id].push_back(k);
        }
    return out;
}

const Parameter* InstanceModel::parameterIn(const Master& master, int column) const {
    const auto shown = m_shownColumns.find(master.id);
    const int at = column - FirstParameter;
    if (shown == m_shownColumns.end() || at < 0 || at >= int(shown->second.size())) return nullptr;
    const size_t place = shown->second[size_t(at)];
    return place < master.parameters.size() ? &master.parameters[place] : nullptr;
}

bool InstanceModel::before(const Id& a, const Id& b) const {
    const Project& p = m_session.project();
    const Resolved &one = resolved(a), &other = resolved(b);
    if (!one.master || !other.master) return false;
    const auto compare = [&]() -> int {
        const auto words = [](const std::string& x, const std::string& y) { return x.compare(y); };
        const auto order = [](auto x, auto y) { return x < y ? -1 : y < x ? 1 : 0; };
        if (m_sortColumn == Name) return words(p.instance(a)->name, p.instance(b)->name);
        if (m_sortColumn == Wearers) return order(wearersOf(p, a).size(), wearersOf(p, b).size());
        if (m_sortColumn == AlphaModeColumn) return order(int(one.surface.alphaMode), int(other.surface.alphaMode));
        if (m_sortColumn == Sides) return order(one.surface.doubleSided, other.surface.doubleSided);
        const Parameter* parameter = parameterIn(*one.master, m_sortColumn);
        if (!parameter) return 0;
        const ParameterValue &x = one.values.at(parameter->id).value, &y = other.values.at(parameter->id).value;
        if (!parameter->width()) return words(wordsOf(p, *parameter, x), wordsOf(p, *parameter, y));
        for (int c = 0; c < parameter->width(); ++c)
            if (const int o = order(x.value[c], y.value[c])) return o;
        return 0;
    };
    const int o = compare();
    return m_sortOrder == Qt::AscendingOrder ? o < 0 : o > 0;
}

void InstanceModel::setHidden(std::set<Id> parameters) {
    m_hidden = std::move(parameters);
    refresh();
}

void InstanceModel::setOnlyDifferent(bool only) {
    m_onlyDifferent = only;
    refresh();
}

void InstanceModel::sortBy(int column, Qt::SortOrder order) {
    m_sortColumn = column;
    m_sortOrder = order;
    refresh();
}

void InstanceModel::setHeadingsOf(const QModelIndex& row) {
    const Master* master = masterAt(row);
    const Id id = master ? master->id : Id{};
    if (id == m_headings) return;
    m_headings = id;
    if (m_columns) Q_EMIT headerDataChanged(Qt::Horizontal, FirstParameter, columnCount({}) - 1);
}

void InstanceModel::findIdle() {
    // What a build leaves idle is a matter of graphs: while these stay, as in a drag of an instance's value, only further builds are
    // compiled.
    const Snapshot snapshot = m_session.snapshot();
    const bool sameGraphs = m_shown && m_shown->masters == snapshot->masters && m_shown->assemblies == snapshot->assemblies &&
                            !m_session.runner().running(this, "idle");
    const auto& masters = snapshot->masters;
    if (std::none_of(masters.begin(), masters.end(), [](const MasterPtr& m) { return possibleBuilds(*m) > 1; })) return m_idle.clear();
    m_session.runner().run(
        {.owner = this, .kind = "idle"},
        [snapshot, known = sameGraphs ? m_idle : decltype(m_idle){}](const Work& work) {
            std::map<std::pair<Id, Chosen>, std::set<Id>> out;
            for (const MasterPtr& m : snapshot->masters)
                if (possibleBuilds(*m) > 1)
                    for (const Build& b : buildsOf(*snapshot, *m)) {
                        if (work.stopped()) return out;
                        const auto before = known.find({m->id, b.chosen});
                        out[{m->id, b.chosen}] =
                            before != known.end() ? before->second : idleParameters(*snapshot, *masterOfBuild(*m, b.chosen));
                    }
            return out;
        },
        [this](std::map<std::pair<Id, Chosen>, std::set<Id>> found) {
            if (found == m_idle) return;
            m_idle = std::move(found);
            tellValues();
        });
}

const Resolved& InstanceModel::resolved(const Id& id) const {
    auto it = m_resolved.find(id);
    if (it == m_resolved.end()) it = m_resolved.emplace(id, resolve(m_session.project(), id)).first;
    return it->second;
}

void InstanceModel::refresh() {
    findIdle();
    m_resolved.clear();
    m_shown = m_session.snapshot();
    std::unordered_map<Id, std::vector<size_t>> shown = columnsShown();
    size_t columns = 0;
    for (const auto& [master, places] : shown) columns = std::max(columns, places.size());
    const bool columnsDiffer = shown != m_shownColumns;
    m_shownColumns = std::move(shown);
    std::vector<Entry> now = entries();
    if (now != m_entries || columnsDiffer) {
        beginResetModel();
        m_entries = std::move(now);
        m_columns = columns;
        endResetModel();
        return;
    }
    tellValues();
}

void InstanceModel::tellValues() {
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

const Master* InstanceModel::masterAt(const QModelIndex& index) const {
    const Master* built = index.isValid() ? resolved(idAt(index)).master : nullptr;
    return built ? m_session.project().master(built->id) : nullptr;
}

const Parameter* InstanceModel::parameterAt(const QModelIndex& index) const {
    const Master* m = masterAt(index);
    return m ? parameterIn(*m, index.column()) : nullptr;
}

bool InstanceModel::outOfRange(const QModelIndex& index) const {
    const Parameter* p = parameterAt(index);
    if (!p || !kindOf(p->type).ranged) return false;
    const Value& v = resolved(idAt(index)).values.at(p->id).value.value;
    for (int c = 0; c < p->width(); ++c)
        if (v[c] < p->softMin || v[c] > p->softMax) return true;
    return false;
}

std::optional<Cell> InstanceModel::cellAt(const QModelIndex& index) const {
    const Parameter* p = parameterAt(index);
    return p ? std::optional(Cell{idAt(index), p->id}) : std::nullopt;
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
        if (role == LockedRole) return instance && instance->locked;
        QStringList tags;
        if (instance && (role == TagsRole || role == Qt::AccessibleTextRole))
            for (const std::string& tag : instance->tags) tags << text(tag);
        if (role == TagsRole) return tags.join(", ");
        if (role == Qt::AccessibleTextRole && instance) {
            QStringList words{text(instance->name)};
            if (instance->locked) words << tr("locked");
            return (words + tags).join(", ");
        }
        if (role == Qt::ToolTipRole && instance) return text(instance->note);
        return {};
    }
    if (index.column() == Wearers) {
        if (role != Qt::DisplayRole && role != Qt::ToolTipRole) return {};
        QStringList list;
        for (const std::string& w : wearersOf(p, id)) list << text(w);
        return list.join("; ");
    }
    const Resolved& resolved = this->resolved(id);
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
        if (!parameter->width() || parameter->isNamed() || parameter->alpha) return text(wordsOf(p, *parameter, it->second.value));
        return valueText(it->second.value.value, color);
    case OwnRole: return it->second.origin == id && it->second.bySet.empty();
    case ColorRole:
        if (color) return QColor(text(hexFromColor(it->second.value.value)));
        return {};
    case GroupRole: return text(parameter->group);
    case GroupEdgeRole: {
        const Parameter* left = parameterAt(index.siblingAtColumn(index.column() - 1));
        return !left || left->group != parameter->group;
    }
    case IdleRole: {
        if (m_idle.empty()) return false;
        const auto idle = m_idle.find({resolved.master->id, defaultsOf(*resolved.master)});
        return idle != m_idle.end() && idle->second.contains(parameter->id);
    }
    case Qt::ToolTipRole:
        return text(parameter->name + (parameter->description.empty() ? "" : ": " + parameter->description)) +
               (!it->second.bySet.empty() && resolved.master->parameter(it->second.bySet)
                    ? tr("\nOf the set that %1 names").arg(text(resolved.master->parameter(it->second.bySet)->name))
                    : QString()) +
               (it->second.origin == id ? QString() : tr("\nInherited from %1").arg(text(p.nameOf(it->second.origin)))) +
               (data(index, IdleRole).toBool() ? tr("\nIdle: nothing reads it in this build") : QString());
    case Qt::AccessibleTextRole: return text(parameter->name) + " " + data(index, Qt::DisplayRole).toString();
    default: return {};
    }
}

QVariant InstanceModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    static const char* fixed[] = {QT_TR_NOOP("Instance"), QT_TR_NOOP("Worn by"), QT_TR_NOOP("Alpha"), QT_TR_NOOP("Sides")};
    if (section < FirstParameter) return tr(fixed[section]);
    const Master* master = m_session.project().master(m_headings);
    const Parameter* p = master ? parameterIn(*master, section) : nullptr;
    return p ? QVariant(text(p->name)) : QVariant();
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
    const bool instance = m_session.project().instance(idAt(index));
    if (index.column() == Name || parameterAt(index) || (instance && (index.column() == AlphaModeColumn || index.column() == Sides)))
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
    const std::optional<Cell> cell = cellAt(index);
    // What stands there is rounded; who leaves it as it is leaves the value.
    if (!cell || typed == data(index, Qt::EditRole).toString()) return false;
    return m_session.apply(tr("change %1").arg(text(parameterAt(index)->name)), [&](const Project& p) {
        return withWords(p, {&*cell, 1}, typed.toStdString());
    });
}

QStringList InstanceModel::mimeTypes() const { return {kWornMime}; }

QMimeData* InstanceModel::mimeData(const QModelIndexList& indexes) const {
    auto* data = new QMimeData;
    if (!indexes.isEmpty()) data->setData(kWornMime, QByteArray::fromStdString(idAt(indexes[0])));
    return data;
}

} // namespace hue
