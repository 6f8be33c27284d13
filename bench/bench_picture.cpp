// From an edit to the new picture, on the driver at hand: compile, link, draw; and a drag, which only draws.
#include "bench/bench_graphs.h"
#include "core/document/edits.h"
#include "preview/egl_context.h"
#include "preview/renderer.h"

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>

int main() {
    using namespace hue;
    using Clock = std::chrono::steady_clock;
    // The driver would find the shaders of an earlier run on disk; an artist's new graph is never there.
    setenv("MESA_SHADER_CACHE_DISABLE", "true", 1);
    auto context = EglContext::create();
    if (!context) return std::fprintf(stderr, "%s\n", context.error().sentence.c_str()), 2;
    (*context)->makeCurrent();
    {
        Renderer renderer;
        std::printf("driver: %s\n", renderer.driver().c_str());
        Assets assets;
        LookCache looks;
        RenderSettings settings;
        settings.width = 420;
        settings.height = 280;
        auto picture = [&](const Project& p) {
            const auto start = Clock::now();
            const auto r = renderer.render(dress(p, assets, looks, p.lineup.specimens[0], 0), settings);
            if (!r) std::fprintf(stderr, "%s\n", r.error().sentence.c_str());
            return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
        };
        auto median = [](std::vector<double> v) {
            std::sort(v.begin(), v.end());
            return v[v.size() / 2];
        };
        for (int cards : {20, 50, 300}) {
            Project p = bench::largeGraph(cards);
            picture(p); // makes environment, shadow and lighting shader, which later pictures share
            std::vector<double> structural, drags;
            for (int i = 0; i < 7; ++i) {
                // Another structure each time, so that nothing is found in a cache.
                Node n = makeNode("sine");
                const Id id = n.id;
                const Source from = p.masters[0]->graph.channelWires.at("roughness");
                p = *edit::chain(p, {[&](const Project& q) { return edit::addNode(q, "m", n); },
                                     [&](const Project& q) { return edit::connect(q, "m", from, id, "in"); },
                                     [&](const Project& q) {
                                         return edit::connectChannel(q, "m", {id, "out", {}}, "roughness");
                                     }});
                structural.push_back(picture(p));
                p = *edit::setChannelConstant(p, "m", "metallic", Value::number(0.1f * float(i)));
                drags.push_back(picture(p));
            }
            std::printf("%4d cards: new picture after a structural edit %.0f ms, after a dragged value %.1f ms (medians of 7, 420 x 280)\n",
                        cards, median(structural), median(drags));
        }
    }
    return 0;
}
