#pragma once
// What a wire carries: a flat picture, a histogram, and its course over time, over U or V, or over another number.
// Threads: any. Nothing is kept between calls.
#include "core/compile/compile.h"
#include "core/project/frame_inputs.h"

namespace hue {

/// What a plot runs over. With Wire, over the values of `other`, a number.
struct TapAxis {
    enum class Over { Time, U, V, Wire } over = Over::Time;
    Source other;
};

struct TapFacts {
    int width = 0; ///< components; 0 when the wire carries nothing that can be shown
    Meaning meaning = Meaning::Any;
    bool movesWithTime = false;

    static constexpr int kSide = 128;
    std::vector<float> values; ///< kSide * kSide * width over the unit UV square, rows from the top

    static constexpr int kBins = 48;
    float low = 0, high = 1;                        ///< what the histogram spans: 0 to 1, wider when values lie outside
    std::array<std::array<float, kBins>, 4> shares; ///< by component
    std::array<float, 4> least{}, mean{}, most{};
    std::array<float, 4> outside{}; ///< share of the values below 0 or above 1
    std::array<float, 4> broken{};  ///< share that is not finite

    /// The plot: positions along the axis, and the components there (NaN where nothing is known).
    float axisLow = 0, axisHigh = 1;
    std::string axisName, axisUnit;
    std::vector<std::array<float, 4>> course;
};

/// Any thread; some milliseconds. `worn` gives the values of parameters; `path` leads to the assembly whose wire it is (see compile.h).
TapFacts tapFacts(const Project& project, Assets& assets, const Id& worn, const Source& wire, const TapAxis& axis, double time,
                  const Id& path = {});

/// A card whose value depends on time or on one of its inputs alone, as a curve; empty for others.
struct CardCurve {
    std::string over; ///< "time", or the name of the input
    float low = 0, high = 1;
    std::vector<float> values;
};
/// Wired inputs other than the one have the default of their parameter, or of the port.
CardCurve cardCurve(const Master& master, const Node& node, float loopSeconds);

} // namespace hue
