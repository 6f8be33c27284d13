// Noises. All hash with integers, so that the graphics card and the CPU agree.
#include "core/nodes/port_makers.h"

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

/// Whether feature points wander, and how fast.
SettingDef pointsSetting() { return {"points", {"still", "moving"}, "still", "moving: each point goes round in its cell, in its own way"}; }
PortDef pointRateIn() { return numberIn("rate", 0.25f, "Turns a second, where points are moving", 0, 4, "/s"); }
bool readsPointInput(const Node& node, std::string_view port) {
    const auto points = node.settings.find("points");
    return port != "rate" || (points != node.settings.end() && points->second == "moving");
}
/// Nothing where they are still.
Val turnsOfPoints(Lowering& l) { return l.setting("points") == "moving" ? l.b.op(Op::Phase, l.in("rate")) : Val{}; }

/// Where a solid noise is read, in cells.
Val scaledPoint(Lowering& l) {
    const bool world = l.setting("space") == "world" && !l.wired("position");
    return l.b.mul(world ? l.b.attribute(Attribute::PositionWorld) : l.in("position"), l.in("scale"));
}

SettingDef octavesSetting() {
    return {"octaves", {"1", "2", "3", "4", "5", "6", "7", "8"}, "4", "Octaves; each costs as much as one noise"};
}
int octavesOf(Lowering& l) { return l.setting("octaves")[0] - '0'; }

PortDef scaleIn(float standard) {
    return {"scale", 2, Meaning::Vector, Value::vec2(standard, standard), 0, 64, "Cells per UV unit; one number sets both", {}};
}

} // namespace

void addSolidNoiseNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Noise";
    const PortDef amplitude = numberIn("amplitude", 0.5f, "Half the spread of the result", 0, 2);
    const PortDef pivot = numberIn("pivot", 0.5f, "The middle of the result", -1, 1);
    const PortDef positionIn{"position",
                             3,
                             Meaning::Position,
                             Value::vec3(0, 0, 0),
                             -1,
                             1,
                             "A point; where nothing is wired, on the object, or in the world by the setting space",
                             "m",
                             Unwired::PositionObject};
    const auto scale = [](float standard) {
        return PortDef{
            "scale", 3, Meaning::Vector, Value::vec3(standard, standard, standard), 0, 64, "Cells to a metre; one number sets all", {}};
    };
    const SettingDef space{
        "space", {"object", "world"}, "object", "Where the point lies when nothing is wired: object moves along, world stays"};
    list.push_back({"noise_3d",
                    "Noise 3D",
                    family,
                    "perlin gradient random clouds smooth solid volume",
                    "Soft gradient noise in space: needs no UVs and has no seams. Around 0 to 1 with the given amplitude and pivot.",
                    {positionIn, scale(8), amplitude, pivot},
                    {numberOut()},
                    {space},
                    [](Lowering& l) { l.out("out", l.b.add(l.b.mul(l.b.noise3(scaledPoint(l)), l.in("amplitude")), l.in("pivot"))); }});
    list.push_back({"fractal_3d",
                    "Fractal 3D",
                    family,
                    "fbm octaves clouds turbulence noise dirt solid volume",
                    "Several octaves of Noise 3D on top of each other.",
                    {positionIn, scale(4), numberIn("lacunarity", 2, "How much finer each octave is", 1, 4),
                     numberIn("diminish", 0.5f, "How much weaker each octave is"), amplitude, pivot},
                    {numberOut()},
                    {octavesSetting(), space},
                    [](Lowering& l) {
                        const Val sum = l.b.fractal3(scaledPoint(l), l.in("lacunarity"), l.in("diminish"), octavesOf(l));
                        l.out("out", l.b.add(l.b.mul(sum, l.in("amplitude")), l.in("pivot")));
                    }});
    list.push_back({"cell_noise_3d",
                    "Cell noise 3D",
                    family,
                    "blocks random steps id solid volume",
                    "One random number, 0 to 1, for each cell of a grid in space.",
                    {positionIn, scale(8)},
                    {numberOut()},
                    {space},
                    [](Lowering& l) { l.out("out", l.b.cell3(scaledPoint(l))); }});
    list.push_back({"worley_noise_3d",
                    "Worley noise 3D",
                    family,
                    "cellular voronoi cells stones cracks distance solid volume",
                    "Distance to the nearest of points scattered in space, one to a cell.",
                    {positionIn, scale(8), numberIn("jitter", 1, "0 puts the points on a grid"), pointRateIn()},
                    {numberOut()},
                    {space, pointsSetting()},
                    [](Lowering& l) {
                        const Val turns = turnsOfPoints(l), at = scaledPoint(l), jitter = l.in("jitter");
                        l.out("out", turns ? l.b.worley3Moving(at, jitter, turns) : l.b.worley3(at, jitter));
                    },
                    readsPointInput});
}

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
    list.push_back({"fractal",
                    "Fractal",
                    family,
                    "fbm octaves clouds turbulence noise dirt",
                    "Several octaves of Noise 2D on top of each other.",
                    {uvIn(), scaleIn(4), numberIn("lacunarity", 2, "How much finer each octave is", 1, 4),
                     numberIn("diminish", 0.5f, "How much weaker each octave is"), amplitude, pivot},
                    {numberOut()},
                    {octavesSetting(), seamlessSetting()},
                    [](Lowering& l) {
                        const int octaves = octavesOf(l);
                        const Val sum = isSeamless(l) ? seamlessFractal(l, octaves)
                                                      : l.b.fractal2(scaledUv(l), l.in("lacunarity"), l.in("diminish"), octaves);
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
                    {uvIn(), scaleIn(8), numberIn("jitter", 1, "0 puts the points on a grid"), pointRateIn()},
                    {numberOut()},
                    {seamlessSetting(), pointsSetting()},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val turns = turnsOfPoints(l), jitter = l.in("jitter");
                        if (!isSeamless(l))
                            return l.out("out", turns ? b.worley2Moving(scaledUv(l), jitter, turns) : b.worley2(scaledUv(l), jitter));
                        const Val period = wholeScale(l), at = b.mul(l.in("uv"), period);
                        l.out("out", turns ? b.worley2MovingSeamless(at, jitter, turns, period) : b.worley2Seamless(at, jitter, period));
                    },
                    readsPointInput});
}

} // namespace hue
