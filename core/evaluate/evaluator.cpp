#include "core/evaluate/evaluator.h"

#include "core/base/work.h"
#include "core/evaluate/evaluate_once.h"
#include "core/program/uniform_layout.h"

#include <algorithm>
#include <memory>
#include <mutex>

namespace hue {
namespace {

/// Planes on a cache line, with room for `planes` times `lanes` numbers.
class Arena {
  public:
    Arena(int planes, size_t lanes) : m_memory(size_t(std::max(planes, 1)) * lanes + 16) {}
    float* planes() {
        void* p = m_memory.data();
        size_t room = m_memory.size() * sizeof(float);
        return static_cast<float*>(std::align(64, 64, p, room));
    }

  private:
    std::vector<float> m_memory;
};

// Numbers of the frame plan: constants, then parameters (four each), time, placement random, where object and camera stand, texel sizes.
struct FrameNumbers {
    const Program& p;
    int32_t parameters() const { return int32_t(p.constants.size()) * 4; }
    int32_t time() const { return parameters() + int32_t(p.parameters.size()) * 4; }
    int32_t random() const { return time() + 1; }
    int32_t object() const { return time() + 2; }
    int32_t camera() const { return object() + 12; }
    int32_t texels() const { return camera() + 14; }
    int32_t count() const { return texels() + int32_t(p.maps.size()) * 2; }
    int32_t of(const Instruction& i, int c) const {
        switch (i.op) {
        case Op::Constant: return int32_t(i.imm) * 4 + c;
        case Op::Parameter: return parameters() + int32_t(i.imm) * 4 + c;
        case Op::Time: return time();
        case Op::PlacementRandom: return random();
        case Op::ObjectToWorld: return object() + int32_t(i.imm) * 3 + c;
        case Op::CameraToWorld: return camera() + int32_t(i.imm) * 3 + c;
        case Op::CameraScale: return camera() + 12 + c;
        case Op::TexelSize: return texels() + int32_t(i.imm) * 2 + c;
        default: return -1;
        }
    }
    void setColumns(std::vector<float>& numbers, int32_t first, const Columns& columns) const {
        for (size_t k = 0; k < 4; ++k) std::copy(columns[k].begin(), columns[k].end(), numbers.begin() + first + long(k) * 3);
    }
    void setCamera(std::vector<float>& numbers, const Camera& from) const {
        setColumns(numbers, camera(), from.toWorld);
        std::copy(from.scale.begin(), from.scale.end(), numbers.begin() + camera() + 12);
    }
};

} // namespace

std::array<float, 4> evaluateOnce(const Program& program, const Instruction& instruction) {
    Program small;
    Instruction copy = instruction;
    for (int a = 0; a < instruction.operands; ++a) {
        Instruction constant = program.code[size_t(instruction.args[size_t(a)])];
        small.constants.push_back(program.constants[constant.imm]);
        constant.imm = uint32_t(a);
        small.code.push_back(constant);
        copy.args[size_t(a)] = a;
    }
    small.code.push_back(copy);
    const auto last = int32_t(small.code.size()) - 1;
    PlanRequest request;
    request.resultsInPlanes = false;
    request.number = [&](int32_t n, int c) { return n == last ? -1 : n * 4 + c; };
    for (int c = 0; c < copy.width; ++c) request.wanted.emplace_back(last, c);
    const Plan plan = makePlan(small, request);
    Arena arena(plan.planes, kLanePadding);
    const float* numbers = small.constants.data()->data();
    for (const auto& pinned : plan.pinned) std::fill_n(arena.planes() + pinned.plane * kLanePadding, kLanePadding, numbers[pinned.number]);
    BoundPlan(plan, arena.planes(), kLanePadding, numbers).run(kLanePadding, {});
    std::array<float, 4> out{};
    for (size_t c = 0; c < plan.results.size(); ++c) {
        const PlanOperand o = plan.results[c];
        out[c] = o < 0 ? numbers[~o] : arena.planes()[o * kLanePadding];
    }
    return out;
}

FlatSquare::FlatSquare(int width, int height) : m_height(height), m_u(size_t((width + kBlockColumns - 1) / kBlockColumns * kBlockColumns)) {
    for (size_t x = 0; x < m_u.size(); ++x) m_u[x] = (float(x) + 0.5f) / float(width);
}

void FlatSquare::fill(int x, int y, Attribute attribute, int component, float* lanes) const {
    for (int r = 0; r < kBlockRows; ++r) {
        float* row = lanes + r * kBlockColumns;
        auto constant = [&](float value) { std::fill_n(row, kBlockColumns, value); };
        auto u = [&] { std::copy_n(m_u.begin() + x, kBlockColumns, row); };
        const float v = (float(y + r) + 0.5f) / float(m_height);
        switch (attribute) {
        case Attribute::Uv0:
        case Attribute::Uv1: component == 0 ? u() : constant(v); break;
        case Attribute::PositionWorld:
        case Attribute::PositionObject: component == 0 ? u() : constant(component == 1 ? 1 - v : 0.f); break;
        case Attribute::Color: constant(1); break;
        case Attribute::TangentWorld: constant(component == 0); break;
        case Attribute::BitangentWorld: constant(component == 1); break;
        case Attribute::Screen: component == 0 ? u() : constant(v); break;
        case Attribute::DepthGap: constant(kNothingBehind); break;
        case Attribute::Side: constant(1); break;
        case Attribute::Carried0:
        case Attribute::Carried1:
        case Attribute::Carried2:
        case Attribute::Carried3:
        case Attribute::Painted:
        case Attribute::PaintedSecond: constant(0); break; // no triangles here, and nothing painted
        case Attribute::NormalWorld:
        case Attribute::NormalObject:
        case Attribute::View:
        case Attribute::Count: constant(component == 2); break;
        }
    }
}

Evaluator::Evaluator(std::shared_ptr<const Program> program) : m_program(std::move(program)), m_layout(uniformLayout(*m_program)) {
    const Program& p = *m_program;
    const FrameNumbers numbers{p};
    PlanRequest request;
    request.resultsInPlanes = false;
    // What is not once a frame is out of reach here; any number will do, nothing wants it.
    request.number = [&](int32_t n, int c) {
        const Instruction& i = p.code[size_t(n)];
        return onceAFrame(i) ? numbers.of(i, c) : 0;
    };
    for (int32_t n : m_layout.instructions)
        for (int c = 0; c < p.code[size_t(n)].width; ++c) request.wanted.emplace_back(n, c);
    m_framePlan = makePlan(p, request);
    m_seesCamera = std::any_of(p.code.begin(), p.code.end(), [](const Instruction& i) { return infoOf(i.op).is(kCamera); });
}

Frame Evaluator::frame(const FrameInputs& inputs) const {
    const Program& p = *m_program;
    Frame frame;
    frame.time = inputs.time;
    for (const MapSlot& slot : p.maps) {
        MapPtr map = inputs.map ? inputs.map(slot) : nullptr;
        frame.maps.push_back(map ? map : neutralMap(slot.kind));
    }
    const FrameNumbers layout{p};
    std::vector<float> numbers(size_t(layout.count()) + 1, 0.f);
    for (size_t k = 0; k < p.constants.size(); ++k) std::copy(p.constants[k].begin(), p.constants[k].end(), numbers.begin() + long(k) * 4);
    for (size_t k = 0; k < p.parameters.size(); ++k) {
        const Value value = inputs.parameter ? inputs.parameter(p.parameters[k]) : Value{};
        std::copy(value.v.begin(), value.v.end(), numbers.begin() + layout.parameters() + long(k) * 4);
    }
    numbers[size_t(layout.time())] = float(inputs.time);
    numbers[size_t(layout.random())] = inputs.placementRandom;
    layout.setColumns(numbers, layout.object(), inputs.placement);
    layout.setCamera(numbers, inputs.camera);
    for (size_t k = 0; k < frame.maps.size(); ++k) {
        // A stand-in of one texel has no neighbours; a small step keeps differences defined.
        const Map& map = *frame.maps[k];
        numbers[size_t(layout.texels()) + k * 2] = 1.f / float(std::max(map.width(), 2));
        numbers[size_t(layout.texels()) + k * 2 + 1] = 1.f / float(std::max(map.height(), 2));
    }
    frame.uniforms = uniformsOf(numbers, inputs.time);
    if (m_seesCamera) frame.numbers = std::move(numbers);
    return frame;
}

Frame Evaluator::seenBy(Frame frame, const Camera& camera) const {
    if (frame.numbers.empty()) return frame;
    FrameNumbers{*m_program}.setCamera(frame.numbers, camera);
    frame.uniforms = uniformsOf(frame.numbers, frame.time);
    return frame;
}

std::vector<std::array<float, 4>> Evaluator::uniformsOf(const std::vector<float>& numbers, double time) const {
    const Program& p = *m_program;
    std::vector<std::array<float, 4>> uniforms;
    Arena arena(m_framePlan.planes, kLanePadding);
    for (const auto& pinned : m_framePlan.pinned)
        std::fill_n(arena.planes() + pinned.plane * kLanePadding, kLanePadding, numbers[size_t(pinned.number)]);
    KernelContext context;
    context.time = time;
    BoundPlan(m_framePlan, arena.planes(), kLanePadding, numbers.data()).run(kLanePadding, context);
    size_t result = 0;
    for (int32_t n : m_layout.instructions) {
        std::array<float, 4> value{};
        for (int c = 0; c < p.code[size_t(n)].width; ++c) {
            const PlanOperand o = m_framePlan.results[result++];
            value[size_t(c)] = o < 0 ? numbers[size_t(~o)] : arena.planes()[o * kLanePadding];
        }
        uniforms.push_back(value);
    }
    return uniforms;
}

bool Evaluator::grid(const Frame& frame, const std::vector<std::string>& outputs, int width, int height, const PointSource& points,
                     const Sink& sink, const Work& work) const {
    const Program& p = *m_program;
    // Numbers of the pixel plan: the frame's uniforms, then the constants.
    const auto constants = int32_t(frame.uniforms.size()) * 4;
    std::vector<float> numbers(frame.uniforms.size() * 4 + p.constants.size() * 4 + 1);
    for (size_t k = 0; k < frame.uniforms.size(); ++k)
        std::copy(frame.uniforms[k].begin(), frame.uniforms[k].end(), numbers.begin() + long(k) * 4);
    for (size_t k = 0; k < p.constants.size(); ++k)
        std::copy(p.constants[k].begin(), p.constants[k].end(), numbers.begin() + constants + long(k) * 4);

    PlanRequest request;
    request.number = [&](int32_t n, int c) -> int32_t {
        const Instruction& i = p.code[size_t(n)];
        if (i.op == Op::Constant) return constants + int32_t(i.imm) * 4 + c;
        if (m_layout.slots[size_t(n)] >= 0) return m_layout.slots[size_t(n)] * 4 + c;
        return onceAFrame(i) ? 0 : -1;
    };
    for (const std::string& name : outputs) {
        const int32_t value = p.output(name);
        for (int c = 0; value >= 0 && c < p.code[size_t(value)].width; ++c) request.wanted.emplace_back(value, c);
    }
    const Plan plan = makePlan(p, request);

    std::vector<const Map*> maps;
    for (const MapPtr& m : frame.maps) maps.push_back(m.get());
    KernelContext context;
    context.time = frame.time;
    context.maps = maps.data();
    context.light = frame.light.get();
    context.derivatives = points.neighbours();

    // Who works on a band has planes of its own, and the steps that work on them.
    struct Worker {
        Worker(const Plan& plan, const std::vector<float>& numbers)
            : arena(plan.planes, kBlockLanes), steps(plan, arena.planes(), kBlockLanes, numbers.data()) {
            for (const auto& pinned : plan.pinned)
                if (pinned.component < 0) std::fill_n(planeOf(pinned.plane), kBlockLanes, numbers[size_t(pinned.number)]);
        }
        Worker(const Worker&) = delete;
        float* planeOf(int32_t plane) { return arena.planes() + size_t(plane) * kBlockLanes; }
        Arena arena;
        BoundPlan steps;
    };
    std::mutex lock;
    std::vector<std::unique_ptr<Worker>> idle;
    const auto taken = [&] {
        const std::lock_guard hold(lock);
        if (idle.empty()) return std::make_unique<Worker>(plan, numbers);
        std::unique_ptr<Worker> worker = std::move(idle.back());
        idle.pop_back();
        return worker;
    };
    const int bands = (height + kBlockRows - 1) / kBlockRows;
    std::atomic<int> done = 0;
    auto band = [&](int b, Worker& worker) {
        const int y = b * kBlockRows;
        std::vector<const float*> results(plan.results.size());
        for (int x = 0; x < width; x += kBlockColumns) {
            for (const auto& pinned : plan.pinned)
                if (pinned.component >= 0) points.fill(x, y, pinned.attribute, pinned.component, worker.planeOf(pinned.plane));
            worker.steps.run(kBlockLanes, context);
            for (size_t k = 0; k < results.size(); ++k) results[k] = worker.planeOf(plan.results[k]);
            sink(x, y, std::min(kBlockColumns, width - x), std::min(kBlockRows, height - y), results.data());
        }
        const int now = ++done;
        if (work.progress && now % 16 == 0) work.progress(float(now) / float(bands));
    };
    inBands(size_t(std::max(0, bands)), 4, work.threads, [&](size_t first, size_t last) {
        std::unique_ptr<Worker> worker = taken();
        for (size_t b = first; b < last && !work.stopped(); ++b) band(int(b), *worker);
        const std::lock_guard hold(lock);
        idle.push_back(std::move(worker));
    });
    return !work.stopped();
}

} // namespace hue
