#pragma once
// Draws specimens with OpenGL 4.1: channels first, into float targets, then light over them. So every view reads the
// same channels, a new graph links only a small program, and until that is done the channels come from the CPU.
#include "core/image_files/picture_file.h"
#include "core/picture/looks.h"
#include "core/picture/picture_settings.h"

namespace hue {

class BuildService;

/// What lies under a pixel.
struct Probe {
    bool hit = false;
    int slot = 0;
    int placement = 0; ///< which copy of the mesh
    std::array<float, 3> position{}, normal{};
    std::array<float, 2> uv0{}, uv1{};
    std::array<float, 4> color{};                      ///< of the vertices
    std::vector<std::pair<std::string, Value>> values; ///< of the channels (or "tap"), exact, unlit
};

/// All calls, construction and destruction included, with the same context current.
class Renderer {
  public:
    /// With a service, what it has not linked yet is drawn from the CPU evaluator.
    explicit Renderer(BuildService* builds = nullptr);
    ~Renderer();

    /// Errors: gl.shader, with the driver's words; render.not-yet when a see-through build is still being linked. The picture
    /// before stays with the caller.
    Result<RenderedPicture> render(const DressedSpecimen& specimen, const RenderSettings& settings);
    /// Exact values under a pixel of the picture (from the top left), by the CPU evaluator.
    Probe probe(const DressedSpecimen& specimen, const RenderSettings& settings, int x, int y);

    /// One output of a Program over the unit UV square, in float precision; the twin of Evaluator::grid on FlatSquare.
    Result<Picture> evaluateFlat(const Evaluator& evaluator, const Frame& frame, std::string_view output, int size);

    /// Links that were needed so far; for the same Programs it stays.
    int links() const;
    /// Bytes of vertices and triangles that were sent to the card so far; a mesh that differs from one that is there sends what differs.
    size_t meshBytesSent() const;
    std::string driver() const;
    /// Draws everything from the CPU evaluator where possible; for tests and measurements.
    void setEvaluatorOnly(bool on);

    struct Impl; ///< in renderer_parts.h

  private:
    std::unique_ptr<Impl> m;
};

} // namespace hue
