#pragma once
// Draws specimens with OpenGL 4.1: channels first, into float targets, then light over them. So every view reads the
// same channels, and a new graph links only a small program.
#include "core/surface/environment.h"
#include "preview/looks.h"

namespace hue {

struct ViewDef {
    std::string_view key;  ///< "base_color"; dashes are accepted as well
    std::string_view name; ///< "base color"
};
/// In the order of the lighting stage's numbers.
const std::vector<ViewDef>& views();
/// -1 for an unknown one.
int findView(std::string_view key);

struct Camera {
    float yaw = 30, pitch = 18; ///< degrees
    float standOff = 1;         ///< 1: the mesh fits
};

struct RenderSettings {
    int width = 420, height = 252;
    int supersampling = 1; ///< 1 or 2 samples a side
    Camera camera;
    int view = 0;
    std::string light = "sodium-shed";
    float exposure = 0;                                     ///< stops
    Rgb surround{0x77 / 255.f, 0x77 / 255.f, 0x77 / 255.f}; ///< encoded
};

/// 8-bit RGBA, rows from the top.
struct RenderedPicture {
    int width = 0, height = 0;
    std::vector<uint8_t> rgba;
};

/// All calls, construction and destruction included, with the same context current.
class Renderer {
  public:
    Renderer();
    ~Renderer();

    /// Error: gl.shader, with the driver's words; the picture before stays with the caller.
    Result<RenderedPicture> render(const DressedSpecimen& specimen, const RenderSettings& settings);

    /// One output of a Program over the unit UV square, in float precision; the twin of Evaluator::grid on FlatSquare.
    Result<Picture> evaluateFlat(const Evaluator& evaluator, const Frame& frame, std::string_view output, int size);

    /// Links that were needed so far; for the same Programs it stays.
    int links() const;
    std::string driver() const;

  private:
    struct Impl;
    std::unique_ptr<Impl> m;
};

} // namespace hue
