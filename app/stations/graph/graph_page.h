#pragma once
// The station Graph: parameter sheet, board, tap and surface rail side by side.
#include "app/stations/station.h"
#include "core/document/project.h"

namespace hue {

class Board;
class ParameterSheet;
class SourcePanel;
class SurfaceRail;
class TapPanel;

class GraphPage : public Station {
    Q_OBJECT

  public:
    explicit GraphPage(Workplace& place);
    void arrive() override;
    bool showPlace(const Place& place) override;
    void addCommands() override;
    Board* board() const { return m_board; }
    ParameterSheet* sheet() const { return m_sheet; }
    SurfaceRail* rail() const { return m_rail; }
    TapPanel* tap() const { return m_tap; }
    SourcePanel* source() const { return m_source; }

  private:
    /// The tap of the selected wire, or away with it.
    void toggleTap();
    /// Asks for size and format, and makes a map of the selected wire.
    void makeMapOfWire();
    /// The color field in focus takes the color under the next click on a specimen.
    void pickColor();

    Board* m_board;
    ParameterSheet* m_sheet;
    SurfaceRail* m_rail;
    TapPanel* m_tap;
    SourcePanel* m_source;
};

} // namespace hue
