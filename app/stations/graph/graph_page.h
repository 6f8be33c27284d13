#pragma once
// The station Graph: parameter sheet, board, tap and surface rail side by side.
#include "app/stations/station.h"
#include "core/document/project.h"

namespace hue {

class AssemblyPanel;
class Board;
class ComparePanel;
class ParameterSheet;
class SourcePanel;
class TextPanel;
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
    TextPanel* text() const { return m_text; }
    ComparePanel* comparison() const { return m_compare; }
    AssemblyPanel* assembly() const { return m_assembly; }
    void shareAssemblyAs(const Id& assembly, const QString& file);
    /// Reads an assembly from a file; where the project has it already and something would break, asks first.
    void bringAssemblyFrom(const QString& file);

  private:
    void addAssemblyCommands();
    void shareAssembly();
    void bringAssembly();
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
    TextPanel* m_text;
    ComparePanel* m_compare;
    AssemblyPanel* m_assembly;
};

} // namespace hue
