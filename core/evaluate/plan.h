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
    int32_t branch = -1; ///< of Plan::branches: the step is left out where that shows nothing
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
    /// What a block leaves out when its mask shows none of it at any lane; see core/program/unseen.h.
    struct Branch {
        PlanOperand mask = 0;
        bool above = true;   ///< seen where the mask is above 0; else where it is below 1
        int32_t parent = -1; ///< branch that it lies in
    };
    std::vector<PlanStep> steps;
    std::vector<Branch> branches;     ///< each after the one that it lies in
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

/// The steps of a Plan over planes and numbers that stay where they are: plane p starts at arena + p*stride. Belongs to one thread at a
/// time.
class BoundPlan {
  public:
    BoundPlan(const Plan& plan, float* arena, size_t stride, const float* numbers);
    void run(size_t lanes, const KernelContext& context) {
        for (Branch& b : m_branches) b.seen = Seen::Unknown;
        for (const Step& s : m_steps)
            if (s.branch < 0 || isSeen(s.branch, lanes)) s.kernel(s.in.data(), s.out.data(), lanes, s.imm, context);
    }

  private:
    enum class Seen : uint8_t { Unknown, No, Yes };
    struct Branch {
        const float* mask;
        bool single, above; ///< single: one number, not a plane
        int32_t parent;
        Seen seen = Seen::Unknown;
    };
    struct Step {
        Kernel kernel;
        uint32_t imm;
        int32_t branch;
        std::array<const float*, kPlanInputs> in{};
        std::array<float*, 4> out{};
    };
    std::vector<Step> m_steps;
    std::vector<Branch> m_branches;

    bool isSeen(int32_t branch, size_t lanes);
};

} // namespace hue
