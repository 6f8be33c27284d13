#pragma once
// Looks through what is worn for what could be cheaper. Used by core/suggest alone.
// Threads: an object belongs to one at a time.
#include "core/compile/compile.h"
#include "core/suggest/suggest.h"

namespace hue {

class Rules {
  public:
    Rules(const Project& project, const Id& worn, const Target& target, const FrameInputs& inputs, TriedMaps* maps);
    /// All that is found, but what is silenced.
    std::vector<Proposed> run();

  private:
    /// Over the unit square, 16 pixels a side.
    struct Spread {
        Value mean, least, most;
        bool constant() const;
    };
    std::optional<Spread> spreadOf(const Source& wire) const;

    std::string titleOf(const Node& node) const;
    void add(std::string_view rule, const std::string& about, std::string title, std::string why, const Id& card, edit::Edit change);
    void set(std::string_view rule, const Node& node, const std::string& key, const std::string& value, std::string title, std::string why);
    /// Who reads a card: (card, port), and channels with an empty card.
    std::vector<std::pair<Id, std::string>> readersOf(const Id& card) const;
    const Source& wireAt(const Id& card, const std::string& port) const;
    /// The edit that reads a value there in the place of its wire.
    edit::Edit valueAt(const Id& card, const std::string& port, const Value& value) const;

    // Of the board: rules.cpp
    void settings(const Node& node, const NodeDef& def);
    void wires(const Node& node, const NodeDef& def);
    void constant(const Node& node, const NodeDef& def);
    void chain(const Node& node);
    void perPlacement(const Node& node, const NodeDef& def);
    void choices();
    void surface();
    void channels();
    void idleLayers();

    // Of maps: map_rules.cpp
    struct Reading {
        const Node* card = nullptr;
        const Parameter* parameter = nullptr; ///< whose map it reads, or null
        Id map;
    };
    std::vector<Reading> readings() const;
    /// Maps that are read, by what they are read through; those of values that instances have as well.
    std::set<Id> mapsRead() const;
    /// Letters of rgba that are read of a map by this master's Program; empty where it cannot be told.
    std::string channelsRead(const Id& map) const;
    bool isOwnOfInstances(const Id& parameter) const;
    void formats();
    void smallerMaps();
    void constantChannels();
    void packMaps();
    void shareSamplers();
    void proceduralToMap();
    void mapToProcedural();

    // Of decals: decal_rules.cpp
    void decalDepths();

    const Project& m_project;
    const Resolved m_resolved;
    const Target& m_target;
    const FrameInputs& m_inputs;
    TriedMaps* m_maps;
    const Master* m_master = nullptr;
    std::vector<Id> m_users; ///< masters and instances of this master that ship
    std::set<Id> m_owned;    ///< parameters that instances of it have own values of
    std::optional<Compilation> m_compiled;
    std::map<Id, CardCost> m_cards;
    std::vector<Proposed> m_out;
};

} // namespace hue
