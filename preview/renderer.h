#pragma once
// Draws specimens with OpenGL 4.1: channels first, into float targets, then light over them. So every view reads the
// same channels, a new graph links only a small program, and until that is done the channels come from the CPU.
#include "core/image_files/picture_file.h"
#include "core/surface/environment.h"
#include "core/surface/light_files.h"
#include "core/surface/tone.h"
#include "preview/looks.h"

namespace hue {

class BuildService;

struct ViewDef {
    std::string key;  ///< "base_color"; dashes are accepted as well
    std::string name; ///< "base color"
    std::string help;
    enum class Kind { Light, Channel, Check, Mesh, Count } kind = Kind::Channel;
    int number = 0; ///< of the stage behind the kind
};
/// Lit first, then the channels, checks of pixels, and what the mesh alone shows.
const std::vector<ViewDef>& views();
/// Index into views(); -1 for an unknown one.
int findView(std::string_view key);

enum class Backdrop { Surround, Environment, Depot };

struct RenderSettings {
    int width = 420, height = 252;
    int supersampling = 1; ///< 1 or 2 samples a side
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

/// 8-bit RGBA, rows from the top.
struct RenderedPicture {
    int width = 0, height = 0;
    std::vector<uint8_t> rgba;
    bool fromEvaluator = false; ///< drawn from the CPU evaluator; the driver's build is on its way
    float peak = 0;             ///< of views that count: the highest number in the picture
};

/// What lies under a pixel.
struct Probe {
    bool hit = false;
    int slot = 0;
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
    std::string driver() const;
    /// Draws everything from the CPU evaluator where possible; for tests and measurements.
    void setEvaluatorOnly(bool on);

    struct Impl; ///< in renderer_parts.h

  private:
    std::unique_ptr<Impl> m;
};

} // namespace hue
