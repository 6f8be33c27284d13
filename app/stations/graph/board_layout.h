#pragma once
// Where everything on the board lies, in board units; computed from the graph alone.
#include "app/session/board_service.h"

#include <QRectF>

namespace hue {

struct CardRow {
    enum class Kind { Input, Output, Setting };
    Kind kind = Kind::Input;
    std::string key;
    QRectF rect;
    QPointF pin;   ///< where wires meet the card; for settings unused
    int width = 1; ///< components; kMapPort for a map
    bool wired = false;
    bool hasPin = true; ///< false for choices, and for a constant's value, which is only ever set
};

struct CardLayout {
    QRectF rect, swatch, title, foot;
    std::vector<CardRow> rows; ///< outputs first; a lone output has an empty rect
    const NodeDef* def = nullptr;
    bool isParameter = false;

    const CardRow* row(CardRow::Kind kind, std::string_view key) const;
};

struct BoardLayout {
    std::map<Id, CardLayout> cards;
    std::vector<std::pair<Id, QRectF>> bays;

    QRectF bounds() const;
};

constexpr qreal kCardWidth = 166, kRowHeight = 19, kPinReach = 6;

/// In board units, for any node whether it is on the board or not.
qreal heightOfCard(const Node& node);
BoardLayout layoutBoard(const Project& project, const Master& master, const BoardFacts& facts);
/// Columns from left to right by distance from the surface, rows in the order that they have now.
std::map<Id, Point> tidied(const Master& master, const BoardLayout& layout, const std::vector<Id>& which);

} // namespace hue
