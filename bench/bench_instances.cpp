// A production's worth of instances: 500 masters of 40 cards and 12 parameters, with 20 instances each.
#include "bench/bench_graphs.h"
#include "bench/timing.h"
#include "core/base/files.h"
#include "core/check/check.h"
#include "core/edits/edits.h"
#include "core/instances/instance_cells.h"
#include "core/instances/instance_csv.h"
#include "core/project/store.h"

#include <random>
#include <unistd.h>

using namespace hue;

namespace {

constexpr int kMasters = 500, kInstances = 20, kParameters = 12;

Project production() {
    Project p;
    p.name = "production";
    std::mt19937 random(3);
    for (int m = 0; m < kMasters; ++m) {
        Master master = *bench::largeGraph(40).masters[0];
        master.id = fmt::format("m{}", m);
        master.name = fmt::format("Master {}", m);
        for (int k = 0; k < kParameters; ++k) {
            Parameter its;
            its.id = fmt::format("p{}x{}", m, k), its.name = fmt::format("Value {}", k), its.codeName = fmt::format("value_{}", k);
            its.standard.value = Value::number(0.5f);
            master.parameters.push_back(its);
        }
        for (int i = 0; i < kInstances; ++i) {
            Instance instance;
            instance.id = fmt::format("i{}x{}", m, i), instance.name = fmt::format("Instance {}", i);
            // A third derive from the one before.
            instance.parent = i % 3 == 2 ? fmt::format("i{}x{}", m, i - 1) : master.id;
            for (int k = 0; k < 4; ++k)
                instance.own[master.parameters[random() % kParameters].id].value = Value::number(float(random() % 1000) / 1000);
            p.instances.push_back(std::make_shared<Instance>(std::move(instance)));
        }
        p.masters.push_back(std::make_shared<Master>(std::move(master)));
    }
    return p;
}

/// One master with a thousand instances, a third below another.
Project crowd() {
    Project p = production();
    p.masters.resize(1);
    p.instances.clear();
    for (int i = 0; i < 1000; ++i) {
        Instance instance;
        instance.id = fmt::format("i{}", i), instance.name = fmt::format("Instance {}", i);
        instance.parent = i % 3 == 2 ? fmt::format("i{}", i - 1) : "m0";
        p.instances.push_back(std::make_shared<Instance>(std::move(instance)));
    }
    return p;
}

} // namespace

int main() {
    const std::filesystem::path folder = std::filesystem::temp_directory_path() / fmt::format("bench_instances-{}", ::getpid());
    std::filesystem::create_directories(folder);
    const std::filesystem::path file = folder / "production.huestack";
    const Project p = production();
    fmt::print("{} masters, {} instances, {:.1f} MB of text\n", p.masters.size(), p.instances.size(), double(projectText(p).size()) / 1e6);
    std::string hash;
    tell("saved, as the window does that has read it before", times(9, [&](int) {
             if (const Outcome saved = saveProject(p, file, {hash, nullptr, {}, &hash}); !saved) fmt::print("{}\n", saved.error().sentence);
         }));
    tell("opened", times(9, [&](int) {
             if (const auto loaded = loadProject(file); !loaded) fmt::print("{}\n", loaded.error().sentence);
         }));
    tell("a value changes, as a state of the document", times(50, [&](int k) {
             (void)edit::setOwn(p, fmt::format("i{}x3", k), fmt::format("p{}x2", k), {Value::number(0.25f), {}});
         }));

    const Project many = crowd();
    const Master& master = *many.masters[0];
    std::vector<Cell> cells;
    for (const InstancePtr& i : many.instances) cells.push_back({i->id, master.parameters[0].id});
    tell("a default changes and 1,000 instances are resolved", times(20, [&](int k) {
             const auto next = edit::setOwn(many, "m0", master.parameters[0].id, {Value::number(float(k) / 20), {}});
             for (const InstancePtr& i : next->instances) (void)resolve(*next, i->id);
         }));
    tell("1,000 cells multiplied", times(20, [&](int) { (void)withWords(many, cells, "*1.1"); }));
    std::string table;
    tell("1,000 instances as a table", times(20, [&](int) { table = instanceCsv(many, master, true); }));
    for (size_t at = 0; (at = table.find('~', at)) != table.npos;) table.erase(at, 1);
    tell("a table of 12,000 values brought in", times(20, [&](int) { (void)withInstanceCsv(many, master, table); }));
    std::filesystem::remove_all(folder);
}
