#pragma once
// The board: cards and wires of the shown master, and all that can be done with them.
#include "app/parts/commands.h"
#include "app/stations/graph/board_layout.h"

#include <QWidget>
#include <set>

class QLineEdit;

namespace hue {

class AddLine;
class FormulaEditor;
class FindBar;
class Overview;

/// What a wire that is being drawn may end at outside of the board.
class ChannelTargets {
  public:
    virtual ~ChannelTargets() = default;
    /// Channel keys and the heights of their rows, in global pixels.
    virtual std::vector<std::pair<std::string, int>> channelPins() const = 0;
    virtual std::string channelAt(const QPoint& global) const = 0;
};

class Board : public QWidget {
    Q_OBJECT

  public:
    Board(Session& session, BoardService& service, Commands& commands, QWidget* parent = nullptr);

    Session& session() const { return m_session; }
    BoardFactsPtr facts() const { return m_service.facts(); }
    void setChannelTargets(ChannelTargets* targets) { m_channels = targets; }
    const BoardLayout& layout() const { return m_layout; }
    const std::set<Id>& selection() const { return m_selection; }
    /// The selection; all cards of the folded bay that was clicked, where nothing is selected.
    std::vector<Id> chosenCards() const;
    void select(std::set<Id> cards);
    /// Board units to widget pixels.
    QPointF toWidget(QPointF board) const { return board * m_zoom + m_origin; }
    QPointF toBoard(QPointF widget) const { return (widget - m_origin) / m_zoom; }
    qreal zoom() const { return m_zoom; }
    static constexpr qreal kLeastZoom = 0.06, kMostZoom = 2.5;
    /// Below it cards are drawn as large swatches.
    static constexpr qreal kFar = 0.45;
    void fit(bool selectionOnly);
    /// Selects a card, and goes there where it is out of view.
    void selectInView(const Id& id);
    void showCard(const Id& id);
    /// Brings a place of the board to the middle, at the present size.
    void lookAt(QPointF board);
    AddLine* addLine() const { return m_addLine; }
    const std::optional<WireEnd>& selectedWire() const { return m_selectedWire; }
    void selectWire(const WireEnd& end);
    /// All wires as they are drawn, those into channels at the right edge of the view.
    std::vector<WireLayout> drawnWires() const;
    /// Those that lead to channels alone; their ends move with the rail beside the board.
    std::vector<WireLayout> channelWires() const;
    /// Cards that are marked, such as those that were found.
    void mark(std::set<Id> cards);
    /// Inks cards by their share of the cost.
    void showHeat(bool on);
    bool showsHeat() const { return m_heat; }
    /// By what a graphics card's compiler saves without each card, in the place of what is counted; empty: as counted.
    void setMeasuredHeat(std::map<Id, double> saved);
    /// Dims what neither feeds the selected cards nor is fed by them.
    void showKin(bool on);
    bool showsKin() const { return m_kin; }

    /// Wires a source to a port, asking for a take where one is needed.
    void connectWire(const Source& source, const Id& node, const std::string& port, const QString& row = {});
    void connectChannelWire(const Source& source, const std::string& channel);
    /// The output that was clicked last; what is placed by typing is wired to it.
    std::optional<Source> selectedOutput() const { return m_selectedOutput; }
    /// What a tap shows: the selected wire, else the chosen output, else the first output of the only selected card.
    std::optional<Source> tapTarget() const;
    /// The same; of several selected cards the first output of each, from the top of the board.
    std::vector<Source> tapTargets() const;
    /// Sets the first unwired color of the only selected card; false when there is none.
    bool hasColor() const;
    void takeColor(const Value& value);

    // Commands on the selection
    void removeSelection();
    void duplicateSelection();
    void copySelection();
    void paste();
    /// Lines of text become cards.
    void pasteLines(const std::string& lines);
    void muteSelection();
    /// Savings that are found leave locked cards alone.
    void lockSelection();
    void renameSelection();
    void exposeSelection();
    void exposeChannel(const std::string& key);
    void tidy();
    void selectAll();
    void find();
    FindBar* findBar() const { return m_find; }
    Overview* overview() const { return m_overview; }
    /// The cards that feed the selected ones, or are fed by them, and those themselves.
    void selectFeeding();
    void selectFed();
    /// Opens the add line; what is chosen there takes the place of the only selected card.
    void replaceSelection();
    void swapSelected();
    /// Asks to which output all wires of the chosen one should be led.
    void leadWires();
    /// The selected wire, or all wires of the chosen output, under ground or above again.
    void toggleUnderpass();
    /// Has the selected wires computed at the vertices, or per pixel again.
    void togglePerVertex();
    void addNote();

    // Assemblies (board_assemblies.cpp)
    /// The selected cards become an assembly, whose name is asked for on its card.
    void foldSelection();
    void unfoldSelection();
    /// Shows the board of the selected card's assembly.
    void enterSelection();
    void leaveAssembly();
    /// An Output card that gives what is chosen.
    void addOutput();

    // Bays
    void baySelection();
    void takeOutOfBay();
    void foldBay();
    void toggleScratch();

  Q_SIGNALS:
    void selectionChanged();
    void viewChanged();
    void layoutChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    bool event(QEvent*) override;

  private:
    enum class Mode { Idle, Pan, Move, Band, Wire, Value, Cut };
    /// What the small line on the board edits.
    enum class Edits { Value, Title, Note, Take, Underpass };
    struct Hit {
        Id card;
        std::optional<CardRow> row; ///< a copy: the layout is made anew with every edit
        bool pin = false;           ///< on the pin of the row
    };
    void relayout();
    void placeOverlays();
    void tellKin();
    /// The selected cards and others that are seen.
    void selectWith(std::set<Id> others);
    Hit hitAt(QPointF board) const;
    std::optional<WireEnd> wireAt(QPointF board) const;
    std::optional<Source> sourceOf(const WireEnd& end) const;
    void openAddLine(QPoint at, const QString& typed, std::optional<Source> from = {});
    void placeProposal(const struct Proposal& proposal);
    /// What was chosen stands where another card stood.
    void takePlace(const Proposal& proposal);
    /// The place nearest to the wanted one where a card of that height lies on no other.
    QPointF freePlace(QPointF wanted, qreal height) const;
    void editValue(const Id& card, const CardRow& row);
    void finishEdit(bool accept);
    /// Shows the small line over a place of the board.
    void openEditor(Edits what, const QRectF& board, const QString& text);
    void editFormula(const Id& card);
    void editNote(const Id& card);
    void editTake();
    void editUnderpass();
    /// The selected wire, or all that start at the selected output or card.
    std::vector<WireEnd> chosenWires() const;
    void chooseSetting(const Id& card, const CardRow& row);
    /// The card, or all selected cards of its kind if it is one of them and the port is unwired there: what is edited together.
    std::vector<Id> alike(const Id& card, const std::string& port) const;
    void setValue(const Id& card, const std::string& port, const Value& value, const QString& row = {});
    void dropWire(QPointF board, const QPoint& global);
    /// Drops all wires of the output that is dragged.
    void dropAllWires(const Hit& hit);
    void moveWires(const Source& from, const Source& to);
    /// Offers what reads a map, or makes one, where a wire does not fit.
    /// A menu of what makes a finish of numbers, or takes numbers of one.
    void offerOfFinish(const Source& source, const Id& card, const std::string& port, const QPoint& global);
    void offerConversion(const Source& source, const Id& card, const std::string& port, const QPoint& global);
    /// Mask or blend, where alpha was wired on an opaque surface.
    void offerAlpha();
    void walk(int key, bool extend);
    void cutAlong(QLineF line);
    void insertOnWire(const Id& card, const WireEnd& end);
    void renameBay(const Id& bay);
    void toggleFold(const Id& bay);
    /// The innermost bay whose head or folded box is there; nullptr for none.
    const BayLayout* bayAt(QPointF board, bool headOnly) const;
    /// The bay of the selected cards, else the one that was clicked last.
    Id chosenBay() const;
    /// A card that was let go in a bay goes into it.
    void joinBayUnder(const Id& card, QPointF at);
    /// Unfolds what hides a card.
    void reveal(const Id& card);
    /// Components that an output gives, as last computed; kMapPort for a map, kFinishPort for a finish.
    int widthOf(const Source& source) const;
    /// Asks which component is wanted; calls back with the take.
    void askTake(int width, const std::function<void(const std::string&)>& chosen);

    // Painting (board_paint.cpp)
    void paintBackground(QPainter&);
    void paintBay(QPainter&, const BayLayout& bay);
    void paintCard(QPainter&, const Id& id, const CardLayout& card);
    void paintNote(QPainter&, const Id& id, const CardLayout& card);
    /// From afar: a large swatch, and the title in a size that can be read.
    void paintFar(QPainter&, const Id& id, const CardLayout& card);
    void paintFoot(QPainter&, const Id& id, const CardLayout& card);
    void paintSwatch(QPainter&, const Id& id, const CardLayout& card, const QRectF& at);
    /// The color of a card, darker the more of the cost is its own, when heat is shown.
    QColor groundOf(const Id& id, const Node& node) const;
    /// A curve over a card's swatch.
    void paintCurve(QPainter&, const QRectF& swatch, const struct CardCurve& curve) const;
    /// Whether an unwired value of a card is written as a color.
    bool showsColor(const Node& node, const PortDef& port) const;
    void paintRow(QPainter&, const Node& node, const CardLayout& card, const CardRow& row);
    void paintPin(QPainter&, const CardRow& row, bool wired, bool emphasised);
    // Wires (board_wire_paint.cpp)
    void paintWires(QPainter&, const QRectF& visible);
    /// Their names lie upon cards that are in the way.
    void paintUnderpasses(QPainter&, const QRectF& visible);
    void paintWire(QPainter&, const WireLayout& wire, const QPainterPath& path, bool chosen);
    /// What a wire takes, and whether it is computed per vertex, where it ends.
    void paintMarks(QPainter& p, const WireLayout& wire);
    void paintFinishWire(QPainter& p, const QPainterPath& path, bool chosen, qreal far);
    void paintUnderpass(QPainter&, const WireLayout& wire, bool chosen);
    QPointF channelPin(const std::string& key) const;
    /// Where the name of an underpass stands at its end.
    QRectF underpassLabel(const WireLayout& wire) const;

    Session& m_session;
    BoardService& m_service;
    Commands& m_commands;
    ChannelTargets* m_channels = nullptr;
    AddLine* m_addLine = nullptr;
    QLineEdit* m_editor = nullptr;
    FormulaEditor* m_formula = nullptr;
    FindBar* m_find = nullptr;
    Overview* m_overview = nullptr;
    Edits m_edits = Edits::Value;
    Id m_editedCard;
    std::string m_editedPort;
    WireEnd m_editedWire;

    BoardLayout m_layout;
    mutable Router m_router; ///< around the cards of the layout
    std::set<Id> m_selection;
    std::optional<WireEnd> m_selectedWire;
    std::optional<Source> m_selectedOutput;
    Id m_chosenBay; ///< whose head was clicked last
    Id m_replaced;  ///< card whose place is taken by what the add line gives; empty: none
    std::set<Id> m_marked, m_related;
    bool m_heat = false, m_kin = false;
    double m_mostCost = 1;                ///< of a card, while heat is drawn
    std::map<Id, double> m_measuredHeat;
    qreal m_zoom = 1;
    QPointF m_origin{24, 24};
    bool m_fitted = false;
    /// How each master was last seen.
    struct View {
        qreal zoom;
        QPointF origin;
        bool moved; ///< by hand
    };
    std::map<Id, View> m_views;
    Id m_master; ///< that is seen now

    Mode m_mode = Mode::Idle;
    QPointF m_pressBoard, m_pressWidget, m_nowWidget;
    std::map<Id, QPointF> m_moveFrom;
    Source m_wireFrom;
    bool m_allWires = false; ///< of the output are dragged
    Hit m_pressed;
    Value m_valueFrom;
    std::set<Id> m_bandBase;
    bool m_moved = false;
};

} // namespace hue
