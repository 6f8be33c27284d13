#pragma once
// The station Instances: all instances as a tree under their masters, their values in a table.
#include "app/lineup/picture_service.h"
#include "app/stations/station.h"

#include <QAbstractItemModel>
#include <QWidget>

class QTreeView;
class QLabel;

namespace hue {

class InstanceModel : public QAbstractItemModel {
    Q_OBJECT

  public:
    explicit InstanceModel(Session& session, QObject* parent = nullptr);
    enum Column { Name, Wearers, AlphaModeColumn, Sides, FirstParameter };
    enum Role { IdRole = Qt::UserRole, OwnRole, ColorRole, NameRole, MasterRole };
    void setPicture(const Id& worn, const QImage& picture);
    /// All masters and instances, from the top.
    std::vector<Id> rows() const;
    QModelIndex indexOf(const Id& worn) const;
    Id idAt(const QModelIndex& index) const;
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

    Session& m_session;
    std::map<Id, QImage> m_pictures;
    std::vector<Entry> m_entries; ///< [0] is the root
    size_t m_columns = 0;         ///< of parameters
};

class InstancesPage : public Station {
    Q_OBJECT

  public:
    explicit InstancesPage(Workplace& place);
    void arrive() override;
    void addCommands() override;
    QTreeView* table() const { return m_table; }
    InstanceModel* model() const { return m_model; }

  protected:
    void projectChanged(Changes) override;
    void showEvent(QShowEvent*) override;

  private:
    void select(const Id& id);
    void requestPictures();
    Session& m_session;
    PictureService& m_pictures;
    std::vector<Id> m_pictured; ///< by place of the picture service
    InstanceModel* m_model;
    QTreeView* m_table;
    QLabel* m_hint;
};

} // namespace hue
