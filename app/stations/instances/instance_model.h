#pragma once
// All masters and their instances as rows, their values as cells.
#include "app/session/session.h"
#include "core/builds/builds.h"
#include "core/instances/instance_cells.h"

#include <QAbstractItemModel>
#include <QImage>
#include <unordered_map>

namespace hue {

class InstanceModel : public QAbstractItemModel {
    Q_OBJECT

  public:
    explicit InstanceModel(Session& session, QObject* parent = nullptr);
    enum Column { Name, Wearers, AlphaModeColumn, Sides, FirstParameter };
    enum Role {
        IdRole = Qt::UserRole,
        OwnRole,
        ColorRole,
        NameRole,
        MasterRole,
        GroupRole,     ///< of a master's row: heading of the group that begins with the column
        GroupEdgeRole, ///< whether a group begins with the column
        IdleRole,      ///< nothing of the row's build reads the value
        LockedRole,
        TagsRole ///< with commas between
    };
    void setPicture(const Id& worn, const QImage& picture);
    /// What a cell stands for; null where it is no value.
    std::optional<Cell> cellAt(const QModelIndex& index) const;
    /// All masters and instances, from the top.
    std::vector<Id> rows() const;
    QModelIndex indexOf(const Id& worn) const;
    Id idAt(const QModelIndex& index) const;
    /// The row's master: itself, or what it derives from in the end.
    const Master* masterAt(const QModelIndex& index) const;
    /// The parameter of the row's master that is shown in a column; null where there is none.
    const Parameter* parameterAt(const QModelIndex& index) const;
    /// Whether a value lies beyond the slider of its parameter.
    bool outOfRange(const QModelIndex& index) const;

    // How the table is looked at; no part of the project.
    /// Parameters that have no column.
    const std::set<Id>& hidden() const { return m_hidden; }
    void setHidden(std::set<Id> parameters);
    /// Columns only for what an instance of the master has an own value of.
    bool onlyDifferent() const { return m_onlyDifferent; }
    void setOnlyDifferent(bool only);
    /// Brothers and sisters in the order of their values in a column; as they were made for a column of -1.
    void sortBy(int column, Qt::SortOrder order);
    int sortColumn() const { return m_sortColumn; }
    Qt::SortOrder sortOrder() const { return m_sortOrder; }
    /// Column headings are the parameters of the row's master.
    void setHeadingsOf(const QModelIndex& row);

    QModelIndex index(int row, int column, const QModelIndex& parent = {}) const override;
    QModelIndex parent(const QModelIndex& child) const override;
    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    QMimeData* mimeData(const QModelIndexList& indexes) const override;
    QStringList mimeTypes() const override;

  private:
    struct Entry {
        Id id;
        int parent = -1;
        std::vector<int> children;
        bool operator==(const Entry&) const = default;
    };
    std::vector<Entry> entries() const;
    void refresh();
    /// Parameters of each master that have columns, as places among its own.
    std::unordered_map<Id, std::vector<size_t>> columnsShown() const;
    const Parameter* parameterIn(const Master& master, int column) const;
    /// Whether one comes before another in the column that is sorted by.
    bool before(const Id& a, const Id& b) const;
    /// In the background.
    void findIdle();
    /// Every row may have changed by inheritance.
    void tellValues();
    const Resolved& resolved(const Id& id) const;

    Session& m_session;
    std::map<Id, QImage> m_pictures;
    std::vector<Entry> m_entries; ///< [0] is the root, then rows from the top; an index's internal id is its place here
    std::unordered_map<Id, std::vector<size_t>> m_shownColumns; ///< by master
    size_t m_columns = 0;                                       ///< of parameters
    std::set<Id> m_hidden;
    bool m_onlyDifferent = false;
    int m_sortColumn = -1;
    Qt::SortOrder m_sortOrder = Qt::AscendingOrder;
    Id m_headings;                                        ///< master whose parameters the headings name
    std::map<std::pair<Id, Chosen>, std::set<Id>> m_idle; ///< by build
    Snapshot m_shown;                                     ///< that the values below are of
    mutable std::unordered_map<Id, Resolved> m_resolved;
};

/// What the rows show: names, values, who wears what.
inline constexpr Changes kInstanceRows = Change::Names | Change::Values | Change::Surface | Change::Graph | Change::Lineup | Change::Maps;

} // namespace hue
