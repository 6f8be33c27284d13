// Noises. All hash with integers, so that the graphics card and the CPU agree.
#include "core/nodes/port_makers.h"

#include <charconv>

namespace hue {
namespace {

Val scaledUv(Lowering& l) { return l.b.mul(l.in("uv"), l.in("scale")); }

/// Whether the noise meets itself at the edges of the unit square.
SettingDef seamlessSetting() {
    return {"seamless", {"no", "yes"}, "no", "yes: the scale is rounded to whole cells, and the noise repeats after one UV unit"};
}
bool isSeamless(Lowering& l) { return l.setting("seamless") == "yes"; }

/// Whole cells to a UV unit, at least one.
Val wholeScale(Lowering& l) { return l.b.op(Op::Max, l.b.op(Op::Floor, l.b.add(l.in("scale"), l.b.number(0.5f))), l.b.number(1)); }

/// Octaves of seamless noise: each has a whole number of times the cells of the one before.
Val seamlessFractal(Lowering& l, int octaves) {
    Builder& b = l.b;
    const Val lacunarity = b.op(Op::Max, b.op(Op::Floor, b.add(l.in("lacunarity"), b.number(0.5f))), b.number(1)),
              diminish = l.in("diminish");
    Val period = wholeScale(l), at = b.mul(l.in("uv"), period), weight = b.number(1);
    Val sum, weights;
    for (int o = 0; o < octaves; ++o) {
        const Val part = b.mul(b.noise2Seamless(at, period), weight);
        sum = o ? b.add(sum, part) : part;
        weights = o ? b.add(weights, weight) : weight;
        weight = b.mul(weight, diminish);
        period = b.mul(period, lacunarity);
        at = b.add(b.mul(at, lacunarity), b.constant(Value::vec2(17.25f, 5.75f)));
    }
    return b.op(Op::Div, sum, weights);
}

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
                    {seamlessSetting()},
                    [](Lowering& l) {
                        const Val period = isSeamless(l) ? wholeScale(l) : Val{};
                        const Val noise = period ? l.b.noise2Seamless(l.b.mul(l.in("uv"), period), period) : l.b.noise2(scaledUv(l));
                        l.out("out", l.b.add(l.b.mul(noise, l.in("amplitude")), l.in("pivot")));
                    }});
    list.push_back(
        {"fractal",
         "Fractal",
         family,
         "fbm octaves clouds turbulence noise dirt",
         "Several octaves of Noise 2D on top of each other.",
         {uvIn(), scaleIn(4), numberIn("lacunarity", 2, "How much finer each octave is", 1, 4),
          numberIn("diminish", 0.5f, "How much weaker each octave is"), amplitude, pivot},
         {numberOut()},
         {{"octaves", {"1", "2", "3", "4", "5", "6", "7", "8"}, "4", "Octaves; each costs as much as one noise"}, seamlessSetting()},
         [](Lowering& l) {
             int octaves = 4;
             const auto text = l.setting("octaves");
             std::from_chars(text.data(), text.data() + text.size(), octaves);
             const Val sum =
                 isSeamless(l) ? seamlessFractal(l, octaves) : l.b.fractal2(scaledUv(l), l.in("lacunarity"), l.in("diminish"), octaves);
             l.out("out", l.b.add(l.b.mul(sum, l.in("amplitude")), l.in("pivot")));
         }});
    list.push_back({"cell_noise",
                    "Cell noise",
                    family,
                    "random white grid squares blocks",
                    "One random number, 0 to 1, for each cell of a grid.",
                    {uvIn(), scaleIn(8)},
                    {numberOut()},
                    {seamlessSetting()},
                    [](Lowering& l) {
                        if (!isSeamless(l)) return l.out("out", l.b.cell2(scaledUv(l)));
                        const Val period = wholeScale(l);
                        l.out("out", l.b.cell2Seamless(l.b.mul(l.in("uv"), period), period));
                    }});
    list.push_back({"worley_noise",
                    "Worley noise",
                    family,
                    "cellular voronoi cells stones cracks distance",
                    "Distance to the nearest of scattered points, one to a cell.",
                    {uvIn(), scaleIn(8), numberIn("jitter", 1, "0 puts the points on a grid")},
                    {numberOut()},
                    {seamlessSetting()},
                    [](Lowering& l) {
                        if (!isSeamless(l)) return l.out("out", l.b.worley2(scaledUv(l), l.in("jitter")));
                        const Val period = wholeScale(l);
                        l.out("out", l.b.worley2Seamless(l.b.mul(l.in("uv"), period), l.in("jitter"), period));
                    }});
}

} // namespace hue
