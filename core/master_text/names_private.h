#pragma once
// What names stand for on a board: cards, parameters and nodes. Not for use elsewhere.
// Threads: an object belongs to one at a time.
#include "core/master_text/master_text.h"
#include "core/nodes/assembly_card.h"

#include <algorithm>
#include <map>

namespace hue::lines {

/// A value as it is written at a port of that width.
std::string written(const Value& value, int width);

/// A map as a text calls it: by its name, or by its id where several bear that name; and back, empty for none.
std::string mapText(const Project& project, const Id& map);
/// What a finish is taken of: "Bodywork/Line Ochre", or its id where that would not lead back to it.
std::string wornText(const Project& project, const Id& worn);
Id mapCalled(const Project& project, const std::string& text);
/// Assemblies as nodes of the text, by name.
std::map<std::string, Id> assemblyNames(const Project& project);
/// A port or choice as a text calls it: without blanks.
inline std::string labelFrom(std::string_view key) {
    std::string out(key);
    std::replace(out.begin(), out.end(), ' ', '_');
    return out;
}
/// The port or choice of a definition that a text calls so; null when there is none.
template <class Def> const Def* called(const std::vector<Def>& all, std::string_view label) {
    const auto it = std::find_if(all.begin(), all.end(), [&](const Def& d) { return labelFrom(d.key) == label; });
    return it == all.end() ? nullptr : &*it;
}
/// Whether a card has a line; cards of parameters are read by the parameter's name.
bool hasLine(const Node& node);
/// The name that a card should have: by its title, else by what it is.
std::string wantedName(const Project& project, const Node& node);
/// Names for the cards of a board that have lines; a known one stays where it is free.
std::map<Id, std::string> nameCards(const Project& project, const Master& board, const std::map<std::string, Id>& known);

/// What a text says of a board that may be another one by now: every line is read, also those that are as they were.
ReadText readToFollow(const Project& project, const Id& board, const std::string& text, const std::map<std::string, Id>& cards);

/// Writes the lines of one board.
class Printer {
  public:
    Printer(const Project& project, const Master& board, std::map<Id, std::string> names);

    std::string card(const Node& node) const;
    std::string parameter(const Parameter& parameter) const;
    /// Empty where the channel has neither wire nor value.
    std::string channel(const std::string& key) const;
    /// "grain.color.r"
    std::string source(const Source& wire) const;
    const std::map<Id, std::string>& names() const { return m_names; }

  private:
    const Project& m_project;
    const Master& m_board;
    std::map<Id, std::string> m_names;
    std::map<Id, std::string> m_assemblies;
};

/// Cards that have lines, each behind those that it reads; what is nearer to an earlier channel comes first.
std::vector<Id> inOrder(const Graph& graph);

} // namespace hue::lines
