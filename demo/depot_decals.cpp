// What lies on the tram's side and on the yard: numbers, stripes, chalk, oil, and a poster.
#include "core/base/vectors.h"
#include "core/decals/decal_box.h"
#include "core/maps/mask.h"
#include "demo/graph_writer.h"
#include "demo/patterns.h"

namespace hue::depot {
namespace {

constexpr int kAcross = 512, kUp = 256;

Picture mask(std::initializer_list<const char*> shapes, float soft = 0, int across = kAcross, int up = kUp) {
    MaskDrawing drawing;
    drawing.width = across, drawing.height = up;
    for (const char* words : shapes) {
        const Result<MaskShape> shape = maskShapeOf(words, soft);
        if (!shape) throw std::invalid_argument(shape.error().sentence);
        drawing.shapes.push_back(*shape);
    }
    const Result<Plane> plane = drawMask(drawing);
    if (!plane) throw std::invalid_argument(plane.error().sentence);
    return {across, up, 1, plane->values};
}

/// As if rubbed on: less where a grain lies low.
Picture rubbed(Picture p, int grain, float least, int seed) {
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x) {
            const float u = float(x) / float(p.width), v = float(y) / float(p.height);
            p.values[size_t(y) * size_t(p.width) + size_t(x)] *= smooth(least, least + 0.25f, clouds(u, v, grain, 3, seed));
        }
    return p;
}

/// A blot with a ragged border and drops around it.
Picture oil() {
    return tile(kUp, 1, [](float x, float y, float* v) {
        const float way = std::hypot(x - 0.5f, y - 0.5f) * 2, ragged = clouds(x, y, 5, 4, 211);
        float blot = 1 - smooth(0.45f, 0.62f, way + 0.7f * (ragged - 0.5f));
        for (int k = 0; k < 14; ++k) {
            const float angle = 6.2832f * random01(k, 1, 223), far = 0.62f + 0.28f * random01(k, 2, 223),
                        size = 0.02f + 0.05f * random01(k, 3, 223);
            blot = std::max(blot, 1 - smooth(size * 0.6f, size,
                                             std::hypot((x - 0.5f) * 2 - far * std::cos(angle), (y - 0.5f) * 2 - far * std::sin(angle))));
        }
        *v = blot * mix(0.65f, 1, ragged);
    });
}

/// A night line's poster: a lamp over rails, and its name below.
Picture poster() {
    const int across = 384, up = 512;
    const Picture words = mask({"text 0.1 0.81 0.8 0.075 NIGHT LINE 4", "text 0.2 0.91 0.6 0.04 from Cinderquay"}, 0, across, up);
    const Picture lamp = mask({"ellipse 0.36 0.14 0.28 0.21", "line 0.5 0.34 0.5 0.52 0.02"}, 0.004f, across, up);
    const Picture rails = mask({"line 0.42 0.48 0.12 0.76 0.02", "line 0.58 0.48 0.88 0.76 0.02", "line 0.34 0.56 0.66 0.56 0.012",
                                "line 0.25 0.64 0.75 0.64 0.014", "line 0.16 0.72 0.84 0.72 0.016"},
                               0, across, up);
    Picture p{across, up, 4, std::vector<float>(size_t(across) * size_t(up) * 4)};
    for (int y = 0; y < up; ++y)
        for (int x = 0; x < across; ++x) {
            const size_t k = size_t(y) * size_t(across) + size_t(x);
            const float u = float(x) / float(across), v = float(y) / float(up);
            const float edge = std::min({u, 1 - u, (v)*1.33f, (1 - v) * 1.33f}), paper = 0.95f + 0.1f * (clouds(u, v, 40, 3, 227) - 0.5f);
            Rgb c = v < 0.77f ? Rgb{0.03f, 0.07f, 0.13f} : Rgb{0.75f, 0.70f, 0.58f};
            const float glow = std::exp(-9 * std::hypot(u - 0.5f, (v - 0.245f) * 1.33f));
            if (v < 0.77f) c = {c[0] + 0.7f * glow, c[1] + 0.38f * glow, c[2] + 0.08f * glow};
            const auto over = [&](const Picture& shape, const Rgb& ink) {
                for (size_t i = 0; i < 3; ++i) c[i] = mix(c[i], ink[i], shape.values[k]);
            };
            over(rails, {0.30f, 0.33f, 0.36f});
            over(lamp, {0.95f, 0.66f, 0.22f});
            over(words, {0.06f, 0.06f, 0.07f});
            // A corner is torn off.
            const float torn = smooth(0.10f, 0.115f, std::hypot(1 - u, v * 1.33f) + 0.05f * (clouds(u, v, 18, 3, 229) - 0.5f));
            for (size_t i = 0; i < 3; ++i) p.values[4 * k + i] = std::clamp(c[i] * paper, 0.f, 1.f);
            p.values[4 * k + 3] = smooth(0, 0.006f, edge) * torn;
        }
    return p;
}

} // namespace

std::vector<NamedMap> makeDecalMaps() {
    std::vector<NamedMap> maps;
    const auto add = [&](const char* id, Picture picture) {
        maps.push_back({id, std::string(id) + ".png", MapKind::Data, std::move(picture), PictureEncoding::Linear});
    };
    add("number_427", rubbed(mask({"text 0.05 0.08 0.9 0.84 427"}), 24, 0.12f, 199));
    add("hazard_stripes", rubbed(mask({"polygon 0 0.2 0.1 0.2 0.0 0.5", "polygon 0.2 0.2 0.35 0.2 0.15 0.8 0 0.8",
                                       "polygon 0.45 0.2 0.6 0.2 0.4 0.8 0.25 0.8", "polygon 0.7 0.2 0.85 0.2 0.65 0.8 0.5 0.8",
                                       "polygon 0.95 0.2 1 0.2 1 0.5 0.9 0.8 0.75 0.8"}),
                                 30, 0.06f, 203));
    add("chalk_mark", rubbed(mask({"ellipse 0.06 0.1 0.4 0.8", "value=0 ellipse 0.09 0.16 0.34 0.68", "line 0.55 0.85 0.9 0.15 0.06",
                                   "line 0.58 0.2 0.92 0.8 0.06"},
                                  0.02f),
                             64, 0.38f, 207));
    add("oil_stain", oil());
    maps.push_back({"night_line_poster", "night_line_poster.png", MapKind::Color, poster(), PictureEncoding::Srgb});
    return maps;
}

Master makeStencil() {
    Master m;
    m.id = "stencil";
    m.name = "Stencil";
    m.surface.decal = true;
    m.surface.alphaMode = AlphaMode::Blend;
    m.parameters = {
        mapped("shape", "Shape", MapKind::Data, "number_427", "Stencil", "White where paint lies"),
        colored("ink", "Ink", "#E8E2D0", "Stencil", "Color of the paint"),
        number("ink_roughness", "Ink roughness", 0.55f, 0, 1, "Stencil", "0 mirrors, 1 scatters"),
        number("strength", "Strength", 1, 0, 1, "Stencil", "How much it covers"),
    };
    m.parameters[2].hardMax = m.parameters[3].hardMax = 1;
    GraphWriter g(m);
    g.parameter("shape", 0, 0);
    g.card("read", "image", 1, 0, "Shape").wire("map", "card_shape");
    g.parameter("strength", 1, 2.4f);
    g.card("covers", "multiply", 2, 1, "Covers").wire("in1", "read", "color", "r").wire("in2", "card_strength");
    g.parameter("ink", 2, -1.2f);
    g.parameter("ink_roughness", 2, 3.4f);
    g.channel("base_color", "card_ink");
    g.channel("roughness", "card_ink_roughness");
    g.channel("alpha", "covers");
    return m;
}

Master makePoster() {
    Master m;
    m.id = "poster";
    m.name = "Poster";
    m.surface.decal = true;
    m.surface.alphaMode = AlphaMode::Blend;
    m.parameters = {mapped("picture", "Picture", MapKind::Color, "night_line_poster", "Poster", "Covers as far as its alpha says"),
                    colored("fading", "Fading", "#FFFFFF", "Poster", "Multiplied with the picture")};
    GraphWriter g(m);
    g.parameter("picture", 0, 0);
    g.card("read", "image", 1, 0, "Picture").wire("map", "card_picture");
    g.parameter("fading", 1, -1.6f);
    g.card("faded", "multiply", 2, -0.6f, "Faded").wire("in1", "read", "color").wire("in2", "card_fading");
    g.channel("base_color", "faded");
    g.channel("alpha", "read", "alpha");
    m.graph.channelConstants["roughness"] = Value::number(0.8f);
    return m;
}

namespace {

/// Puts decals where rays meet a mesh.
class Putting {
  public:
    explicit Putting(const MeshPtr& mesh) : m_rays(mesh) {}
    Decal& put(const char* id, const char* name, const char* wears, const Ray& from, float width, float height) {
        const auto at = m_rays.hit(from);
        if (!at) throw std::invalid_argument(name);
        Decal d;
        d.id = id, d.name = name, d.wears = wears;
        d.width = width, d.height = height;
        return all.emplace_back(placedOn(d, m_rays.mesh(), *at));
    }
    std::vector<Decal> all;

  private:
    SurfaceRays m_rays;
};

} // namespace

std::vector<Decal> decalsOnTramSide(const MeshPtr& mesh) {
    Putting on(mesh);
    on.put("side_number", "Fleet number", "fleet_number", {{0.62f, 0.28f, 3}, {0, 0, -1}}, 0.42f, 0.21f);
    on.put("side_stripes", "Foot stripes", "hazard", {{-0.45f, -0.47f, 3}, {0, 0, -1}}, 0.8f, 0.16f).depth = 0.4f;
    return on.all;
}

std::vector<Decal> decalsOnYard(const MeshPtr& mesh) {
    Putting on(mesh);
    on.put("yard_oil", "Oil under the pump", "oil", {{0.25f, 5, 0.45f}, {0, -1, 0}}, 0.6f, 0.6f).turn = 15;
    on.put("yard_chalk", "Fitter's mark", "chalk", {{-0.35f, 5, 0.55f}, {0, -1, 0}}, 0.5f, 0.25f).turn = 20;
    return on.all;
}

} // namespace hue::depot
