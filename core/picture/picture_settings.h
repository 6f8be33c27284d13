#pragma once
// What a picture of a specimen shows and how: for whoever draws it.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"
#include "core/surface/light_files.h"
#include "core/surface/tone.h"
#include "core/surface/views.h"

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

namespace hue {

enum class Backdrop { Surround, Environment, Depot };

struct RenderSettings {
    int width = 420, height = 252;
    int supersampling = 1;         ///< 1 or 2 samples a side
    std::array<float, 2> jitter{}; ///< pixels by which the picture is moved, right and up; see sampleOffset()
    Orbit camera;
    int view = 0;
    std::string light = "sodium-shed";        ///< of a light made by code
    std::optional<ReadyLight> lightFile = {}; ///< instead, when set
    float rotation = 0;                       ///< of the light, degrees
    float sun = 1;                            ///< strength
    float exposure = 0;                       ///< stops
    ToneCurve tone = ToneCurve::Neutral;
    float glare = 0; ///< 0..1
    Backdrop backdrop = Backdrop::Surround;
    float viewLow = 0, viewHigh = 1;                        ///< what unlit views show from black to white
    Rgb surround{0x77 / 255.f, 0x77 / 255.f, 0x77 / 255.f}; ///< encoded
};

/// Pixels a side that are drawn at most.
constexpr int kMostPixels = 8192;
/// Whether there is such a light and the size can be drawn. Errors: light.unknown, render.size.
Outcome drawable(const RenderSettings& settings);

/// 8-bit RGBA, rows from the top.
struct RenderedPicture {
    int width = 0, height = 0;
    std::vector<uint8_t> rgba;
    bool fromEvaluator = false; ///< drawn from the CPU evaluator; the driver's build is on its way
    float peak = 0;             ///< of views that count: the highest number in the picture
};

/// Where the k-th of several samples of a pixel lies, from its centre, below half a pixel each way: evenly spread however many there
/// are (Roberts, "The Unreasonable Effectiveness of Quasirandom Sequences", 2018). The first lies in the centre.
std::array<float, 2> sampleOffset(int k);

/// The mean of pictures of one size, as the screen shows them.
class PictureMean {
  public:
    void add(const RenderedPicture& picture);
    int count() const { return m_count; }
    /// The last one that was added with the mean of all.
    RenderedPicture picture() const;

  private:
    RenderedPicture m_last;
    std::vector<uint32_t> m_sums;
    int m_count = 0;
};

} // namespace hue
