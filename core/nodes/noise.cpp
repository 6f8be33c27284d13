// Noises. All hash with integers, so that the graphics card and the CPU agree.
#include "core/nodes/port_makers.h"

#include <charconv>

namespace hue {
namespace {

Val scaledUv(Lowering& l) { return l.b.mul(l.in("uv"), l.in("scale")); }

PortDef scaleIn(float standard) {
    return {"scale", 2, Meaning::Vector, Value::vec2(standard, standard), 0, 64, "Cells per UV unit; one number sets both", {}};
}

} // namespace

void addNoiseNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Noise";
    const PortDef amplitude = numberIn("amplitude", 0.5f, "Half the spread of the result", 0, 2);
    const PortDef pivot = numberIn("pivot", 0.5f, "The middle of the result", -1, 1);
    list.push_back({"noise_2d",
                    "Noise 2D",
                    family,
                    "perlin gradient random clouds smooth",
                    "Soft gradient noise; around 0 to 1 with the given amplitude and pivot.",
                    {uvIn(), scaleIn(8), amplitude, pivot},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.add(l.b.mul(l.b.noise2(scaledUv(l)), l.in("amplitude")), l.in("pivot"))); }});
    list.push_back({"fractal",
                    "Fractal",
                    family,
                    "fbm octaves clouds turbulence noise dirt",
                    "Several octaves of Noise 2D on top of each other.",
                    {uvIn(), scaleIn(4), numberIn("lacunarity", 2, "How much finer each octave is", 1, 4),
                     numberIn("diminish", 0.5f, "How much weaker each octave is"), amplitude, pivot},
                    {numberOut()},
                    {{"octaves", {"1", "2", "3", "4", "5", "6", "7", "8"}, "4", "Octaves; each costs as much as one noise"}},
                    [](Lowering& l) {
                        int octaves = 4;
                        const auto text = l.setting("octaves");
                        std::from_chars(text.data(), text.data() + text.size(), octaves);
                        const Val sum = l.b.fractal2(scaledUv(l), l.in("lacunarity"), l.in("diminish"), octaves);
                        l.out("out", l.b.add(l.b.mul(sum, l.in("amplitude")), l.in("pivot")));
                    }});
    list.push_back({"cell_noise",
                    "Cell noise",
                    family,
                    "random white grid squares blocks",
                    "One random number, 0 to 1, for each cell of a grid.",
                    {uvIn(), scaleIn(8)},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.cell2(scaledUv(l))); }});
    list.push_back({"worley_noise",
                    "Worley noise",
                    family,
                    "cellular voronoi cells stones cracks distance",
                    "Distance to the nearest of scattered points, one to a cell.",
                    {uvIn(), scaleIn(8), numberIn("jitter", 1, "0 puts the points on a grid")},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.worley2(scaledUv(l), l.in("jitter"))); }});
}

} // namespace hue
