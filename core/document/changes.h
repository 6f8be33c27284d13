#pragma once
// What differs between two states of a project, by kind, so that whoever follows a project wakes only for what concerns it.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

enum class Change : uint32_t {
    Graph = 1 << 0,   ///< masters, their cards, wires, unwired values, parameters: what may compile to something else
    Board = 1 << 1,   ///< only how a graph is drawn: places of cards, their titles, bays
    Values = 1 << 2,  ///< defaults of parameters, instances and their own values, the loop
    Surface = 1 << 3, ///< settings of surfaces, of masters or an instance's own
    Maps = 1 << 4,    ///< maps and packings, as entries of the project
    Meshes = 1 << 5,  ///< meshes, as entries of the project
    Lineup = 1 << 6,  ///< specimens, scene, yardstick
    Camera = 1 << 7,  ///< from where, and what is being looked at
    Names = 1 << 8,   ///< of project, masters, instances; which there are
    Paint = 1 << 10,  ///< paintworks, and what is painted
    Files = 1 << 9    ///< what lies on the disk: never by itself between two states, told by whoever watches files
};

/// A set of kinds.
class Changes {
  public:
    constexpr Changes() = default;
    constexpr Changes(Change c) : m_bits(uint32_t(c)) {}
    static constexpr Changes all() { return Changes(~0u); }
    constexpr Changes operator|(Changes other) const { return Changes(m_bits | other.m_bits); }
    constexpr Changes& operator|=(Changes other) { return m_bits |= other.m_bits, *this; }
    /// Any of these.
    constexpr bool any(Changes of) const { return (m_bits & of.m_bits) != 0; }
    constexpr bool none() const { return m_bits == 0; }
    /// Nothing but these, and something.
    constexpr bool only(Changes of) const { return m_bits && (m_bits & ~of.m_bits) == 0; }
    constexpr bool operator==(const Changes&) const = default;

  private:
    constexpr explicit Changes(uint32_t bits) : m_bits(bits) {}
    uint32_t m_bits = 0;
};
constexpr Changes operator|(Change a, Change b) { return Changes(a) | Changes(b); }

/// Quick where states share what did not change, as edits leave them.
Changes changesBetween(const Project& before, const Project& after);

/// What is the window's own affair and no edit: orbits, the view, what it shows and its range, the yardstick's line and gain.
/// `of` with the camera of `from`.
Lineup withCameraOf(Lineup of, const Lineup& from);
/// What the files of made and packed maps hold is no edit either: undo does not turn files back. Maps of `of` with what is known of
/// their files in `from`, so that one made from something else since then is found stale. True when any differed.
bool keepMadeFiles(Project& of, const Project& from);

} // namespace hue
