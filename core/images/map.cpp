#include "core/images/map.h"

#include "core/images/mips.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

namespace hue {
namespace {

const std::array<float, 256>& decodeTable() {
    static const std::array<float, 256> table = [] {
        std::array<float, 256> t;
        for (int i = 0; i < 256; ++i) t[size_t(i)] = srgbToLinear(float(i) / 255.f);
        return t;
    }();
    return table;
}

size_t bytesPerTexel(TexelFormat f) { return f == TexelFormat::U8 ? 4 : f == TexelFormat::U16 ? 8 : 16; }

} // namespace

Map::Map(int width, int height, TexelFormat format, bool encoded, Wrap wrap, std::vector<std::byte> texels)
    : m_format(format), m_encoded(encoded && format == TexelFormat::U8), m_wrap(wrap) {
    m_levels.push_back({width, height, std::move(texels)});
}

Map Map::uniform(const Value& rgba) {
    std::vector<std::byte> texels(16);
    std::memcpy(texels.data(), rgba.v.data(), 16);
    return Map(1, 1, TexelFormat::F32, false, Wrap::Repeat, std::move(texels));
}

size_t Map::bytes() const {
    size_t sum = 0;
    for (const Level& l : m_levels) sum += l.texels.size();
    return sum;
}

void Map::texel(int level, int x, int y, float rgba[4]) const {
    const Level& l = m_levels[size_t(level)];
    const std::byte* p = l.texels.data() + (size_t(y) * size_t(l.width) + size_t(x)) * bytesPerTexel(m_format);
    if (m_format == TexelFormat::U8) {
        const auto* b = reinterpret_cast<const uint8_t*>(p);
        if (m_encoded) {
            const auto& table = decodeTable();
            for (int c = 0; c < 3; ++c) rgba[c] = table[b[c]];
        } else {
            for (int c = 0; c < 3; ++c) rgba[c] = float(b[c]) * (1 / 255.f);
        }
        rgba[3] = float(b[3]) * (1 / 255.f);
    } else if (m_format == TexelFormat::U16) {
        uint16_t s[4];
        std::memcpy(s, p, 8);
        for (int c = 0; c < 4; ++c) rgba[c] = float(s[c]) * (1 / 65535.f);
    } else {
        std::memcpy(rgba, p, 16);
    }
}

int Map::wrapped(int x, int size) const {
    if (m_wrap == Wrap::Clamp) return std::clamp(x, 0, size - 1);
    if (m_wrap == Wrap::Mirror) {
        const int period = 2 * size;
        x = ((x % period) + period) % period;
        return x < size ? x : period - 1 - x;
    }
    // Almost all reads are inside already.
    if (unsigned(x) < unsigned(size)) return x;
    x %= size;
    return x < 0 ? x + size : x;
}

void Map::bilinear(int level, float u, float v, float rgba[4]) const {
    const Level& l = m_levels[size_t(level)];
    // Whole turns are taken off first, so that far UVs keep their precision and fit an int.
    const float period = m_wrap == Wrap::Mirror ? 2.f : 1.f;
    if (m_wrap != Wrap::Clamp) {
        u -= period * std::floor(u / period);
        v -= period * std::floor(v / period);
    }
    auto place = [](float t, int size) { return std::fmin(std::fmax(t * float(size) - 0.5f, -1e6f), 1e6f); };
    const float x = place(u, l.width), y = place(v, l.height);
    const float fx = std::floor(x), fy = std::floor(y);
    const int x0 = wrapped(int(fx), l.width), x1 = wrapped(int(fx) + 1, l.width);
    const int y0 = wrapped(int(fy), l.height), y1 = wrapped(int(fy) + 1, l.height);
    float a[4], b[4], c[4], d[4];
    texel(level, x0, y0, a);
    texel(level, x1, y0, b);
    texel(level, x0, y1, c);
    texel(level, x1, y1, d);
    const float s = x - fx, t = y - fy;
    for (int i = 0; i < 4; ++i) {
        const float top = a[i] + (b[i] - a[i]) * s;
        const float bottom = c[i] + (d[i] - c[i]) * s;
        rgba[i] = top + (bottom - top) * t;
    }
}

void Map::sample(float u, float v, float level, float rgba[4]) const {
    if (m_levels[0].width == 1 && m_levels[0].height == 1) return texel(0, 0, 0, rgba);
    if (!(std::isfinite(u) && std::isfinite(v))) u = v = 0;
    const int last = levels() - 1;
    const float at = std::clamp(level, 0.f, float(last));
    const int fine = int(at);
    bilinear(fine, u, v, rgba);
    const float blend = at - float(fine);
    if (blend <= 0 || fine == last) return;
    float coarse[4];
    bilinear(fine + 1, u, v, coarse);
    for (int i = 0; i < 4; ++i) rgba[i] += (coarse[i] - rgba[i]) * blend;
}

void Map::makeMips(bool normals) {
    Image top;
    top.width = width(), top.height = height(), top.channels = 4;
    top.type = m_format == TexelFormat::U8 ? SampleType::U8 : m_format == TexelFormat::U16 ? SampleType::U16 : SampleType::F32;
    top.samples = std::move(m_levels[0].texels);
    MipMeaning meaning;
    meaning.encoded = m_encoded;
    if (normals) meaning.normal = {0, 1, 2};
    m_levels.clear();
    for (Image& level : hue::makeMips(std::move(top), meaning)) m_levels.push_back({level.width, level.height, std::move(level.samples)});
}

Value neutralOf(MapKind kind) {
    switch (kind) {
    case MapKind::Color:
    case MapKind::Data: return Value::vec4(1, 1, 1, 1);
    case MapKind::Normal: return Value::vec4(0.5f, 0.5f, 1, 1);
    case MapKind::Height: return Value::vec4(0.5f, 0.5f, 0.5f, 1);
    }
    return Value::vec4(1, 1, 1, 1);
}

MapPtr neutralMap(MapKind kind) {
    static const std::array<MapPtr, 4> maps = [] {
        std::array<MapPtr, 4> made;
        for (int k = 0; k < 4; ++k) made[size_t(k)] = std::make_shared<Map>(Map::uniform(neutralOf(MapKind(k))));
        return made;
    }();
    return maps[size_t(kind)];
}

} // namespace hue
