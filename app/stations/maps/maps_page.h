#pragma once
// The station Maps: the maps and sets of the project, the chosen one under several aspects, and what can be made of it.
#include "app/stations/maps/map_panes.h"
#include "app/stations/station.h"

class QButtonGroup;
class QStackedWidget;
class QStandardItem;
class QStandardItemModel;
class QTreeView;
class QProgressBar;
class QVBoxLayout;

namespace hue {

class MapDrawPane;
class MapPackPane;

class MapsPage : public Station {
    Q_OBJECT

  public:
    enum Pane { Channels, Tiling, Convert, Compress, Pack, Draw };
    explicit MapsPage(Workplace& place);
    void arrive() override;
    bool showPlace(const Place& place) override;
    Id current() const { return m_current; }
    void choose(const Id& map);
    void showPane(Pane pane);
    QTreeView* list() const { return m_list; }
    MapLookPane* look() const { return m_look; }
    MapTilePane* tile() const { return m_tile; }
    MapCompressPane* compress() const { return m_compress; }
    MapPackPane* pack() const { return m_pack; }
    MapDrawPane* draw() const { return m_draw; }
    /// Files and folders: read in the background, brought in as one step of undo, sets and all.
    bool bringIn(const QStringList& files) override;

  protected:
    void projectChanged(Changes) override;
    void showEvent(QShowEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void refresh();
    void fillList();
    void fillItem(QStandardItem* item, const MapFile& map) const;
    void fillFacts();
    void showJob();
    void removeMap();
    void menuAt(QPoint at);

    Session& m_session;
    MapService& m_service;
    Id m_current;
    QTreeView* m_list;
    QStandardItemModel* m_model;
    QStackedWidget* m_panes;
    QWidget *m_empty, *m_right;
    QButtonGroup* m_modes;
    MapLookPane* m_look;
    MapTilePane* m_tile;
    MapConvertPane* m_convert;
    MapCompressPane* m_compress;
    MapPackPane* m_pack;
    MapDrawPane* m_draw;
    QLabel *m_title, *m_numbers, *m_reason, *m_readers;
    QComboBox *m_kind, *m_role, *m_wrap;
    QLineEdit* m_setName;
    QVBoxLayout* m_remarks;
    QWidget* m_job;
    QLabel* m_jobName;
    QProgressBar* m_progress;
};

} // namespace hue
