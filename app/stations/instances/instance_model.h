#pragma once
// All masters and their instances as rows, their values as cells.
#include "app/session/session.h"
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
    enum Role { IdRole = Qt::UserRole, OwnRole, ColorRole, NameRole, MasterRole };
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
    const Resolved& resolved(const Id& id) const;

    Session& m_session;
    std::map<Id, QImage> m_pictures;
    std::vector<Entry> m_entries; ///< [0] is the root, then rows from the top; an index's internal id is its place here
    size_t m_columns = 0;         ///< of parameters
    Snapshot m_shown;             ///< that the values below are of
    mutable std::unordered_map<Id, Resolved> m_resolved;
};

/// What the rows show: names, values, who wears what.
inline constexpr Changes kInstanceRows = Change::Names | Change::Values | Change::Surface | Change::Graph | Change::Lineup | Change::Maps;

} // namespace hue
