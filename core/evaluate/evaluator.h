#pragma once
// A Program on the CPU: once-a-frame values, and grids of pixels.
// Threads: any. An Evaluator never changes; a Frame belongs to one at a time.
#include "core/base/vectors.h"
#include "core/base/work.h"
#include "core/evaluate/plan.h"
#include "core/images/map.h"
#include "core/program/uniform_layout.h"

namespace hue {

/// From where a picture is taken. As it stands the unit square of FlatSquare fills the picture.
struct Camera {
    Columns toWorld{{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {0.5f, 0.5f, 1}}}; ///< right, up, to the viewer; the eye
    std::array<float, 2> scale{2, 2};                                    ///< half pictures, across and up, for a slope of 1
};

/// What a frame needs from outside.
struct FrameInputs {
    double time = 0;              ///< seconds
    float placementRandom = 0.5f; ///< 0..1
    Columns placement = kWorld;   ///< of the object; turned, evenly scaled, moved
    Camera camera{};
    std::function<Value(const Id& parameter)> parameter;
    std::function<MapPtr(const MapSlot& slot)> map; ///< may give null for the neutral stand-in
};

/// A Program's state for one frame and placement.
struct Frame {
    double time = 0;
    std::vector<std::array<float, 4>> uniforms;    ///< by slot of the layout
    std::vector<MapPtr> maps;                      ///< by map slot, never null
    std::shared_ptr<const SurroundingLight> light; ///< null: no scene
    std::vector<float> numbers;                    ///< that the uniforms come from, where they depend on the camera; else empty
};

/// Gives the attributes of blocks of pixels.
class PointSource {
  public:
    virtual ~PointSource() = default;
    /// Fills one component for a block of kBlockColumns x kBlockRows pixels whose first pixel is (x, y). Pixels outside
    /// of the grid are filled as if it went on.
    virtual void fill(int x, int y, Attribute attribute, int component, float* lanes) const = 0;
    /// Whether lanes beside each other are neighbours on a surface; if not, maps are read at level 0.
    virtual bool neighbours() const { return true; }
};

/// The unit UV square as a flat surface that faces the eye: position (u, 1-v, 0), normal +Z, tangent +X.
class FlatSquare final : public PointSource {
  public:
    FlatSquare(int width, int height);
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override;

  private:
    int m_height;
    std::vector<float> m_u; ///< of a row, up to the end of the last block
};

class Evaluator {
  public:
    explicit Evaluator(std::shared_ptr<const Program> program);

    const Program& program() const { return *m_program; }
    const UniformLayout& layout() const { return m_layout; }
    Frame frame(const FrameInputs& inputs) const;
    /// A frame of this Program as another camera sees it.
    Frame seenBy(Frame frame, const Camera& camera) const;

    /// Receives, for each block, the planes of the components that were asked for. Called from several threads.
    using Sink = std::function<void(int x, int y, int columns, int rows, const float* const* planes)>;
    /// Evaluates the named outputs for every pixel of a grid; false when cancelled.
    bool grid(const Frame& frame, const std::vector<std::string>& outputs, int width, int height, const PointSource& points,
              const Sink& sink, const Work& work) const;

  private:
    std::shared_ptr<const Program> m_program;
    UniformLayout m_layout;
    Plan m_framePlan;
    bool m_seesCamera = false; ///< something that is computed once a frame depends on the camera

    std::vector<std::array<float, 4>> uniformsOf(const std::vector<float>& numbers, double time) const;
};

} // namespace hue
