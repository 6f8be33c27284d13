#pragma once
// A place of work: the page below the lineup. Each is registered once, in app/window/stations.cpp; the window knows the list, not the
// stations.
#include "app/lineup/lineup_view.h"
#include "app/parts/commands.h"
#include "app/session/board_service.h"
#include "app/session/budget_service.h"
#include "app/session/map_service.h"

#include <QWidget>

namespace hue {

/// What a station may use.
struct Workplace {
    Session& session;
    PictureService& pictures;
    BoardService& board;
    MapService& maps;
    BudgetService& budget;
    LineupView& lineup;
    Commands& commands;
    /// Leads to another station, by its key.
    std::function<void(const QString& key)> show;
    /// Leads to a place of the project, at the station that has it.
    std::function<void(const Place& place)> lead;
};

class Station : public QWidget {
    Q_OBJECT

  public:
    Station(Workplace& place, Changes hears);

    /// The page is shown because somebody came here: it takes the focus to where work goes on.
    virtual void arrive() {}
    /// How high the strip of pictures above is while the station is shown; 0: as it was dragged.
    virtual int stripHeight() const { return 0; }
    /// Leads to a place that a problem names; false when it is none of this station's.
    virtual bool showPlace(const Place&) { return false; }
    /// Commands that are its own, into the table.
    virtual void addCommands() {}
    /// Files that were dropped on the window or chosen in its menu; false when it has no use for them.
    virtual bool bringIn(const QStringList&) { return false; }

  protected:
    /// Of the project, of the kinds that the station hears.
    virtual void projectChanged(Changes) {}
    Session& session() const { return m_place.session; }
    Workplace& place() const { return m_place; }

  private:
    Workplace& m_place;
};

struct StationDef {
    QString key;  ///< "graph"
    QString name; ///< "Graph"
    QKeySequence keys;
    QString help;
    Station* (*make)(Workplace& place);
};

} // namespace hue
