#pragma once
// Ways for wires on the board: level and upright runs that go around cards, and side by side.
// Threads: any. Nothing is kept between calls.
#include "core/board/box.h"

#include <memory>
#include <span>

namespace hue {

/// A wire from an output's pin to an input's.
struct WireEnds {
    Point from, to;
    int net = 0; ///< wires from one output share a number, and may run upon each other
    bool operator==(const WireEnds&) const = default;
};

/// Corners from pin to pin. Each run is level or upright; the first leaves to the right, the last arrives from the left.
using WayOfWire = std::vector<Point>;

/// No run lies beneath a card where a way around was found, and runs of different nets that do not end at a pin keep `kLaneWidth` apart
/// where there is room. The same pins and cards give the same ways.
std::vector<WayOfWire> waysOfWires(std::span<const WireEnds> wires, std::span<const Box> cards);

/// The same for cards that stay while wires come and go, as those that follow the view: the cards are sorted once.
class Router {
  public:
    Router();
    ~Router();
    Router(const Router&) = delete;
    Router& operator=(const Router&) = delete;

    /// Where cards lie from now on.
    void setCards(std::span<const Box> cards);
    /// What waysOfWires gives for these wires and the cards.
    std::vector<WayOfWire> ways(std::span<const WireEnds> wires);

  private:
    struct Impl;
    std::unique_ptr<Impl> m;
};

constexpr float kLaneWidth = 5;
/// How near a run passes a card that it does not belong to, at least.
constexpr float kClearance = 5;

} // namespace hue
