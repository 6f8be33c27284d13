#pragma once
// Places the parts, and what commands say of projects, time and the lineup.
#include "app/lineup/picture_service.h"
#include "app/session/live_paint_service.h"
#include "app/window/stations.h"

#include <QMainWindow>

class QStackedWidget;
class QSplitter;
class QMenu;

namespace hue {

class StatusBar;
class TopBar;

class MainWindow : public QMainWindow {
    Q_OBJECT

  public:
    MainWindow();
    ~MainWindow() override;

    /// Opens a project; asks about unsaved changes and brings back what a crash left. False when it was not opened.
    bool openFile(const QString& file);
    bool saveTo(const QString& file);
    void startNew(std::string_view startingPoint);
    /// Asks what is to become of somebody else's save.
    void askAboutTheirs();
    /// By its key; nothing happens for an unknown one.
    void showStation(const QString& key);
    /// To a card, a channel or a map, at the station that has it.
    void leadTo(const Place& place);
    QString stationKey() const;

    Session& session() { return *m_session; }
    PictureService& pictures() { return *m_pictures; }
    BoardService& boardService() { return *m_boardService; }
    MapService& mapService() { return *m_mapService; }
    LivePaintService& livePaint() { return *m_livePaint; }
    LineupView& lineup() { return *m_lineup; }
    Commands& commands() { return *m_commands; }
    StatusBar& status() { return *m_status; }
    /// Whether closing asks about unsaved changes; tests that end in the middle turn it off.
    void setAsksBeforeClosing(bool asks) { m_asks = asks; }

  protected:
    void closeEvent(QCloseEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    // commands.cpp
    void addProjectCommands();
    void addViewCommands();
    void addMasterCommands();

    bool mayDiscard();
    bool save();
    bool saveAs();
    void addRecent(const QString& file);
    void offerRecovery();
    void showKeys();
    void record();
    void bringIn(const QStringList& files);
    /// Maps as they are, or as a graphics card reads them once they are compressed.
    void toggleCompressed();
    /// The strip of specimens folds to a line, or comes back as high as it was.
    void foldLineup();
    /// To a height that a station wants; 0: back to what it was.
    void sinkLineup(int height);

    Commands* m_commands;
    std::unique_ptr<Session> m_session;
    std::unique_ptr<PictureService> m_pictures;
    BoardService* m_boardService;
    BudgetService* m_budget;
    std::unique_ptr<MapService> m_mapService;
    std::unique_ptr<LivePaintService> m_livePaint;
    LineupView* m_lineup;
    std::unique_ptr<Workplace> m_place;
    std::vector<Station*> m_stations; ///< in the order of stations()
    TopBar* m_top;
    QStackedWidget* m_pages;
    QSplitter* m_splitter;
    StatusBar* m_status;
    QMenu* m_recent = nullptr;
    int m_unfolded = 0; ///< height of the lineup before it was folded; 0: it is not
    int m_unsunk = 0;   ///< before a station made it low; 0: none has
    bool m_asks = true;
};

} // namespace hue
