#include "core/cost/shares.h"

#include "core/program/passes/vertex_split.h"

#include <algorithm>
#include <tuple>

namespace hue {
namespace {

bool isNothing(const Share& s) {
    return s.fetches == 0 && s.vertexFetches == 0 && std::all_of(s.operations.begin(), s.operations.end(), [](double x) { return x == 0; });
}

class Sharing {
  public:
    explicit Sharing(Shares& out) : m_out(out) {}

    void add(const Program& p, bool vertices) {
        const Unseen unseen = vertices ? Unseen{} : unseenOf(p);
        const std::vector<std::vector<size_t>> readers = readersOf(p);
        for (size_t n = 0; n < p.code.size(); ++n) {
            const Instruction& i = p.code[n];
            const OpCost its = costOf(i);
            Share s;
            if (vertices || !handsOut(unseen, i)) s.operations[size_t(vertices ? std::min(i.rate, Rate::Vertex) : i.rate)] = its.operations;
            (vertices ? s.vertexFetches : s.fetches) = its.fetches;
            give(p, i.origin, s);
            toChannels(p, readers[n], s);
        }
        if (!vertices) {
            Share s;
            s.operations[size_t(Rate::Pixel)] = operationsOfBranches(p, unseen);
            give(p, -1, s);
            toChannels(p, {}, s);
        }
    }

    void carried(const Program& surface, const VertexSplit& split) {
        const std::vector<std::vector<size_t>> readers = readersOf(surface);
        for (const Carried& c : split.carried) {
            const Instruction& i = surface.code[size_t(c.at)];
            Share s;
            s.operations[size_t(Rate::Pixel)] = costOf(i).operations;
            give(surface, i.origin, s);
            toChannels(surface, readers[size_t(c.at)], s);
        }
    }

  private:
    void give(const Program& p, int32_t origin, const Share& s) {
        if (isNothing(s)) return;
        m_out.whole += s;
        const Origin from = origin < 0 ? Origin{} : p.origins[size_t(origin)];
        const auto [at, fresh] = m_places.emplace(std::tuple(from.card, from.board, from.home), m_out.parts.size());
        if (fresh) m_out.parts.push_back({from, {}});
        m_out.parts[at->second].share += s;
    }

    void toChannels(const Program& p, const std::vector<size_t>& readers, const Share& s) {
        if (isNothing(s)) return;
        Share each;
        const double part = 1. / double(std::max<size_t>(readers.size(), 1));
        for (size_t r = 0; r < 4; ++r) each.operations[r] = s.operations[r] * part;
        each.fetches = s.fetches * part, each.vertexFetches = s.vertexFetches * part;
        if (readers.empty()) m_out.channels[{}] += each;
        for (const size_t o : readers) m_out.channels[p.outputs[o].name] += each;
    }

    /// By instruction the outputs that it leads to.
    static std::vector<std::vector<size_t>> readersOf(const Program& p) {
        std::vector<std::vector<size_t>> out(p.code.size());
        for (size_t o = 0; o < p.outputs.size(); ++o) {
            std::vector<char> reached(p.code.size(), 0);
            reached[size_t(p.outputs[o].value)] = 1;
            for (size_t n = p.code.size(); n-- > 0;) {
                if (!reached[n]) continue;
                out[n].push_back(o);
                for (int a = 0; a < p.code[n].operands; ++a) reached[size_t(p.code[n].args[size_t(a)])] = 1;
            }
        }
        return out;
    }

    Shares& m_out;
    std::map<std::tuple<Id, Id, Id>, size_t> m_places;
};

} // namespace

Share& Share::operator+=(const Share& o) {
    for (size_t r = 0; r < operations.size(); ++r) operations[r] += o.operations[r];
    fetches += o.fetches;
    vertexFetches += o.vertexFetches;
    return *this;
}

std::map<Id, Share> Shares::byCard() const {
    std::map<Id, Share> out;
    for (const SharePart& p : parts) out[p.origin.card] += p.share;
    return out;
}

std::map<Id, Share> Shares::byBoard() const {
    std::map<Id, Share> out;
    for (const SharePart& p : parts)
        if (!p.origin.board.empty()) out[p.origin.board] += p.share;
    return out;
}

Shares sharesOf(const Program& surface, const Program* offset) {
    Shares out;
    Sharing sharing(out);
    const VertexSplit split = splitAtVertices(std::shared_ptr<const Program>(std::shared_ptr<void>(), &surface));
    sharing.add(*split.surface, false);
    if (split.vertices) sharing.add(*split.vertices, true);
    sharing.carried(surface, split);
    if (offset) sharing.add(*offset, true);
    return out;
}

OperationKinds operationKinds(const Program& surface) {
    const VertexSplit split = splitAtVertices(std::shared_ptr<const Program>(std::shared_ptr<void>(), &surface));
    const Program& p = *split.surface;
    const Unseen unseen = unseenOf(p);
    OperationKinds out;
    for (const Instruction& i : p.code) {
        if (i.rate != Rate::Pixel || handsOut(unseen, i)) continue;
        const int operations = costOf(i).operations;
        switch (i.op) {
        case Op::Sin:
        case Op::Cos:
        case Op::Exp:
        case Op::Log:
        case Op::Power: out.transcendental += operations; break;
        case Op::Div:
        case Op::Sqrt:
        case Op::Modulo:
        case Op::Magnitude:
        case Op::Normalize:
        case Op::Atan2: out.quarter += operations; break;
        default: out.full += operations;
        }
    }
    return out;
}

} // namespace hue
