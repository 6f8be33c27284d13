#include "core/image_files/picture_file.h"
#include "demo/patterns.h"

#include <string_view>

namespace hue::depot {
namespace {

/// Distance to the border of the unit tile, 0 at the border.
float fromEdge(float x, float y) { return std::min(std::min(x, 1 - x), std::min(y, 1 - y)); }

/// Nearness of a rivet: 1 in its middle, 0 outside. Rivets run along the four sides.
float rivet(float x, float y) {
    constexpr float inset = 0.055f, radius = 0.0135f;
    constexpr int count = 9;
    float nearest = 1;
    auto along = [&](float t) { return inset + std::round((t - inset) / ((1 - 2 * inset) / count)) * ((1 - 2 * inset) / count); };
    for (float side : {inset, 1 - inset}) {
        nearest = std::min(nearest, std::hypot(x - std::clamp(along(x), inset, 1 - inset), y - side));
        nearest = std::min(nearest, std::hypot(x - side, y - std::clamp(along(y), inset, 1 - inset)));
    }
    return std::clamp(1 - nearest / radius, 0.f, 1.f);
}

float panelHeight(float x, float y) {
    const float seam = smooth(0.004f, 0.013f, fromEdge(x, y));
    const float dome = std::sqrt(std::max(0.f, 1 - (1 - rivet(x, y)) * (1 - rivet(x, y))));
    // Sheet metal is never quite flat.
    const float dents = clouds(x, y, 3, 3, 11) * 0.22f;
    return seam * 0.7f + dome * 0.3f + dents;
}

struct Sett {
    float inside; ///< 0 in the joint, 1 in the middle of the stone
    int x, y;     ///< which stone
};

/// Rows of stones, every other row shifted by half a stone, with borders that waver.
Sett settAt(float x, float y) {
    constexpr int columns = 6, rows = 8;
    const float wx = x + (clouds(x, y, 12, 2, 31) - 0.5f) * 0.018f, wy = y + (clouds(x, y, 12, 2, 37) - 0.5f) * 0.018f;
    const float fy = wy * rows;
    const int row = int(std::floor(fy));
    const float fx = wx * columns + (row & 1 ? 0.5f : 0.f) + (random01(wrap(row, rows), 0, 5) - 0.5f) * 0.3f;
    const int column = int(std::floor(fx));
    const float dx = std::fabs(fx - float(column) - 0.5f) * 2, dy = std::fabs(fy - float(row) - 0.5f) * 2;
    // Superellipse: corners are worn round.
    const float r = std::pow(std::pow(dx, 5.f) + std::pow(dy, 4.f), 0.22f);
    return {std::clamp((0.98f - r) / 0.98f, 0.f, 1.f), wrap(column, columns), wrap(row, rows)};
}

float settHeight(float x, float y) {
    const Sett s = settAt(x, y);
    const float dome = std::pow(s.inside, 0.4f);
    const float stone = 0.42f + 0.4f * dome + 0.16f * random01(s.x, s.y, 3) + 0.09f * (clouds(x, y, 24, 4, 7) - 0.5f);
    const float joint = 0.16f + 0.14f * clouds(x, y, 40, 3, 17);
    return std::clamp(mix(joint, stone, smooth(0.02f, 0.16f, s.inside)), 0.f, 1.f);
}

void settColor(float x, float y, float* rgb) {
    const Sett s = settAt(x, y);
    const float tone = random01(s.x, s.y, 9), warm = random01(s.x, s.y, 13);
    const float grain = clouds(x, y, 64, 3, 19), blotch = clouds(x, y, 9, 3, 23);
    const float fleck = random01(int(x * 1024), int(y * 1024), 29) > 0.965f ? 0.1f : 0.f;
    const float stone = 0.16f + 0.15f * tone + 0.12f * (grain - 0.5f) + 0.08f * (blotch - 0.5f) + fleck;
    const float joint = 0.06f + 0.05f * grain;
    const float in = smooth(0.03f, 0.14f, s.inside);
    rgb[0] = mix(joint * 1.15f, stone * (1.0f + 0.16f * warm), in);
    rgb[1] = mix(joint * 1.02f, stone * (0.99f + 0.04f * warm), in);
    rgb[2] = mix(joint * 0.85f, stone * (0.97f - 0.1f * warm), in);
}

// Letters of five by seven dots, drawn for the depot's displays; a row a number, the left dot its highest bit.
struct Glyph {
    char letter;
    uint8_t rows[7];
};
constexpr Glyph kGlyphs[] = {
    {'4', {0b00010, 0b00110, 0b01010, 0b10010, 0b11111, 0b00010, 0b00010}},
    {'A', {0b01110, 0b10001, 0b10001, 0b11111, 0b10001, 0b10001, 0b10001}},
    {'B', {0b11110, 0b10001, 0b11110, 0b10001, 0b10001, 0b10001, 0b11110}},
    {'C', {0b01111, 0b10000, 0b10000, 0b10000, 0b10000, 0b10000, 0b01111}},
    {'D', {0b11110, 0b10001, 0b10001, 0b10001, 0b10001, 0b10001, 0b11110}},
    {'E', {0b11111, 0b10000, 0b11110, 0b10000, 0b10000, 0b10000, 0b11111}},
    {'I', {0b01110, 0b00100, 0b00100, 0b00100, 0b00100, 0b00100, 0b01110}},
    {'L', {0b10000, 0b10000, 0b10000, 0b10000, 0b10000, 0b10000, 0b11111}},
    {'N', {0b10001, 0b11001, 0b10101, 0b10101, 0b10011, 0b10001, 0b10001}},
    {'O', {0b01110, 0b10001, 0b10001, 0b10001, 0b10001, 0b10001, 0b01110}},
    {'P', {0b11110, 0b10001, 0b10001, 0b11110, 0b10000, 0b10000, 0b10000}},
    {'Q', {0b01110, 0b10001, 0b10001, 0b10001, 0b10101, 0b10010, 0b01101}},
    {'R', {0b11110, 0b10001, 0b10001, 0b11110, 0b10100, 0b10010, 0b10001}},
    {'T', {0b11111, 0b00100, 0b00100, 0b00100, 0b00100, 0b00100, 0b00100}},
    {'U', {0b10001, 0b10001, 0b10001, 0b10001, 0b10001, 0b10001, 0b01110}},
    {'Y', {0b10001, 0b10001, 0b01010, 0b00100, 0b00100, 0b00100, 0b00100}},
};

/// Lamps of a display, `width` by 16: 1 where one is lit.
Picture letters(std::string_view text, int width) {
    Picture p{width, 16, 1, std::vector<float>(size_t(width) * 16)};
    // The frame hides the outermost lamps.
    int x = 9;
    for (char c : text) {
        for (const Glyph& g : kGlyphs)
            if (g.letter == c)
                for (int r = 0; r < 7; ++r)
                    for (int i = 0; i < 5; ++i)
                        // Each dot is one lamp wide and nearly two high, so the letters fill the display.
                        if ((g.rows[r] >> (4 - i)) & 1)
                            for (int k = 0; k < 2; ++k)
                                if (x + i < width) p.values[size_t((1 + 2 * r + k) * width + x + i)] = 1;
        x += c == ' ' ? 4 : 7;
    }
    return p;
}

/// Drops that sit, and short runs beneath some of them; repeats.
float dropHeight(float x, float y) {
    float height = 0;
    for (int layer = 0; layer < 2; ++layer) {
        const int period = layer ? 22 : 9;
        const float u = x * float(period), v = y * float(period);
        const int i = int(std::floor(u)), j = int(std::floor(v));
        for (int b = -1; b <= 1; ++b)
            for (int a = -1; a <= 1; ++a) {
                const int cx = wrap(i + a, period), cy = wrap(j + b, period);
                if (random01(cx, cy, 71 + layer) > (layer ? 0.6f : 0.45f)) continue;
                const float px = float(i + a) + 0.25f + 0.5f * random01(cx, cy, 73 + layer),
                            py = float(j + b) + 0.25f + 0.5f * random01(cx, cy, 79 + layer);
                const float size = 0.16f + 0.24f * random01(cx, cy, 83 + layer), dx = u - px, dy = v - py;
                // Heavier below, and some leave a thin trace above.
                const float way = std::hypot(dx, dy * (dy > 0 ? 1.25f : 0.8f));
                const float drop = std::sqrt(std::max(0.f, 1 - way * way / (size * size)));
                float trace = 0;
                if (layer == 0 && random01(cx, cy, 89) < 0.6f && dy < 0 && dy > -0.9f)
                    trace = 0.4f * (1 - smooth(0, size * 0.45f, std::fabs(dx + 0.06f * std::sin(dy * 9)))) * (1 + dy / 0.9f);
                height = std::max(height, std::max(drop * size * (layer ? 0.7f : 1.4f), trace * size));
            }
    }
    return height;
}

/// Pressed sheet with rows of slots; the alpha is 0 in the holes, and the border around them is dark.
void grille(float x, float y, int across, int down, float* v) {
    const float row = y * float(down), shift = (int(std::floor(row)) & 1) ? 0.5f : 0.f;
    const float u = x * float(across) + shift, cx = u - std::floor(u) - 0.5f, cy = row - std::floor(row) - 0.5f;
    // A slot with round ends, measured from its spine.
    const float spine = std::max(std::fabs(cx) - 0.24f, 0.f), way = std::hypot(spine * float(down) / float(across), cy);
    const float edge = smooth(0.24f, 0.34f, way), wear = 0.92f + 0.12f * (clouds(x, y, 12, 4, 97) - 0.5f);
    for (int c = 0; c < 3; ++c) v[c] = 0.78f * wear * mix(0.35f, 1, edge);
    v[3] = smooth(0.2f, 0.26f, way);
}

} // namespace

std::vector<NamedMap> makeMaps() {
    const Picture panel = tile(1024, 1, [](float x, float y, float* v) { *v = panelHeight(x, y); });
    const Picture setts = tile(1024, 1, [](float x, float y, float* v) { *v = settHeight(x, y); });
    std::vector<NamedMap> maps;
    maps.push_back(
        {"panel_normal", "panel_normal.png", MapKind::Normal, normalsOf(panel, 0.011f), PictureEncoding::Linear, "panel", "normal"});
    // Red: nearness of an edge or rivet. Green: scratches and grain. Blue: occlusion of the seams.
    maps.push_back({"panel_masks", "panel_masks.png", MapKind::Data,
                    tile(1024, 3,
                         [](float x, float y, float* v) {
                             const float edge = fromEdge(x, y);
                             v[0] = std::max(1 - smooth(0.006f, 0.12f, edge), 0.75f * smooth(0, 0.6f, rivet(x, y)));
                             const float scratches = smooth(0.66f, 0.82f, noise(x, std::fmod(y * 6 + x * 1.0f, 1.f), 96, 41)) * 0.5f;
                             v[1] = std::clamp(clouds(x, y, 8, 6, 43) + scratches * clouds(x, y, 16, 2, 47), 0.f, 1.f);
                             v[2] = mix(0.35f, 1, smooth(0, 0.02f, edge));
                         }),
                    PictureEncoding::Linear, "panel", "packed"});
    maps.push_back(
        {"setts_color", "setts_color.png", MapKind::Color, tile(1024, 3, settColor), PictureEncoding::Srgb, "setts", "base color"});
    maps.push_back({"setts_height", "setts_height.png", MapKind::Height, setts, PictureEncoding::Linear, "setts", "height"});
    maps.push_back(
        {"setts_normal", "setts_normal.png", MapKind::Normal, normalsOf(setts, 0.035f), PictureEncoding::Linear, "setts", "normal"});
    maps.push_back({"letters_line_4", "letters_line_4.png", MapKind::Data, letters("4 CINDERQUAY", 96), PictureEncoding::Linear});
    const Picture drops = tile(1024, 1, [](float x, float y, float* v) { *v = dropHeight(x, y); });
    maps.push_back({"drops_normal", "drops_normal.png", MapKind::Normal, normalsOf(drops, 0.045f), PictureEncoding::Linear});
    maps.push_back({"grille_fine", "grille_fine.png", MapKind::Color,
                    tile(512, 4, [](float x, float y, float* v) { grille(x, y, 3, 8, v); }), PictureEncoding::Srgb});
    maps.push_back({"grille_coarse", "grille_coarse.png", MapKind::Color,
                    tile(512, 4, [](float x, float y, float* v) { grille(x, y, 2, 4, v); }), PictureEncoding::Srgb});
    // Cushions of moss for scattering, lighter at their tips.
    maps.push_back({"moss", "moss.png", MapKind::Data,
                    tile(512, 1,
                         [](float x, float y, float* v) {
                             const float cushion = clouds(x, y, 10, 3, 131), tips = clouds(x, y, 60, 3, 137);
                             *v = std::clamp(0.2f + 0.55f * cushion + 0.75f * (tips - 0.4f), 0.f, 1.f);
                         }),
                    PictureEncoding::Linear});
    for (NamedMap& m : makeStoneMaps()) maps.push_back(std::move(m));
    for (NamedMap& m : makeDecalMaps()) maps.push_back(std::move(m));
    maps.push_back({"letters_depot_only", "letters_depot_only.png", MapKind::Data, letters("DEPOT ONLY", 96), PictureEncoding::Linear});
    return maps;
}

} // namespace hue::depot
