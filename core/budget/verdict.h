#pragma once
// What is worn against a target.
// Threads: any. Nothing is kept between calls.
#include "core/budget/target.h"
#include "core/builds/builds.h"
#include "core/cost/cost.h"
#include "core/document/project.h"

#include <optional>
#include <set>

namespace hue {

/// One limit and what stands against it.
struct Against {
    const LimitDef* def = nullptr;
    double figure = 0, limit = 0; ///< a limit of 0: none
    bool over() const { return limit > 0 && figure > limit; }
    /// Share of the limit that is used; 0 where there is none.
    double share() const { return limit > 0 ? figure / limit : 0; }
    /// "151 of 160 operations per pixel"; "12.5 of 10 MB map memory".
    std::string words() const;
};

/// A master or an instance against a target.
struct Verdict {
    Id worn;
    Cost cost;
    int liveNumbers = 0;                 ///< that wait at the worst point of the pixel stage
    std::set<Id> maps;                   ///< that it reads: ids of maps, texts of curves and gradients
    std::vector<Against> limits;         ///< those of one surface, in the order of limitDefs()
    std::vector<std::string> badFormats; ///< names of maps that are worn in a block format that the target does not read
    bool fits() const;
    /// The limit of which most is used; null where there are none.
    const Against* worst() const;
};
/// `bytes` gives the memory of a map by its id on the graphics card, with its levels; 0 where it cannot be read.
using MapBytes = std::function<size_t(const Id& map)>;
Verdict verdictOf(const Project& project, const Id& worn, const Target& target, const MapBytes& bytes);
/// The same figures against another target.
Verdict against(const Project& project, Verdict verdict, const Target& target);
/// Ids of maps, and texts of curves and gradients, that a master or an instance reads in its build.
std::set<Id> mapsWornBy(const Project& project, const Id& worn);
/// Of a map by its id, or of what is drawn by its text.
size_t bytesOfMap(const MapBytes& bytes, const Id& map);
/// What ships: everything that is worn or derived; of masters that nobody uses themselves.
std::vector<Id> shippedOf(const Project& project);

struct ProjectVerdict {
    std::vector<Verdict> worn;   ///< all that is worn by slots, decals and cards; of masters that nobody wears all instances, or themselves
    std::vector<Against> builds; ///< of each master that has choices, with `masters` naming them
    std::vector<Id> masters;
    Against memory; ///< of all maps together
    bool fits() const;
};
/// Verdicts of many, each build compiled once. One thread at a time; the project and what `bytes` looks at stay as long as this.
class Verdicts {
  public:
    Verdicts(const Project& project, MapBytes bytes) : m_project(project), m_bytes(std::move(bytes)) {}
    Verdict of(const Id& worn, const Target& target);
    const Project& project() const { return m_project; }
    const MapBytes& bytes() const { return m_bytes; }

  private:
    struct Built {
        Cost cost;
        int liveNumbers = 0;
        std::vector<MapSlot> slots;
    };
    const Project& m_project;
    MapBytes m_bytes;
    std::map<std::pair<Id, Chosen>, Built> m_builds; ///< by master
};

/// `of`: these alone; empty: everything that the project ships.
ProjectVerdict verdictOf(const Project& project, const Target& target, const MapBytes& bytes, const std::vector<Id>& of = {});

ProjectVerdict verdictOf(Verdicts& verdicts, const Target& target, const std::vector<Id>& of = {});

} // namespace hue
