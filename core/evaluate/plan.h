#pragma once
// A Program made ready for the CPU: taken apart into single components, pairs of steps fused, planes shared by
// liveness so that a block stays in the first cache.
// Threads: many may read one that nobody writes.
#include "core/evaluate/kernels.h"

#include <functional>

namespace hue {

/// A plane (0 or more) or a single number (~index into the numbers).
using PlanOperand = int32_t;
constexpr int kPlanInputs = 6; ///< most planes that a step reads

struct PlanStep {
    Kernel kernel = nullptr;
    uint32_t imm = 0;
    uint8_t inputs = 0, outputs = 0;
    std::array<PlanOperand, kPlanInputs> in{};
    std::array<int32_t, 4> out{};
};

struct Plan {
    struct Pinned {
        int32_t plane;
        Attribute attribute; ///< when component >= 0
        int component;       ///< of the attribute; -1: filled with the number at `number`
        int32_t number;
    };
    std::vector<PlanStep> steps;
    std::vector<Pinned> pinned;       ///< planes to be filled before the steps run
    std::vector<PlanOperand> results; ///< one operand for each component that was asked for
    int planes = 0;
};

struct PlanRequest {
    /// Number for a component of an instruction that is not computed in the steps; -1 when it is.
    std::function<int32_t(int32_t instruction, int component)> number;
    /// Components wanted, in order.
    std::vector<std::pair<int32_t, int>> wanted;
    /// Results must be planes.
    bool resultsInPlanes = true;
};

Plan makePlan(const Program& program, const PlanRequest& request);

/// The steps of a Plan over planes and numbers that stay where they are: plane p starts at arena + p*stride.
class BoundPlan {
  public:
    BoundPlan(const Plan& plan, float* arena, size_t stride, const float* numbers);
    void run(size_t lanes, const KernelContext& context) const {
        for (const Step& s : m_steps) s.kernel(s.in.data(), s.out.data(), lanes, s.imm, context);
    }

  private:
    struct Step {
        Kernel kernel;
        uint32_t imm;
        std::array<const float*, kPlanInputs> in{};
        std::array<float*, 4> out{};
    };
    std::vector<Step> m_steps;
};

} // namespace hue
