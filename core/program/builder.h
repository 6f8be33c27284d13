#pragma once
// Appends operations to a Program; what node definitions lower with.
// Threads: an object belongs to one at a time.
#include "core/program/program.h"

#include <initializer_list>
#include <optional>

namespace hue {

/// A value of the Program under construction.
struct Val {
    int32_t id = -1;
    explicit operator bool() const { return id >= 0; }
};

class Builder {
  public:
    explicit Builder(Program& program) : m_program(program) {}

    int width(Val v) const { return m_program.code[v.id].width; }
    /// The value where it is one that was put in; what is computed from such values is not known yet.
    std::optional<Value> constantValue(Val v) const;
    bool isAttribute(Val v, Attribute a) const;
    Val constant(const Value& value);
    Val number(float x) { return constant(Value::number(x)); }
    Val attribute(Attribute a);
    Val parameter(const Id& id, int width);
    Val time() { return leaf(Op::Time, 1, 0); }
    Val placementRandom() { return leaf(Op::PlacementRandom, 1, 0); }
    /// Of 0 to 3: where X, Y, Z and the origin of the object, or of the camera, lie in the world.
    Val objectToWorld(int column) { return leaf(Op::ObjectToWorld, 3, uint32_t(column)); }
    Val cameraToWorld(int column) { return leaf(Op::CameraToWorld, 3, uint32_t(column)); }
    Val cameraScale() { return leaf(Op::CameraScale, 2, 0); }
    int mapSlot(const MapSlot& slot);
    Val texelSize(int slot) { return leaf(Op::TexelSize, 2, uint32_t(slot)); }
    Val sample(int slot, Val uv) { return append(Op::Sample, 4, {uv}, uint32_t(slot)); }
    Val sampleLevel(int slot, Val uv, Val level) { return append(Op::SampleLevel, 4, {uv, level}, uint32_t(slot)); }
    Val sampleFramed(int slot, Val uv, Val corner, Val size) { return append(Op::SampleFramed, 4, {uv, corner, size}, uint32_t(slot)); }
    Val sampleGuided(int slot, Val uv, Val guide) { return append(Op::SampleGuided, 4, {uv, guide}, uint32_t(slot)); }

    /// An elementwise operation; the result is as wide as the widest operand.
    Val op(Op op, Val a);
    Val op(Op op, Val a, Val b);
    Val op(Op op, Val a, Val b, Val c);
    Val add(Val a, Val b) { return op(Op::Add, a, b); }
    Val sub(Val a, Val b) { return op(Op::Sub, a, b); }
    Val mul(Val a, Val b) { return op(Op::Mul, a, b); }
    Val mix(Val a, Val b, Val t) { return op(Op::Mix, a, b, t); }
    Val saturate(Val a) { return op(Op::Clamp, a, number(0), number(1)); }
    /// 1 where a is greater than b, else 0.
    Val greater(Val a, Val b) { return op(Op::Less, b, a); }
    Val oneMinus(Val a) { return op(Op::Sub, number(1), a); }

    /// Computed at the vertices alone.
    Val perVertex(Val a) { return append(Op::PerVertex, width(a), {a}); }

    Val dot(Val a, Val b) { return append(Op::Dot, 1, {a, b}); }
    Val magnitude(Val a) { return append(Op::Magnitude, 1, {a}); }
    Val normalize(Val a) { return append(Op::Normalize, width(a), {a}); }
    Val cross(Val a, Val b) { return append(Op::Cross, 3, {a, b}); }
    Val noise2(Val uv) { return append(Op::Noise2, 1, {uv}); }
    Val cell2(Val uv) { return append(Op::Cell2, 1, {uv}); }
    Val worley2(Val uv, Val jitter) { return append(Op::Worley2, 1, {uv, jitter}); }
    Val fractal2(Val uv, Val lacunarity, Val diminish, int octaves) {
        return append(Op::Fractal2, 1, {uv, lacunarity, diminish}, uint32_t(octaves));
    }
    /// Feature points go round once a turn.
    Val worley2MovingSeamless(Val uv, Val jitter, Val turns, Val period) {
        return append(Op::Worley2MovingSeamless, 1, {uv, jitter, turns, period});
    }
    Val worley2Moving(Val uv, Val jitter, Val turns) { return append(Op::Worley2Moving, 1, {uv, jitter, turns}); }
    Val noise3(Val p) { return append(Op::Noise3, 1, {p}); }
    Val cell3(Val p) { return append(Op::Cell3, 1, {p}); }
    Val worley3(Val p, Val jitter) { return append(Op::Worley3, 1, {p, jitter}); }
    Val worley3Moving(Val p, Val jitter, Val turns) { return append(Op::Worley3Moving, 1, {p, jitter, turns}); }
    Val fractal3(Val p, Val lacunarity, Val diminish, int octaves) {
        return append(Op::Fractal3, 1, {p, lacunarity, diminish}, uint32_t(octaves));
    }

    /// Repeat after `period` cells (width 2, whole numbers).
    Val noise2Seamless(Val uv, Val period) { return append(Op::Noise2Seamless, 1, {uv, period}); }
    Val cell2Seamless(Val uv, Val period) { return append(Op::Cell2Seamless, 1, {uv, period}); }
    Val worley2Seamless(Val uv, Val jitter, Val period) { return append(Op::Worley2Seamless, 1, {uv, jitter, period}); }

    /// Radiance of what was drawn before, at an offset on the screen (width 2), blurred by 0..1.
    Val behind(Val offset, Val blur) { return append(Op::Behind, 3, {offset, blur}); }
    /// Radiance of the environment in a direction at a roughness.
    Val around(Val direction, Val roughness) { return append(Op::Around, 3, {direction, roughness}); }

    Val component(Val v, int index);
    /// Picks components by index, at most four.
    Val swizzle(Val v, std::initializer_list<int> components);
    Val compose(std::initializer_list<Val> numbers);
    /// A number becomes a vector of equal components; anything else stays.
    Val spread(Val v, int width);
    Val luminance(Val color);
    /// A tangent-space vector to world space by the mesh's frame.
    Val tangentToWorld(Val v);

    void setOrigin(int32_t origin) { m_origin = origin; }

  private:
    Val leaf(Op op, int width, uint32_t imm) { return append(op, width, {}, imm); }
    Val append(Op op, int width, std::initializer_list<Val> args, uint32_t imm = 0);

    Program& m_program;
    int32_t m_origin = -1;
};

} // namespace hue
