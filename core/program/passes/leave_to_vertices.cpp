// What changes evenly over a triangle (UVs, vertex colors and positions, times and plus what is known once a frame) is the same whether
// each pixel computes it or the triangle carries it. Where carrying is cheaper, it is left to the vertices.
#include "core/program/passes/passes.h"
#include "core/program/passes/vertex_split.h"

#include <algorithm>

namespace hue {
namespace {

/// How a value changes over a triangle.
enum class Change : uint8_t { None, Even, Otherwise };

Change changeOf(const Instruction& i, const std::vector<Change>& before) {
    if (i.op == Op::Attribute) return changesEvenly(Attribute(i.imm)) ? Change::Even : Change::Otherwise;
    if (infoOf(i.op).is(kCamera)) return Change::Otherwise; // vertices do not know the camera
    const auto is = [&](int k, Change c) { return before[size_t(i.args[size_t(k)])] == c; };
    const auto still = [&](int k) { return is(k, Change::None); };
    const auto even = [&](int k) { return !is(k, Change::Otherwise); };
    bool all = true;
    for (int a = 0; a < i.operands; ++a) all = all && even(a);
    if (onceAFrame(i)) return all ? Change::None : Change::Otherwise;
    bool evenly = false;
    switch (i.op) {
    case Op::Add:
    case Op::Sub:
    case Op::Swizzle:
    case Op::Compose: evenly = all; break;
    case Op::Mul:
    case Op::Dot:
    case Op::Cross:
    case Op::MulAdd: evenly = all && (still(0) || still(1)); break;
    case Op::Div: evenly = all && still(1); break;
    case Op::Mix: evenly = all && (still(2) || (still(0) && still(1))); break;
    default: break;
    }
    return evenly ? Change::Even : Change::Otherwise;
}

/// Takes the value that spares pixels most, and again, until nothing is spared or no room is left.
class Leaving {
  public:
    explicit Leaving(const Program& p) : m_p(p), m_users(p.code.size(), 0), m_dropped(p.code.size(), 0), m_carried(p.code.size(), 0) {
        m_change.reserve(p.code.size());
        for (const Instruction& i : p.code) m_change.push_back(changeOf(i, m_change));
        std::vector<char> pixels(p.code.size(), 0);
        for (const auto& o : p.outputs) pixels[size_t(o.value)] = 1, ++m_users[size_t(o.value)];
        m_onlyUser.assign(p.code.size(), -1);
        for (size_t n = p.code.size(); n-- > 0;) {
            if (!pixels[n]) continue;
            if (p.code[n].op == Op::PerVertex) {
                m_wishes.push_back({int32_t(n), p.code[n].width, true});
                continue;
            }
            for (int a = 0; a < p.code[n].operands; ++a) {
                const auto from = size_t(p.code[n].args[size_t(a)]);
                pixels[from] = 1;
                ++m_users[from];
                m_onlyUser[from] = int32_t(n);
            }
        }
    }

    /// What the triangles are to carry beyond what was asked, by instruction.
    std::vector<char> chosen() {
        std::vector<int32_t> open;
        for (size_t n = 0; n < m_p.code.size(); ++n)
            if (m_users[n] > 0 && m_change[n] == Change::Even && !isOutdone(n)) open.push_back(int32_t(n));
        while (true) {
            int most = 0;
            int32_t best = -1;
            for (const int32_t n : open) {
                if (m_carried[size_t(n)] || m_users[size_t(n)] == 0) continue;
                const int gain = spared(n, false) - carrying(n);
                if (gain > most && hasRoomFor(n)) most = gain, best = n;
            }
            if (best < 0) return m_carried;
            spared(best, true);
            m_carried[size_t(best)] = 1;
            m_wishes.push_back({best, m_p.code[size_t(best)].width, false});
        }
    }

  private:
    const Program& m_p;
    std::vector<Change> m_change;
    std::vector<int> m_users, m_dropped; ///< readers among what pixels compute; of those, what is being left
    std::vector<int32_t> m_onlyUser;     ///< the reader, where there is one
    std::vector<char> m_carried;
    std::vector<CarriedWish> m_wishes;

    int carrying(int32_t n) const { return infoOf(Op::PerVertex).cost * m_p.code[size_t(n)].width; }

    /// Beside what was chosen before, and what was asked and found room.
    bool hasRoomFor(int32_t n) const {
        std::vector<CarriedWish> wishes = m_wishes;
        wishes.push_back({n, m_p.code[size_t(n)].width, false});
        const std::vector<Carried> rooms = findRoom(std::move(wishes));
        return std::none_of(rooms.begin(), rooms.end(),
                            [&](const Carried& c) { return c.vector < 0 && m_p.code[size_t(c.at)].op != Op::PerVertex; });
    }

    /// Its one reader changes evenly as well and is no wider: that spares more.
    bool isOutdone(size_t n) const {
        if (m_users[n] != 1 || m_onlyUser[n] < 0) return false;
        const auto user = size_t(m_onlyUser[n]);
        return m_change[user] == Change::Even && m_p.code[user].width <= m_p.code[n].width;
    }

    /// Operations that pixels no longer compute once the triangles carry the value.
    int spared(int32_t value, bool forGood) {
        int operations = 0;
        std::vector<int32_t> open{value}, touched;
        while (!open.empty()) {
            const int32_t n = open.back();
            open.pop_back();
            if (m_carried[size_t(n)]) { // all that read it are left to the vertices too
                operations += carrying(n);
                if (forGood) {
                    m_carried[size_t(n)] = 0;
                    std::erase_if(m_wishes, [&](const CarriedWish& w) { return w.at == n; });
                }
                continue;
            }
            const Instruction& i = m_p.code[size_t(n)];
            operations += costOf(i).operations;
            for (int a = 0; a < i.operands; ++a) {
                const int32_t from = i.args[size_t(a)];
                if (onceAFrame(m_p.code[size_t(from)])) continue;
                touched.push_back(from);
                if (++m_dropped[size_t(from)] == m_users[size_t(from)]) open.push_back(from);
            }
        }
        for (const int32_t n : touched) {
            if (forGood) --m_users[size_t(n)];
            m_dropped[size_t(n)] = 0;
        }
        return operations;
    }
};

} // namespace

bool leaveToVertices(Program& p) {
    assignRates(p);
    const std::vector<char> carried = Leaving(p).chosen();
    if (std::find(carried.begin(), carried.end(), 1) == carried.end()) return false;
    std::vector<Instruction> code;
    std::vector<int32_t> now(p.code.size());
    for (size_t n = 0; n < p.code.size(); ++n) {
        Instruction i = p.code[n];
        for (int a = 0; a < i.operands; ++a) i.args[size_t(a)] = now[size_t(i.args[size_t(a)])];
        code.push_back(i);
        if (carried[n]) {
            Instruction carry;
            carry.op = Op::PerVertex;
            carry.width = i.width;
            carry.operands = 1;
            carry.imm = kCarriedUnasked;
            carry.args[0] = int32_t(code.size()) - 1;
            carry.origin = i.origin;
            code.push_back(carry);
        }
        now[n] = int32_t(code.size()) - 1;
    }
    for (auto& o : p.outputs) o.value = now[size_t(o.value)];
    p.code = std::move(code);
    assignRates(p);
    return true;
}

} // namespace hue
