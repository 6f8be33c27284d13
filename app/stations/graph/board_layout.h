#pragma once
// Where everything on the board lies, in board units; computed from the graph alone.
#include "app/session/board_service.h"
#include "core/board/route.h"

#include <QRectF>
#include <set>

namespace hue {

struct CardRow {
    enum class Kind { Input, Output, Setting };
    Kind kind = Kind::Input;
    std::string key;
    QRectF rect;
    QPointF pin;   ///< where wires meet the card; for settings unused
    int width = 1; ///< components; kMapPort for a map, kFinishPort for a finish
    bool wired = false;
    bool hasPin = true; ///< false for choices, and for a constant's value, which is only ever set
};

struct CardLayout {
    QRectF rect, swatch, title, foot;
    std::vector<CardRow> rows; ///< outputs first; a lone output has an empty rect
    const NodeDef* def = nullptr;
    bool isParameter = false;
    bool isAssembly = false;
    bool isNote = false;

    const CardRow* row(CardRow::Kind kind, std::string_view key) const;
};

/// A bay as it is drawn: around what it holds, or folded to a box that the wires of its cards lead to.
struct BayLayout {
    Id id;
    QRectF rect, head; ///< the head holds the name, and the mark that folds at its left
    int depth = 0;     ///< of bays around it
    bool folded = false;
    struct Pin {
        Id card; ///< that lies in it
        std::string port;
        bool output = false;
        QPointF at;
        QString text;
    };
    std::vector<Pin> pins; ///< of a folded one: what comes in and goes out

    QRectF mark() const { return {head.left(), head.top(), head.height(), head.height()}; }
    const Pin* pin(const Id& card, const std::string& port, bool output) const;
};

/// A wire by where it ends; the node is empty for a channel.
struct WireEnd {
    Id node;
    std::string port;
    auto operator<=>(const WireEnd&) const = default;
};

/// A wire as it is drawn: its corners from output to input. One that is an underpass is drawn at its ends alone.
struct WireLayout {
    WireEnd end;
    Source source;
    WayOfWire way;
};

struct BoardLayout {
    std::map<Id, CardLayout> cards; ///< that are seen: those in folded bays are not here
    std::vector<BayLayout> bays;    ///< those around others first; none within a folded one
    std::map<Id, Id> folded;        ///< cards that are not seen, and the folded bay that stands for them
    std::vector<WireLayout> wires;  ///< between cards; those into channels depend on the view
    std::vector<Box> obstacles;     ///< what wires go around
    std::vector<WireEnds> ends;     ///< of the wires that are drawn whole
    Snapshot of;                    ///< the state that definitions of assemblies point into

    QRectF bounds() const;
    const BayLayout* bay(const Id& id) const;
    /// Where a wire from an output starts; nothing when there is no such output.
    std::optional<QPointF> outputPin(const Source& source) const;
    std::optional<QPointF> inputPin(const Id& node, const std::string& port) const;
};

constexpr qreal kCardWidth = 166, kRowHeight = 19, kPinReach = 6, kNoteWidth = 200;

/// In board units, for any node whether it is on the board or not.
qreal heightOfCard(const Project& project, const Node& node);
BoardLayout layoutBoard(const Project& project, const Master& master, const BoardFacts& facts);
Box boxOf(const QRectF& rect);
/// Cards as boxes, for what computes on them.
std::map<Id, Box> boxesOf(const BoardLayout& layout);
/// Ways for wires, as far as both ends are seen; those of `before` where neither cards nor ends have moved.
void layWires(BoardLayout& layout, const Graph& graph, Router& router, const BoardLayout& before = {});

} // namespace hue
