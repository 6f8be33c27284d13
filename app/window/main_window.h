#pragma once
// Places the parts and gives every command its one action.
#include "app/lineup/picture_service.h"
#include "app/session/board_service.h"

#include <QMainWindow>

class QStackedWidget;
class QSplitter;
class QMenu;

namespace hue {

class Board;
class DispatchPage;
class InstancesPage;
class LineupView;
class MapService;
class MapsPage;
class ParameterSheet;
class StatusBar;
class TapPanel;
class SurfaceRail;
class TopBar;

/// The places of work, in the order of the work.
enum class Station { Maps, Graph, Instances, Dispatch };

class MainWindow : public QMainWindow {
    Q_OBJECT

  public:
    MainWindow();
    ~MainWindow() override;

    /// Opens a project; asks about unsaved changes and brings back what a crash left. False when it was not opened.
    bool openFile(const QString& file);
    bool saveTo(const QString& file);
    void startNew(std::string_view startingPoint);
    void showStation(Station station);

    // For tests and the station's own use.
    Session& session() { return *m_session; }
    PictureService& pictures() { return *m_pictures; }
    BoardService& boardService() { return *m_boardService; }
    Board& board() { return *m_board; }
    LineupView& lineup() { return *m_lineup; }
    ParameterSheet& sheet() { return *m_sheet; }
    SurfaceRail& rail() { return *m_rail; }
    MapsPage& maps() { return *m_maps; }
    MapService& mapService() { return *m_mapService; }
    InstancesPage& instances() { return *m_instances; }
    DispatchPage& dispatch() { return *m_dispatch; }
    TapPanel& tap() { return *m_tap; }
    StatusBar& status() { return *m_status; }
    /// Whether closing asks about unsaved changes; tests that end in the middle turn it off.
    void setAsksBeforeClosing(bool asks) { m_asks = asks; }

  protected:
    void closeEvent(QCloseEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void makeMenu();
    bool mayDiscard();
    bool save();
    bool saveAs();
    void addRecent(const QString& file);
    void offerRecovery();
    void showKeys();
    /// The tap of the selected wire, or away with it.
    void toggleTap();
    /// Asks for size and format, and makes a map of the selected wire.
    void makeMapOfWire();
    /// Maps as they are, or as a graphics card reads them once they are compressed.
    void toggleCompressed();
    Station station() const;
    /// The color field in focus takes the color under the next click on a specimen.
    void pickColor();

    std::unique_ptr<Session> m_session;
    std::unique_ptr<PictureService> m_pictures;
    BoardService* m_boardService;
    std::unique_ptr<MapService> m_mapService;
    TopBar* m_top;
    LineupView* m_lineup;
    QStackedWidget* m_pages;
    QSplitter* m_splitter;
    Board* m_board;
    ParameterSheet* m_sheet;
    SurfaceRail* m_rail;
    MapsPage* m_maps;
    InstancesPage* m_instances;
    DispatchPage* m_dispatch;
    StatusBar* m_status;
    TapPanel* m_tap;
    QMenu* m_recent;
    bool m_asks = true;
};

} // namespace hue
