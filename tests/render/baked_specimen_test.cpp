// A specimen with its paint and its decals, and the same mesh with nothing but the maps that were baked of it.
#include "core/make/bake_specimen.h"
#include "core/mesh/paint_data.h"
#include "tests/render/three_pictures.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

namespace hue {
namespace {

using namespace test;

class BakedPictures : public InFolder {};

TEST_F(BakedPictures, LookAsWhatWasBaked) {
    // Chalk where it is painted, bumps from a noise in object space, and a glowing decal.
    Project p = bareProject();
    const Id chalk = add(p, "painted"), more = add(p, "painted", {}, {{"channel", "6"}}),
             color = add(p, "mix", {{"bg", Value::vec3(0.25f, 0.1f, 0.05f)}, {"fg", Value::vec3(0.9f, 0.9f, 0.85f)}}),
             uv = add(p, "texcoord"), noise = add(p, "noise_2d"), slopes = add(p, "height_to_normal", {{"scale", Value::number(0.8f)}}),
             bend = add(p, "normal_map");
    wire(p, {chalk, "out", ""}, color, "mix");
    wire(p, {uv, "out", ""}, noise, "uv");
    wire(p, {noise, "out", ""}, slopes, "in");
    wire(p, {slopes, "out", ""}, bend, "in");
    channel(p, {color, "out", ""}, "base_color");
    channel(p, {bend, "out", ""}, "normal");
    channel(p, {more, "out", ""}, "roughness");
    Master d;
    d.id = "d", d.name = "Stencil";
    d.surface.decal = true, d.surface.alphaMode = AlphaMode::Blend;
    d.graph.channelConstants = {
        {"base_color", Value::vec3(0.05f, 0.1f, 0.6f)}, {"roughness", Value::number(0.3f)}, {"emissive", Value::vec3(0.1f, 0.5f, 0)}};
    p.masters.push_back(std::make_shared<Master>(d));
    Decal decal;
    decal.id = "one", decal.name = "Number", decal.wears = "d";
    decal.facing = {0, 1, 0}, decal.width = 1.3f, decal.height = 0.9f, decal.turn = 15, decal.depth = 0.6f;
    decal.position = {0.3f, 0, 0.2f};
    const char* sheet = "shape:plane/3";
    p.lineup.orbit.pitch = 45;
    p.lineup.specimens = {Specimen{.mesh = sheet, .wears = {"m"}, .decals = {decal}}};
    const PaintData bare(shapeById(sheet));
    std::vector<float> left;
    for (const Vertex& v : bare.surface()->vertices) left.push_back(std::clamp(0.5f - v.position[0] * 2, 0.f, 1.f));
    p = *edit::addPaintwork(p, {"w", "Sheet", sheet, {}, {}, std::make_shared<PaintData>(bare.with(0, left).with(5, left))});
    p = *edit::wearPaintwork(p, 0, "w");

    const auto shown = [](const Project& project) {
        LightLibrary lights;
        RenderSettings settings = settingsFor(project, project.lineup.specimens[0], lights, {}, true);
        settings.width = small().width, settings.height = small().height;
        return drawn(project, project.lineup.specimens[0], settings).linked;
    };
    const auto wearing = [&](const Project& project) {
        Assets assets;
        const auto baked = bakeSpecimen(project, assets, project.lineup.specimens[0], {512, 0, 0, {}});
        EXPECT_TRUE(baked && writeBake(*baked, folder));
        if (!baked) return bareProject();
        EXPECT_TRUE(baked->cautions().empty()) << baked->cautions()[0];
        Project maps = bareProject();
        const auto image = [&](const char* name, MapKind kind) {
            maps.maps.push_back(std::make_shared<MapFile>(
                MapFile{name, name, (folder / (std::string(name) + ".png")).string(), kind, Wrap::Repeat, {}, {}}));
            return add(maps, "image", {}, {{"map", name}});
        };
        channel(maps, {image("base_color", MapKind::Color), "color", ""}, "base_color");
        const Id packed = image("occlusion_roughness_metallic", MapKind::Data), tangents = add(maps, "normal_map");
        channel(maps, {packed, "color", "g"}, "roughness");
        channel(maps, {packed, "color", "b"}, "metallic");
        wire(maps, {image("normal", MapKind::Normal), "color", ""}, tangents, "in");
        channel(maps, {tangents, "out", ""}, "normal");
        channel(maps, {image("emissive", MapKind::Color), "color", ""}, "emissive");
        maps.lineup = project.lineup;
        maps.lineup.specimens = {Specimen{.mesh = sheet, .wears = {"m"}}};
        return maps;
    };
    const RenderedPicture whole = shown(p), baked = shown(wearing(p));
    EXPECT_LT(meanDifference(whole, baked), 1.2);
    // What is not baked is seen to be missing.
    Project unpainted = *edit::wearPaintwork(p, 0, {}), undecaled = p;
    undecaled.lineup.specimens[0].decals.clear();
    EXPECT_GT(meanDifference(whole, shown(wearing(unpainted))), 5);
    EXPECT_GT(meanDifference(whole, shown(wearing(undecaled))), 2.5);
}

} // namespace
} // namespace hue
