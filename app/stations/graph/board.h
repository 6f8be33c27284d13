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

    void setChannelTargets(ChannelTargets* targets) { m_channels = targets; }
    const BoardLayout& layout() const { return m_layout; }
    const std::set<Id>& selection() const { return m_selection; }
    void select(std::set<Id> cards);
    /// Board units to widget pixels.
    QPointF toWidget(QPointF board) const { return board * m_zoom + m_origin; }
    QPointF toBoard(QPointF widget) const { return (widget - m_origin) / m_zoom; }
    qreal zoom() const { return m_zoom; }
    void fit(bool selectionOnly);
    void showCard(const Id& id);
    AddLine* addLine() const { return m_addLine; }

    /// Wires a source to a port, asking for a take where one is needed.
    void connectWire(const Source& source, const Id& node, const std::string& port, const QString& row = {});
    void connectChannelWire(const Source& source, const std::string& channel);
    /// The output that was clicked last; what is placed by typing is wired to it.
    std::optional<Source> selectedOutput() const { return m_selectedOutput; }
    /// What a tap shows: the selected wire, else the chosen output, else the first output of the only selected card.
    std::optional<Source> tapTarget() const;
    /// Sets the first unwired color of the only selected card; false when there is none.
    bool hasColor() const;
    void takeColor(const Value& value);

    // Commands on the selection
    void removeSelection();
    void duplicateSelection();
    void copySelection();
    void paste();
    void muteSelection();
    void renameSelection();
    void exposeSelection();
    void baySelection();
    void tidy();
    void selectAll();

  Q_SIGNALS:
    void selectionChanged();
    void viewChanged();

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
    struct Hit {
        Id card;
        std::optional<CardRow> row; ///< a copy: the layout is made anew with every edit
        bool pin = false;           ///< on the pin of the row
    };
    /// A wire by where it ends; the node is empty for a channel.
    struct WireEnd {
        Id node;
        std::string port;
        bool operator==(const WireEnd&) const = default;
    };

    void relayout();
    Hit hitAt(QPointF board) const;
    std::optional<WireEnd> wireAt(QPointF board) const;
    std::optional<Source> sourceOf(const WireEnd& end) const;
    void openAddLine(QPoint at, const QString& typed, std::optional<Source> from = {});
    void placeProposal(const struct Proposal& proposal);
    /// The place nearest to the wanted one where a card of that height lies on no other.
    QPointF freePlace(QPointF wanted, qreal height) const;
    void editValue(const Id& card, const CardRow& row);
    void finishEdit(bool accept);
    void editFormula(const Id& card);
    void chooseSetting(const Id& card, const CardRow& row);
    void dropWire(QPointF board, const QPoint& global);
    void walk(int key, bool extend);
    void cutAlong(QLineF line);
    void insertOnWire(const Id& card, const WireEnd& end);
    /// Components that an output gives, as last computed; kMapPort for a map.
    int widthOf(const Source& source) const;
    /// Asks which component is wanted; calls back with the take.
    void askTake(int width, const std::function<void(const std::string&)>& chosen);

    // Painting (board_paint.cpp)
    void paintBackground(QPainter&);
    void paintBay(QPainter&, const Id& id, const QRectF& rect);
    void paintCard(QPainter&, const Id& id, const CardLayout& card);
    /// A curve over a card's swatch.
    void paintCurve(QPainter&, const QRectF& swatch, const struct CardCurve& curve) const;
    /// Whether an unwired value of a card is written as a color.
    bool showsColor(const Node& node, const PortDef& port) const;
    void paintRow(QPainter&, const Node& node, const CardLayout& card, const CardRow& row);
    void paintPin(QPainter&, const CardRow& row, bool wired, bool emphasised);
    void paintWire(QPainter&, const QPainterPath& path, QPointF from, QPointF to, const Source& source, bool chosen);
    /// Parallel wires turn in lanes of their own.
    QPainterPath wirePath(QPointF from, QPointF to, int lane = 0) const;
    std::optional<QPointF> outputPin(const Source& source) const;
    QPointF channelPin(const std::string& key) const;
    void forEachWire(const std::function<void(const WireEnd&, const Source&, QPointF from, QPointF to, int lane)>& visit) const;

    Session& m_session;
    BoardService& m_service;
    Commands& m_commands;
    ChannelTargets* m_channels = nullptr;
    AddLine* m_addLine = nullptr;
    QLineEdit* m_editor = nullptr;
    FormulaEditor* m_formula = nullptr;
    Id m_editedCard;
    std::string m_editedPort; ///< empty: the title

    BoardLayout m_layout;
    std::set<Id> m_selection;
    std::optional<WireEnd> m_selectedWire;
    std::optional<Source> m_selectedOutput;
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
    Hit m_pressed;
    Value m_valueFrom;
    std::set<Id> m_bandBase;
    bool m_moved = false;
};

} // namespace hue
