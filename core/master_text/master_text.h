#pragma once
// A board as lines of text, for those who think in lines: each card one line, in the language of the formula card.
//
//   number wear = 0.4, 0..2                          // a parameter: type, name, default; its slider's range, unit and kind of map
//   color tint = (0.2, 0.4, 0.9)
//   map bark = "Bark color", color
//
//   grain = fractal_noise(scale: 8, octaves: 4)      // a card: its node, what its inputs read, its choices
//   base = tint * grain                              // + - * / of two values are cards as well; a value alone is a Constant
//   soft = smoothstep(0.2, 0.8, grain) * wear        // anything else is a Formula card, which reads up to four others
//   own = formula(a: grain) {                        // the same with lines of its own
//     let t = a * 2
//     t * t
//   }
//   muted rough = one_minus(in: soft)
//
//   base_color = base                                // a channel of the surface; .port and .take behind a name choose what is read
//   roughness = rough.r
//   clearcoat = rough.r.per_vertex                   // and .per_vertex behind all that has it computed at the vertices
//
// Lines stand in any order. A line ends where it ends, except within brackets; remarks begin with //. Bays, places and whatever else a
// line does not say stay with the card that it stands for.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"
#include "core/formula/formula.h"

#include <map>
#include <string>
#include <vector>

namespace hue {

constexpr size_t kLongestText = 1 << 20; ///< bytes

/// The lines of a board, sources first. Cards keep the names that `known` has for them.
BoardText boardText(const Project& project, const Master& board, const std::map<std::string, Id>& known = {});
/// The lines of some of its cards alone, with names that no other card of `known` has.
std::string linesOf(const Project& project, const Master& board, const std::vector<Id>& cards, const std::map<std::string, Id>& known = {});

/// What a text says. Where anything is wrong, what is wrong, line by line, and no project.
struct ReadText {
    std::optional<Project> project;
    std::map<std::string, Id> cards; ///< by name
    std::vector<FormulaProblem> problems;
    bool changes = false; ///< the project differs from the one before
};
/// The board as `text` says it. `was`: what stood for it before; a line that is still the same leaves its card alone, whatever that holds.
/// Cards whose lines are gone are removed; of those that `was` does not name none is.
ReadText readText(const Project& project, const Id& board, const std::string& text, const BoardText& was);
/// Further cards on a board, from lines; what they read may stand there already. `made` receives the ids.
ReadText addLines(const Project& project, const Id& board, const std::string& lines, Point at, std::vector<Id>* made = nullptr);
/// Whether a text has a line of this language; else it is something that was copied elsewhere.
bool looksLikeLines(const std::string& text);

/// A text that was right once, as its board is by now: lines that still say what is there stay as they are written, with remarks and empty
/// lines. Without a text, the lines of the board.
BoardText followed(const BoardText& text, const Project& project, const Id& board);
/// The board as a text says it, which stays with the board; refused where something is wrong: text.wrong, with the first place.
Result<Project> applyText(const Project& project, const Id& board, const std::string& text, const BoardText& was);
/// The same of a text that has been read.
Result<Project> applyText(const ReadText& read, const Id& board, const std::string& text);

/// The lines of the text (from 1) on which cards begin.
std::map<Id, int> linesOfCards(const BoardText& text);
/// The card on a line, or empty.
Id cardOnLine(const BoardText& text, int line);

} // namespace hue
