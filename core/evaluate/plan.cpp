#include "core/evaluate/plan.h"

#include "core/program/unseen.h"

#include <algorithm>
#include <map>
#include <unordered_map>

namespace hue {
namespace {

/// A step before planes are shared: every result has a name of its own.
struct Draft {
    enum class Kind : uint8_t { Elementwise, InverseRoot, Noise, Sample, SampleLevel, SampleGuided, SampleFramed, Behind, Around, Fused };
    Kind kind = Kind::Elementwise;
    Op op = Op::Constant;
    FusedFirst first{};
    FusedSecond second{};
    uint32_t imm = 0;
    uint8_t inputs = 0, outputs = 1;
    int32_t branch = -1;
    bool live = false;
    std::array<PlanOperand, kPlanInputs> in{};
    std::array<int32_t, 4> out{};
};

class Planner {
  public:
    Planner(const Program& program, const PlanRequest& request)
        : m_program(program), m_request(request), m_unseen(unseenOf(program)), m_parts(program.code.size()) {}

    Plan run() {
        for (int32_t n = 0; n < int32_t(m_program.code.size()); ++n) {
            const size_t first = m_drafts.size();
            lower(n);
            for (size_t d = first; d < m_drafts.size(); ++d) m_drafts[d].branch = m_unseen.branchOf[size_t(n)];
        }
        std::vector<PlanOperand> results;
        for (const auto& [instruction, component] : m_request.wanted) {
            PlanOperand o = m_parts[size_t(instruction)][size_t(component)];
            results.push_back(m_request.resultsInPlanes ? toPlane(o) : o);
        }
        markLive(results);
        fuse(results);
        return share(results);
    }

  private:
    const Program& m_program;
    const PlanRequest& m_request;
    const Unseen m_unseen;
    std::vector<std::array<PlanOperand, 4>> m_parts;
    std::vector<Draft> m_drafts;
    std::vector<int32_t> m_writer; ///< by name: the draft that makes it, or -1 for a pinned one
    std::vector<Plan::Pinned> m_pinned;
    std::map<int32_t, int32_t> m_splats;
    std::map<std::pair<uint32_t, int>, int32_t> m_attributes;

    int32_t newName(int32_t writer) {
        m_writer.push_back(writer);
        return int32_t(m_writer.size()) - 1;
    }

    PlanOperand toPlane(PlanOperand o) {
        if (o >= 0) return o;
        auto [it, fresh] = m_splats.emplace(~o, 0);
        if (fresh) {
            it->second = newName(-1);
            m_pinned.push_back({it->second, {}, -1, ~o});
        }
        return it->second;
    }

    PlanOperand emit(Op op, std::initializer_list<PlanOperand> in) {
        Draft d;
        d.op = op;
        for (PlanOperand o : in) d.in[d.inputs++] = op == Op::Phase ? toPlane(o) : o;
        d.out[0] = newName(int32_t(m_drafts.size()));
        m_drafts.push_back(d);
        return d.out[0];
    }

    int32_t emitShaped(Draft::Kind kind, std::initializer_list<PlanOperand> in, uint32_t imm = 0, int outputs = 1) {
        Draft d;
        d.kind = kind;
        d.imm = imm;
        d.outputs = uint8_t(outputs);
        for (PlanOperand o : in) d.in[d.inputs++] = toPlane(o);
        for (int i = 0; i < outputs; ++i) d.out[size_t(i)] = newName(int32_t(m_drafts.size()));
        m_drafts.push_back(d);
        return d.out[0];
    }

    int32_t emitNoise(const Instruction& i) {
        Draft d;
        d.kind = Draft::Kind::Noise;
        d.op = i.op;
        d.imm = i.imm;
        for (int k = 0; k < i.operands; ++k)
            for (int c = 0; c < m_program.code[size_t(i.args[size_t(k)])].width; ++c)
                d.in[d.inputs++] = toPlane(part(i.args[size_t(k)], c));
        d.out[0] = newName(int32_t(m_drafts.size()));
        m_drafts.push_back(d);
        return d.out[0];
    }

    PlanOperand part(int32_t instruction, int component) const {
        return m_parts[size_t(instruction)][m_program.code[size_t(instruction)].width == 1 ? 0 : size_t(component)];
    }

    PlanOperand dot(int32_t a, int32_t b) {
        const int width = m_program.code[size_t(a)].width;
        PlanOperand sum = emit(Op::Mul, {part(a, 0), part(b, 0)});
        for (int c = 1; c < width; ++c) sum = emit(Op::Add, {sum, emit(Op::Mul, {part(a, c), part(b, c)})});
        return sum;
    }

    void lower(int32_t n) {
        const Instruction& i = m_program.code[size_t(n)];
        auto& parts = m_parts[size_t(n)];
        if (const int32_t number = m_request.number(n, 0); number >= 0) {
            for (int c = 0; c < i.width; ++c) parts[size_t(c)] = ~m_request.number(n, c);
            return;
        }
        const auto& a = i.args;
        switch (i.op) {
        case Op::Attribute:
            for (int c = 0; c < i.width; ++c) {
                auto [it, fresh] = m_attributes.emplace(std::pair{i.imm, c}, 0);
                if (fresh) {
                    it->second = newName(-1);
                    m_pinned.push_back({it->second, Attribute(i.imm), c, -1});
                }
                parts[size_t(c)] = it->second;
            }
            break;
        case Op::Swizzle:
            for (int c = 0; c < i.width; ++c) parts[size_t(c)] = part(a[0], int((i.imm >> (2 * c)) & 3));
            break;
        case Op::Compose:
            for (int c = 0; c < i.width; ++c) parts[size_t(c)] = part(a[size_t(c)], 0);
            break;
        case Op::PerVertex:
            for (int c = 0; c < i.width; ++c) parts[size_t(c)] = part(a[0], c);
            break;
        case Op::Dot: parts[0] = dot(a[0], a[1]); break;
        case Op::Magnitude: parts[0] = emit(Op::Sqrt, {dot(a[0], a[0])}); break;
        case Op::Normalize: {
            const int32_t scale = emitShaped(Draft::Kind::InverseRoot, {dot(a[0], a[0])});
            for (int c = 0; c < i.width; ++c) parts[size_t(c)] = emit(Op::Mul, {part(a[0], c), scale});
            break;
        }
        case Op::Cross:
            for (int c = 0; c < 3; ++c) {
                const int x = (c + 1) % 3, y = (c + 2) % 3;
                parts[size_t(c)] =
                    emit(Op::Sub, {emit(Op::Mul, {part(a[0], x), part(a[1], y)}), emit(Op::Mul, {part(a[0], y), part(a[1], x)})});
            }
            break;
        case Op::SampleLevel: {
            const int32_t first = emitShaped(Draft::Kind::SampleLevel, {part(a[0], 0), part(a[0], 1), part(a[1], 0)}, i.imm, 4);
            for (int c = 0; c < 4; ++c) parts[size_t(c)] = first + c;
            break;
        }
        case Op::SampleGuided: {
            const int32_t first =
                emitShaped(Draft::Kind::SampleGuided, {part(a[0], 0), part(a[0], 1), part(a[1], 0), part(a[1], 1)}, i.imm, 4);
            for (int c = 0; c < 4; ++c) parts[size_t(c)] = first + c;
            break;
        }
        case Op::SampleFramed: {
            const int32_t first =
                emitShaped(Draft::Kind::SampleFramed,
                           {part(a[0], 0), part(a[0], 1), part(a[1], 0), part(a[1], 1), part(a[2], 0), part(a[2], 1)}, i.imm, 4);
            for (int c = 0; c < 4; ++c) parts[size_t(c)] = first + c;
            break;
        }
        case Op::Sample: {
            const int32_t first = emitShaped(Draft::Kind::Sample, {part(a[0], 0), part(a[0], 1)}, i.imm, 4);
            for (int c = 0; c < 4; ++c) parts[size_t(c)] = first + c;
            break;
        }
        case Op::Behind: {
            const int32_t first = emitShaped(Draft::Kind::Behind, {part(a[0], 0), part(a[0], 1), part(a[1], 0)}, 0, 3);
            for (int c = 0; c < 3; ++c) parts[size_t(c)] = first + c;
            break;
        }
        case Op::Around: {
            const int32_t first = emitShaped(Draft::Kind::Around, {part(a[0], 0), part(a[0], 1), part(a[0], 2), part(a[1], 0)}, 0, 3);
            for (int c = 0; c < 3; ++c) parts[size_t(c)] = first + c;
            break;
        }
        default:
            if (infoOf(i.op).is(kNoise)) {
                parts[0] = emitNoise(i);
                break;
            }
            for (int c = 0; c < i.width; ++c) {
                if (i.operands == 1) parts[size_t(c)] = emit(i.op, {part(a[0], c)});
                else if (i.operands == 2) parts[size_t(c)] = emit(i.op, {part(a[0], c), part(a[1], c)});
                else parts[size_t(c)] = emit(i.op, {part(a[0], c), part(a[1], c), part(a[2], c)});
            }
        }
    }

    void markLive(const std::vector<PlanOperand>& results) {
        auto need = [&](PlanOperand o) {
            if (o >= 0 && m_writer[size_t(o)] >= 0) m_drafts[size_t(m_writer[size_t(o)])].live = true;
        };
        for (PlanOperand o : results) need(o);
        for (size_t n = m_drafts.size(); n-- > 0;) {
            if (!m_drafts[n].live) continue;
            for (int k = 0; k < m_drafts[n].inputs; ++k) need(m_drafts[n].in[size_t(k)]);
            forMasksOf(m_drafts[n], need);
        }
    }

    PlanOperand maskOf(int32_t branch) const { return part(m_unseen.branches[size_t(branch)].mask, 0); }
    /// Masks of the branches that a step lies in.
    template <class Do> void forMasksOf(const Draft& d, const Do& work) const {
        for (int32_t b = d.branch; b >= 0; b = m_unseen.branches[size_t(b)].parent) work(maskOf(b));
    }

    static bool firstOf(Op op, FusedFirst& first) {
        if (op == Op::Add) first = FusedFirst::Add;
        else if (op == Op::Sub) first = FusedFirst::Sub;
        else if (op == Op::Mul) first = FusedFirst::Mul;
        else return false;
        return true;
    }
    static bool secondOf(Op op, int position, FusedSecond& second) {
        switch (op) {
        case Op::Add: second = FusedSecond::Add; return true;
        case Op::Sub: second = position == 0 ? FusedSecond::Sub : FusedSecond::SubFrom; return true;
        case Op::Mul: second = FusedSecond::Mul; return true;
        case Op::Min: second = FusedSecond::Min; return true;
        case Op::Max: second = FusedSecond::Max; return true;
        default: return false;
        }
    }

    /// A step whose only reader can take it in becomes part of that reader.
    void fuse(const std::vector<PlanOperand>& results) {
        std::vector<int> uses(m_writer.size(), 0);
        for (const Draft& d : m_drafts)
            if (d.live)
                for (int k = 0; k < d.inputs; ++k)
                    if (d.in[size_t(k)] >= 0) ++uses[size_t(d.in[size_t(k)])];
        for (PlanOperand o : results)
            if (o >= 0) uses[size_t(o)] += 2;
        // A mask stays by itself, to be asked before its branch.
        for (int32_t b = 0; b < int32_t(m_unseen.branches.size()); ++b)
            if (const PlanOperand o = maskOf(b); o >= 0) uses[size_t(o)] += 2;
        for (Draft& d : m_drafts) {
            if (!d.live || d.kind != Draft::Kind::Elementwise || d.inputs != 2) continue;
            for (int position = 0; position < 2; ++position) {
                const PlanOperand made = d.in[size_t(position)];
                FusedFirst first;
                FusedSecond second;
                if (made < 0 || uses[size_t(made)] != 1 || m_writer[size_t(made)] < 0 || !secondOf(d.op, position, second)) continue;
                Draft& source = m_drafts[size_t(m_writer[size_t(made)])];
                if (source.kind != Draft::Kind::Elementwise || !firstOf(source.op, first) || !m_unseen.within(d.branch, source.branch))
                    continue;
                const PlanOperand other = d.in[size_t(1 - position)];
                d.kind = Draft::Kind::Fused;
                d.first = first;
                d.second = second;
                d.in = {source.in[0], source.in[1], other};
                d.inputs = 3;
                source.live = false;
                break;
            }
        }
    }

    static Kernel kernelOf(const Draft& d) {
        const KernelTable& table = kernels();
        int mask = 0;
        for (int k = 0; k < d.inputs; ++k)
            if (d.in[size_t(k)] < 0) mask |= 1 << k;
        switch (d.kind) {
        case Draft::Kind::Elementwise: return table.elementwise[int(d.op)][mask];
        case Draft::Kind::Fused: return table.fused[int(d.first)][int(d.second)][mask];
        case Draft::Kind::InverseRoot: return table.inverseRoot;
        case Draft::Kind::Noise: return table.noise[int(d.op)];
        case Draft::Kind::Sample: return table.sample;
        case Draft::Kind::SampleLevel: return table.sampleLevel;
        case Draft::Kind::SampleGuided: return table.sampleGuided;
        case Draft::Kind::SampleFramed: return table.sampleFramed;
        case Draft::Kind::Behind: return table.behind;
        case Draft::Kind::Around: return table.around;
        }
        return nullptr;
    }

    Plan share(const std::vector<PlanOperand>& results) {
        constexpr size_t kForever = SIZE_MAX;
        std::vector<size_t> lastUse(m_writer.size(), 0);
        for (size_t n = 0; n < m_drafts.size(); ++n) {
            if (!m_drafts[n].live) continue;
            const auto use = [&](PlanOperand o) {
                if (o >= 0) lastUse[size_t(o)] = n;
            };
            for (int k = 0; k < m_drafts[n].inputs; ++k) use(m_drafts[n].in[size_t(k)]);
            forMasksOf(m_drafts[n], use);
        }
        for (const auto& p : m_pinned) lastUse[size_t(p.plane)] = kForever;
        for (PlanOperand o : results)
            if (o >= 0) lastUse[size_t(o)] = kForever;

        Plan plan;
        std::vector<int32_t> plane(m_writer.size(), -1);
        std::vector<int32_t> free;
        auto take = [&] {
            if (free.empty()) return int32_t(plan.planes++);
            const int32_t p = free.back();
            free.pop_back();
            return p;
        };
        for (Plan::Pinned p : m_pinned) {
            plane[size_t(p.plane)] = take();
            p.plane = plane[size_t(p.plane)];
            plan.pinned.push_back(p);
        }
        for (size_t n = 0; n < m_drafts.size(); ++n) {
            const Draft& d = m_drafts[n];
            if (!d.live) continue;
            PlanStep step;
            step.kernel = kernelOf(d);
            step.imm = d.imm;
            step.inputs = d.inputs;
            step.outputs = d.outputs;
            step.branch = d.branch;
            for (int k = 0; k < d.inputs; ++k) {
                const PlanOperand o = d.in[size_t(k)];
                step.in[size_t(k)] = o < 0 ? o : plane[size_t(o)];
            }
            const auto leave = [&](PlanOperand o) {
                if (o < 0 || lastUse[size_t(o)] != n) return;
                lastUse[size_t(o)] = kForever; // once, even when an operand stands twice
                free.push_back(plane[size_t(o)]);
            };
            auto release = [&] {
                for (int k = 0; k < d.inputs; ++k) leave(d.in[size_t(k)]);
                forMasksOf(d, leave);
            };
            // A sample reads neighbours of what it has already written, so it cannot work in place.
            const bool manyOutputs = d.outputs > 1;
            if (!manyOutputs) release();
            for (int k = 0; k < d.outputs; ++k) {
                step.out[size_t(k)] = take();
                plane[size_t(d.out[size_t(k)])] = step.out[size_t(k)];
            }
            if (manyOutputs) release();
            for (int k = 0; k < d.outputs; ++k)
                if (lastUse[size_t(d.out[size_t(k)])] == 0) free.push_back(step.out[size_t(k)]);
            plan.steps.push_back(step);
        }
        for (int32_t b = 0; b < int32_t(m_unseen.branches.size()); ++b) {
            const Branch& branch = m_unseen.branches[size_t(b)];
            const PlanOperand mask = maskOf(b);
            plan.branches.push_back({mask < 0 ? mask : std::max(plane[size_t(mask)], 0), branch.above, branch.parent});
        }
        for (PlanOperand o : results) plan.results.push_back(o < 0 ? o : plane[size_t(o)]);
        return plan;
    }
};

} // namespace

Plan makePlan(const Program& program, const PlanRequest& request) { return Planner(program, request).run(); }

BoundPlan::BoundPlan(const Plan& plan, float* arena, size_t stride, const float* numbers) {
    m_steps.reserve(plan.steps.size());
    for (const PlanStep& from : plan.steps) {
        Step step{from.kernel, from.imm, from.branch};
        for (size_t k = 0; k < from.inputs; ++k) {
            const PlanOperand o = from.in[k];
            step.in[k] = o < 0 ? numbers + ~o : arena + size_t(o) * stride;
        }
        for (size_t k = 0; k < from.outputs; ++k) step.out[k] = arena + size_t(from.out[k]) * stride;
        m_steps.push_back(step);
    }
    for (const Plan::Branch& b : plan.branches)
        m_branches.push_back({b.mask < 0 ? numbers + ~b.mask : arena + size_t(b.mask) * stride, b.mask < 0, b.above, b.parent});
}

bool BoundPlan::isSeen(int32_t branch, size_t lanes) {
    Branch& b = m_branches[size_t(branch)];
    if (b.seen == Seen::Unknown) {
        const size_t count = b.single ? 1 : lanes;
        const auto shows = [&](float m) { return b.above ? m > 0 : m < 1; };
        const bool seen = (b.parent < 0 || isSeen(b.parent, lanes)) && std::any_of(b.mask, b.mask + count, shows);
        b.seen = seen ? Seen::Yes : Seen::No;
    }
    return b.seen == Seen::Yes;
}

} // namespace hue
