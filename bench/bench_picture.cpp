// From an edit to the new picture, on the driver at hand: the first picture by the evaluator, the linked build that takes
// over, and a drag, which only draws. Then pictures by size, surface kind and view, the prefilter of a light, large meshes.
#include "bench/bench_graphs.h"
#include "core/edits/edits.h"
#include "core/surface/channels.h"
#include "preview/build_service.h"
#include "preview/egl_context.h"
#include "preview/renderer.h"

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <thread>

namespace {

using namespace hue;
using Clock = std::chrono::steady_clock;

double since(Clock::time_point start) { return std::chrono::duration<double, std::milli>(Clock::now() - start).count(); }

double median(std::vector<double> v) {
    std::sort(v.begin(), v.end());
    return v[v.size() / 2];
}

/// Another structure each time, so that nothing is found in a cache.
Project withOneMoreCard(const Project& p) {
    Node n = makeNode("sine");
    const Id id = n.id;
    const Source from = p.masters[0]->graph.channelWires.at("roughness");
    return *edit::chain(p, {[&](const Project& q) { return edit::addNode(q, "m", n); },
                            [&](const Project& q) { return edit::connect(q, "m", from, id, "in"); },
                            [&](const Project& q) {
                                return edit::connectChannel(q, "m", {id, "out", {}}, "roughness");
                            }});
}

class Stage {
  public:
    Stage(Renderer& renderer) : m_renderer(renderer) {
        settings.width = 420;
        settings.height = 280;
    }
    RenderSettings settings;
    RenderedPicture last;

    double picture(const Project& p) {
        const auto start = Clock::now();
        auto r = m_renderer.render(dress(p, assets, looks, p.lineup.specimens[0], 0), settings);
        if (!r && r.error().code != "render.not-yet") std::fprintf(stderr, "%s\n", r.error().sentence.c_str());
        const double time = since(start);
        if (r) last = std::move(*r);
        return time;
    }
    double steady(const Project& p) {
        std::vector<double> times;
        for (int i = 0; i < 9; ++i) times.push_back(picture(p));
        return median(times);
    }

  private:
    Renderer& m_renderer;
    Assets assets;
    LookCache looks;
};

/// Edits of a graph; with a service the first picture comes from the evaluator, and the time until the build took over
/// is measured too.
void edits(Renderer& renderer, int cards, bool background) {
    Stage stage(renderer);
    Project p = bench::largeGraph(cards);
    stage.picture(p); // makes environment, shadow and lighting shader, which later pictures share
    while (background && stage.last.fromEvaluator) stage.picture(p), std::this_thread::sleep_for(std::chrono::milliseconds(20));
    std::vector<double> first, linked, drags;
    for (int i = 0; i < 7; ++i) {
        p = withOneMoreCard(p);
        const auto start = Clock::now();
        first.push_back(stage.picture(p));
        while (stage.last.fromEvaluator) {
            std::this_thread::sleep_for(std::chrono::milliseconds(10));
            stage.picture(p);
        }
        linked.push_back(since(start));
        p = *edit::setChannelConstant(p, "m", "metallic", Value::number(0.1f * float(i)));
        drags.push_back(stage.picture(p));
    }
    std::printf("%4d cards, %s: first picture %.0f ms, linked build %.0f ms, dragged value %.1f ms (medians of 7, 420 x 280)\n", cards,
                background ? "links in the background" : "waits for the driver   ", median(first), median(linked), median(drags));
}

Project plainProject(const SurfaceKind& kind, AlphaMode mode) {
    Project p;
    auto m = std::make_shared<Master>();
    m->id = "m";
    m->surface.alphaMode = mode;
    p.masters.push_back(m);
    Specimen s;
    s.wears = {"m"};
    p.lineup.specimens = {s};
    p = *edit::applyKind(p, "m", kind);
    if (mode == AlphaMode::Blend) p = *edit::setChannelConstant(p, "m", "alpha", Value::number(0.5f));
    return p;
}

} // namespace

int main() {
    // The driver would find the shaders of an earlier run on disk; an artist's new graph is never there.
    setenv("MESA_SHADER_CACHE_DISABLE", "true", 1);
    auto context = EglContext::create();
    if (!context) return std::fprintf(stderr, "%s\n", context.error().sentence.c_str()), 2;
    (*context)->makeCurrent();
    {
        Renderer renderer;
        std::printf("driver: %s\n", renderer.driver().c_str());
        for (int cards : {20, 50, 300}) edits(renderer, cards, false);
    }
    if (auto builds = BuildService::create(**context)) {
        Renderer renderer(builds.get());
        for (int cards : {20, 50, 300}) edits(renderer, cards, true);
    }
    {
        Renderer renderer;
        Stage stage(renderer);
        for (const SurfaceKind& kind : surfaceKinds())
            for (AlphaMode mode : {AlphaMode::Opaque, AlphaMode::Blend}) {
                if (mode == AlphaMode::Blend && kind.key != "plain") continue;
                const Project p = plainProject(kind, mode);
                std::printf("%-14s %-6s", std::string(kind.name).c_str(), std::string(nameOf(mode)).c_str());
                for (const auto& [w, h] : {std::pair{210, 140}, {420, 280}, {840, 560}, {1280, 760}}) {
                    stage.settings.width = w;
                    stage.settings.height = h;
                    std::printf("  %4d x %3d %6.1f ms", w, h, stage.steady(p));
                }
                std::printf("\n");
            }
        stage.settings.width = 420;
        stage.settings.height = 280;
        const Project plain = plainProject(surfaceKinds()[0], AlphaMode::Opaque);
        for (const char* view :
             {"lit", "light_only", "base_color", "normal", "invalid", "world_normal", "faces", "uv0", "wireframe", "overdraw", "cost"}) {
            stage.settings.view = findView(view);
            std::printf("view %-13s %.1f ms\n", view, stage.steady(plain));
        }
        stage.settings.view = 0;
        stage.settings.glare = 0.2f;
        std::printf("lit with glare     %.1f ms\n", stage.steady(plain));
        Project large = plain;
        for (const auto& [id, triangles] : {std::pair{"shape:sphere/3", "16 thousand"}, {"shape:sphere/5", "262 thousand"}}) {
            large.lineup.specimens[0].mesh = id;
            std::printf("sphere of %s triangles: %.1f ms\n", triangles, stage.steady(large));
        }
        large.lineup.specimens[0].subdivisions = 1;
        std::printf("sphere of 1.05 million triangles: %.1f ms\n", stage.steady(large));
    }
    for (const LightDef& light : lights()) {
        const auto start = Clock::now();
        prefilter(light.radiance);
        std::printf("prefilter %-15s %.0f ms\n", light.id.c_str(), since(start));
    }
    return 0;
}
