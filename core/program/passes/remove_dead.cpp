#include "core/program/passes/passes.h"

namespace hue {
namespace {

/// Keeps the entries of `list` that are used and rewrites indices through `index`.
template <class T> class Keeper {
  public:
    explicit Keeper(std::vector<T>& list) : m_list(list), m_now(list.size(), -1) {}
    uint32_t use(uint32_t old) {
        if (m_now[old] < 0) {
            m_now[old] = int32_t(m_kept.size());
            m_kept.push_back(m_list[old]);
        }
        return uint32_t(m_now[old]);
    }
    void finish() { m_list = std::move(m_kept); }

  private:
    std::vector<T>& m_list;
    std::vector<T> m_kept;
    std::vector<int32_t> m_now;
};

} // namespace

bool removeDead(Program& p) {
    std::vector<char> live(p.code.size(), 0);
    for (const auto& o : p.outputs) live[o.value] = 1;
    for (size_t n = p.code.size(); n-- > 0;)
        if (live[n])
            for (int a = 0; a < p.code[n].operands; ++a) live[p.code[n].args[a]] = 1;
    std::vector<int32_t> now(p.code.size(), -1);
    std::vector<Instruction> kept;
    Keeper constants(p.constants);
    Keeper parameters(p.parameters);
    Keeper maps(p.maps);
    for (size_t n = 0; n < p.code.size(); ++n) {
        if (!live[n]) continue;
        Instruction i = p.code[n];
        for (int a = 0; a < i.operands; ++a) i.args[a] = now[i.args[a]];
        if (i.op == Op::Constant) i.imm = constants.use(i.imm);
        if (i.op == Op::Parameter) i.imm = parameters.use(i.imm);
        if (infoOf(i.op).is(kMap)) i.imm = maps.use(i.imm);
        now[n] = int32_t(kept.size());
        kept.push_back(i);
    }
    const bool changed = kept.size() != p.code.size();
    p.code = std::move(kept);
    constants.finish();
    parameters.finish();
    maps.finish();
    for (auto& o : p.outputs) o.value = now[o.value];
    return changed;
}

} // namespace hue
