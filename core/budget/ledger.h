#pragma once
// The ledger: where the cost of a material goes, by stage, bay and card; and what each map costs and who reads it.
// Threads: any. Nothing is kept between calls.
#include "core/budget/verdict.h"
#include "core/cost/shares.h"

namespace hue {

struct LedgerRow {
    enum class Is { Stage, Bay, Card, Within, Rest };
    Is is = Is::Card;
    std::string title;
    Id id;    ///< of the card or bay on the master's board; of a card within: on `board`
    Id board; ///< of a card within: the assembly or master that it lies on
    double operations = 0, fetches = 0;
    std::vector<LedgerRow> rows; ///< those that it consists of, the dearest first; their figures add up to its own
};

struct Ledger {
    Id worn, master;
    std::vector<LedgerRow> stages;         ///< per pixel, per vertex, once a frame or placement; those that there are
    std::map<std::string, Share> channels; ///< by key; empty: what no channel reads alone
    OperationKinds kinds;                  ///< per pixel
    int liveNumbers = 0;                   ///< that wait at the worst point of the pixel stage
    Cost cost;
};
/// Of a master or an instance, in its build. Empty for an unknown id.
Ledger ledgerOf(const Project& project, const Id& worn);

struct MapRow {
    Id map;
    size_t bytes = 0;     ///< on the graphics card, with levels
    std::vector<Id> worn; ///< masters and instances that read it, each once
};
/// Maps that what ships reads, the largest first; `worn`: of these alone, empty: of all that the project ships.
std::vector<MapRow> mapRows(Verdicts& verdicts, const std::vector<Id>& worn = {});

/// Masters against targets: the limit of which most is used by any instance in use, for each.
struct MatrixCell {
    Against worst; ///< `def` null where nothing is limited
    Id worn;       ///< who uses most
    bool over = false;
};
struct Matrix {
    std::vector<Id> masters;
    std::vector<Target> targets;
    std::vector<std::vector<MatrixCell>> cells; ///< by master, by target
};
Matrix matrixOf(Verdicts& verdicts, std::span<const Target> targets);

} // namespace hue
