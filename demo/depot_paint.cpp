// What is painted on the tram's side and on the yard: by rules that stay live, and by strokes as a hand would lead them.
#include "core/mesh/paint_data.h"
#include "core/paint/brush.h"
#include "demo/depot.h"

namespace hue::depot {

std::vector<LiveRules> rulesOfTramSide() {
    // Rust creeps up from the foot, unevenly, and sits where the sheet bends inward.
    return {{0, {"height -0.3..-0.62", "noise 0.09 multiply", "levels 0.12..0.5", "cavities 6..30 add weight 0.5", "blur 0.015"}, {}}};
}

PaintDataPtr strokesOnTramSide(const PaintData& under) {
    // Runs of rust below the belt rail, and a scrape along the side where a kerb has taken the enamel down to the primer.
    PaintData paint = under;
    const PaintSurface surface(paint.surface());
    const auto stroke = [&](int channel, Brush brush, std::initializer_list<std::array<float, 2>> points) {
        PaintStroke hand(surface, paint, channel, brush);
        for (const auto& [x, y] : points) hand.moveTo({{x, y, 3}, {0, 0, -1}});
        paint = hand.done();
    };
    Brush run;
    run.radius = 0.035f, run.weight = 0.75f, run.softEdge = 0.9f;
    stroke(0, run, {{-0.62f, 0.12f}, {-0.61f, -0.1f}, {-0.63f, -0.34f}});
    run.weight = 0.55f;
    stroke(0, run, {{0.31f, 0.1f}, {0.32f, -0.22f}});
    stroke(0, run, {{0.74f, 0.12f}, {0.73f, -0.06f}, {0.75f, -0.3f}});
    Brush scrape;
    scrape.radius = 0.07f, scrape.weight = 0.95f, scrape.softEdge = 0.45f;
    stroke(1, scrape, {{-0.42f, -0.24f}, {-0.1f, -0.2f}, {0.12f, -0.23f}});
    return std::make_shared<PaintData>(std::move(paint));
}

std::vector<LiveRules> rulesOfYard() {
    // Where little light comes, in patches, and a trail that water has left.
    return {{0, {"occlusion 0.5", "levels 0.05..0.45", "noise 0.22 multiply", "levels 0.15..0.6", "blur 0.02"}, {}}};
}

} // namespace hue::depot
