#include "core/surface/picture_channels.h"

#include <unordered_map>

namespace hue {

void ChannelPicture::resize(int w, int h) {
    width = w;
    height = h;
    const size_t count = size_t(w) * size_t(h);
    for (auto& plane : targets) plane.assign(count, {});
    alpha.assign(count, 0);
}

PixelSurface ChannelPicture::at(size_t pixel) const {
    PackedPixel words;
    for (size_t t = 0; t < targets.size(); ++t) std::copy_n(targets[t][pixel].begin(), 4, words.begin() + long(t) * 4);
    return unpackPixel(words);
}

PixelEvaluation::PixelEvaluation(const AttributePicture& a, std::vector<uint32_t> pixels, const std::array<float, 3>& eye)
    : m_attributes(a), m_eye(eye) {
    const auto width = uint32_t(a.width);
    // Pixels of the same 2 x 2 block meet; a picture's order keeps the rows of a block apart.
    std::unordered_map<uint32_t, std::array<int32_t, 4>> met;
    met.reserve(pixels.size() / 3);
    std::vector<uint32_t> order;
    for (uint32_t p : pixels) {
        const uint32_t x = p % width, y = p / width, key = (y / 2) * width + x / 2;
        auto [it, fresh] = met.try_emplace(key, std::array<int32_t, 4>{-1, -1, -1, -1});
        if (fresh) order.push_back(key);
        it->second[(y & 1) * 2 + (x & 1)] = int32_t(p);
    }
    auto joined = [&](const std::array<int32_t, 4>& four) {
        for (int32_t p : four)
            if (p < 0) return false;
        // Whether the neighbours lie where the first pixel's slopes lead.
        auto uv = [&](int32_t p) { return std::array{a.planes[1][size_t(p)][3], a.planes[2][size_t(p)][3]}; };
        const auto o = size_t(four[0]);
        const auto u0 = uv(four[0]);
        for (int side = 0; side < 2; ++side) {
            const auto u1 = uv(four[side == 0 ? 1 : 2]);
            const float* slope = side == 0 ? &a.planes[4][o][2] : &a.planes[6][o][0];
            const float size = std::fabs(slope[0]) + std::fabs(slope[1]);
            const float miss = std::fabs(u1[0] - u0[0] - slope[0]) + std::fabs(u1[1] - u0[1] - slope[1]);
            if (!(miss <= 0.25f * size + 1e-5f)) return false;
            const auto& p0 = a.planes[0][o];
            const auto& p1 = a.planes[0][size_t(four[side == 0 ? 1 : 2])];
            const float move[3] = {side == 0 ? a.planes[6][o][2] : a.planes[7][o][1], side == 0 ? a.planes[6][o][3] : a.planes[7][o][2],
                                   side == 0 ? a.planes[7][o][0] : a.planes[7][o][3]};
            float missed = 0, moved = 0;
            for (size_t c = 0; c < 3; ++c) missed += std::fabs(p1[c] - p0[c] - move[c]), moved += std::fabs(move[c]);
            if (!(missed <= 0.5f * moved + 1e-6f)) return false;
        }
        return true;
    };
    m_blocks.reserve(order.size());
    for (uint32_t key : order) {
        const auto& four = met[key];
        if (joined(four)) {
            m_blocks.push_back({four, uint32_t(four[0]), true});
            continue;
        }
        for (size_t k = 0; k < 4; ++k) {
            if (four[k] < 0) continue;
            Block lone;
            lone.pixel[k] = four[k];
            lone.from = uint32_t(four[k]);
            m_blocks.push_back(lone);
        }
    }
}

/// 128 blocks stand side by side in a grid that is 256 wide.
class PixelEvaluation::Points final : public PointSource {
  public:
    explicit Points(const PixelEvaluation& e) : m_e(e), m_a(e.m_attributes) {}

    void fill(int, int y, Attribute attribute, int component, float* lanes) const override {
        const size_t first = size_t(y / kBlockRows) * (kBlockColumns / 2);
        for (size_t b = 0; b < kBlockColumns / 2; ++b) {
            const size_t index = std::min(first + b, m_e.m_blocks.size() - 1);
            const Block& block = m_e.m_blocks[index];
            for (int k = 0; k < 4; ++k) {
                float& to = lanes[size_t(k >> 1) * kBlockColumns + b * 2 + size_t(k & 1)];
                if (block.whole) to = at(uint32_t(block.pixel[size_t(k)]), attribute, component, 0, 0);
                else {
                    const uint32_t x = block.from % uint32_t(m_a.width), row = block.from / uint32_t(m_a.width);
                    to = at(block.from, attribute, component, float((k & 1) - int(x & 1)), float((k >> 1) - int(row & 1)));
                }
            }
        }
    }

  private:
    const PixelEvaluation& m_e;
    const AttributePicture& m_a;

    /// An attribute at a pixel, or beside it.
    float at(uint32_t pixel, Attribute attribute, int c, float dx, float dy) const {
        const size_t p = pixel, k = size_t(c);
        const auto& planes = m_a.planes;
        auto position = [&](size_t axis) {
            const float along[3] = {planes[6][p][2], planes[6][p][3], planes[7][p][0]};
            return planes[0][p][axis] + dx * along[axis] + dy * planes[7][p][1 + axis];
        };
        switch (attribute) {
        case Attribute::Uv0: return (c == 0 ? planes[1] : planes[2])[p][3] + dx * planes[4][p][2 + k] + dy * planes[6][p][k];
        case Attribute::Uv1: return planes[4][p][k];
        case Attribute::Color: return planes[5][p][k];
        case Attribute::Painted: return m_a.painted ? planes[5][p][k] : 0.f;
        case Attribute::PaintedSecond: return m_a.second.empty() ? 0.f : m_a.second[p][k];
        case Attribute::PositionWorld: return position(k);
        case Attribute::PositionObject: {
            const auto& rest = m_a.rest;
            if (rest[0].empty()) return position(k); // the specimen stands at the origin
            const float along[3] = {rest[0][p][3], rest[1][p][3], rest[2][p][0]};
            return rest[0][p][k] + dx * along[k] + dy * rest[2][p][1 + k];
        }
        case Attribute::NormalWorld: return planes[1][p][k];
        case Attribute::NormalObject: return m_a.rest[1].empty() ? planes[1][p][k] : m_a.rest[1][p][k];
        case Attribute::TangentWorld: return planes[2][p][k];
        case Attribute::BitangentWorld: return planes[3][p][k];
        case Attribute::Carried0:
        case Attribute::Carried1:
        case Attribute::Carried2:
        case Attribute::Carried3: {
            const auto v = size_t(attribute) - size_t(Attribute::Carried0);
            const auto& carried = m_a.carried;
            if (carried[v].empty()) return 0;
            return carried[v][p][k] + dx * carried[kCarriedVectors + v][p][k] + dy * carried[2 * kCarriedVectors + v][p][k];
        }
        case Attribute::View: {
            const float v[3] = {m_e.m_eye[0] - position(0), m_e.m_eye[1] - position(1), m_e.m_eye[2] - position(2)};
            return v[k] / std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
        }
        case Attribute::Screen:
            return c == 0 ? (float(m_a.originX) + float(pixel % uint32_t(m_a.width)) + 0.5f + dx) / float(m_a.wholeWidth)
                          : 1 - (float(m_a.originY) + float(pixel / uint32_t(m_a.width)) + 0.5f + dy) / float(m_a.wholeHeight);
        case Attribute::DepthGap: return kNothingBehind;
        case Attribute::Side: return planes[0][p][3] < 0 ? -1.f : 1.f;
        case Attribute::Count: break;
        }
        return 0;
    }
};

bool PixelEvaluation::run(const Evaluator& evaluator, const Frame& frame, const std::vector<std::string>& outputs, const Lane& lane,
                          const Work& control) const {
    if (m_blocks.empty()) return true;
    constexpr size_t across = kBlockColumns / 2;
    const int bands = int((m_blocks.size() + across - 1) / across);
    const auto sink = [&](int, int y, int, int, const float* const* planes) {
        const size_t first = size_t(y / kBlockRows) * across;
        for (size_t b = 0; b < across && first + b < m_blocks.size(); ++b)
            for (size_t k = 0; k < 4; ++k)
                if (const int32_t pixel = m_blocks[first + b].pixel[k]; pixel >= 0)
                    lane(uint32_t(pixel), planes, (k >> 1) * kBlockColumns + b * 2 + (k & 1));
    };
    return evaluator.grid(frame, outputs, kBlockColumns, bands * kBlockRows, Points(*this), sink, control);
}

bool PixelEvaluation::channels(const Evaluator& evaluator, const Frame& frame, const SurfaceSettings& settings, int slot,
                               ChannelPicture& to, const Work& control) const {
    const auto all = hue::channels();
    // Planes of each channel in the results; -1: its default.
    std::vector<std::string> outputs;
    std::vector<int> planeOf(all.size(), -1);
    int planes = 0;
    for (size_t k = 0; k < all.size(); ++k) {
        const int32_t value = evaluator.program().output(all[k].key);
        if (value < 0) continue;
        outputs.emplace_back(all[k].key);
        planeOf[k] = planes;
        planes += evaluator.program().code[size_t(value)].width;
    }
    // A wire alone shows as base color, as in surfaceFragmentStage().
    int tapWidth = 0;
    if (const int32_t tap = evaluator.program().output("tap"); tap >= 0 && outputs.empty()) {
        outputs.emplace_back("tap");
        tapWidth = evaluator.program().code[size_t(tap)].width;
    }
    const SurfacePacker packer(settings, slot);
    static const size_t alphaAt = size_t(findChannel("alpha") - all.data());
    const auto pack = [&](uint32_t pixel, const float* const* results, size_t lane) {
        PixelGeometry g;
        const auto& a = m_attributes.planes;
        for (size_t c = 0; c < 3; ++c) {
            g.position[c] = a[0][pixel][c];
            g.normal[c] = a[1][pixel][c];
            g.tangent[c] = a[2][pixel][c];
            g.bitangent[c] = a[3][pixel][c];
        }
        g.front = a[0][pixel][3] > 0;
        thread_local std::vector<std::array<float, 4>> values;
        values.resize(all.size());
        for (size_t k = 0; k < all.size(); ++k) {
            if (planeOf[k] < 0) {
                values[k] = all[k].standard.v;
                if (all[k].meaning == Meaning::Normal) values[k] = {g.normal[0], g.normal[1], g.normal[2], 0};
                continue;
            }
            for (int c = 0; c < all[k].width; ++c) values[k][size_t(c)] = results[planeOf[k] + c][lane];
        }
        if (tapWidth)
            for (int c = 0; c < 3; ++c) values[0][size_t(c)] = tapWidth == 1 ? results[0][lane] : c < tapWidth ? results[c][lane] : 0;
        const PackedPixel packed = packer.pack(g, values);
        for (size_t t = 0; t < to.targets.size(); ++t) std::copy_n(packed.begin() + long(t) * 4, 4, to.targets[t][pixel].begin());
        to.alpha[pixel] = values[alphaAt][0];
    };
    return run(evaluator, frame, outputs, pack, control);
}

std::vector<std::array<float, 4>> PixelEvaluation::output(const Evaluator& evaluator, const Frame& frame, std::string_view output) const {
    std::unordered_map<uint32_t, size_t> order;
    std::vector<uint32_t> pixels;
    for (const Block& b : m_blocks)
        for (int32_t p : b.pixel)
            if (p >= 0) pixels.push_back(uint32_t(p));
    std::sort(pixels.begin(), pixels.end());
    for (size_t i = 0; i < pixels.size(); ++i) order[pixels[i]] = i;
    std::vector<std::array<float, 4>> out(pixels.size());
    const int32_t value = evaluator.program().output(output);
    if (value < 0) return out;
    const int width = evaluator.program().code[size_t(value)].width;
    run(evaluator, frame, {std::string(output)},
        [&](uint32_t pixel, const float* const* planes, size_t lane) {
            for (int c = 0; c < width; ++c) out[order[pixel]][size_t(c)] = planes[c][lane];
        },
        {});
    return out;
}

} // namespace hue
