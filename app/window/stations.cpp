#include "app/window/stations.h"

#include "app/stations/budget/budget_page.h"
#include "app/stations/dispatch/dispatch_page.h"
#include "app/stations/graph/graph_page.h"
#include "app/stations/instances/instances_page.h"
#include "app/stations/maps/maps_page.h"
#include "app/stations/paint/paint_page.h"

namespace hue {
namespace {

template <class Page> Station* make(Workplace& place) { return new Page(place); }
QString tr(const char* text) { return QObject::tr(text); }

} // namespace

const std::vector<StationDef>& stations() {
    static const std::vector<StationDef> all{
        {"maps", tr("Maps"), QKeySequence("Ctrl+1"), tr("Look into maps, tile, convert, compress and pack them"), make<MapsPage>},
        {"graph", tr("Graph"), QKeySequence("Ctrl+2"), tr("Wire the master, tune its parameters"), make<GraphPage>},
        {"instances", tr("Instances"), QKeySequence("Ctrl+3"), tr("All instances with their values in a table"), make<InstancesPage>},
        {"paint", tr("Paint"), QKeySequence("Ctrl+4"), tr("Paint on the vertices of a mesh, by hand and by rule"), make<PaintPage>},
        {"budget", tr("Budget"), QKeySequence("Ctrl+5"), tr("Where costs go, against a target, and what would save some"),
         make<BudgetPage>},
        {"dispatch", tr("Dispatch"), QKeySequence("Ctrl+6"), tr("Bake maps, write GLB files"), make<DispatchPage>},
    };
    return all;
}

} // namespace hue
