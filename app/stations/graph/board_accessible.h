#pragma once
// The board for screen readers: its cards with their ports, and its wires, each with a name that says what one would see.

namespace hue {

class Board;

/// Boards are read out from now on.
void installBoardAccessibility();
/// Says what was chosen on the board, where somebody listens.
void tellChosen(Board& board);

} // namespace hue
