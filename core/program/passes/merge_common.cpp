#include "core/program/passes/passes.h"

#include <bit>
#include <numeric>
#include <unordered_map>

namespace hue {
namespace {

using Key = std::array<uint32_t, 8>;
struct KeyHash {
    size_t operator()(const Key& k) const {
        uint64_t h = 0x9E3779B97F4A7C15ull;
        for (uint32_t x : k) {
            h ^= x;
            h *= 0xD6E8FEB86659FD93ull;
            h ^= h >> 32;
        }
        return size_t(h);
    }
};

} // namespace

bool mergeCommon(Program& p) {
    std::unordered_map<Key, int32_t, KeyHash> seen;
    seen.reserve(p.code.size());
    std::vector<int32_t> now(p.code.size());
    std::iota(now.begin(), now.end(), 0);
    bool changed = false;
    for (size_t n = 0; n < p.code.size(); ++n) {
        Instruction& i = p.code[n];
        Key key{uint32_t(i.op) | uint32_t(i.width) << 8 | uint32_t(i.operands) << 16, i.imm, 0, 0, 0, 0, 0, 0};
        for (int a = 0; a < i.operands; ++a) {
            i.args[a] = now[i.args[a]];
            key[2 + a] = uint32_t(i.args[a]);
        }
        if (i.op == Op::Constant) {
            key[1] = 0;
            for (int c = 0; c < i.width; ++c) key[2 + c] = std::bit_cast<uint32_t>(p.constants[i.imm][c]);
        }
        auto [it, fresh] = seen.emplace(key, int32_t(n));
        if (!fresh) {
            now[n] = it->second;
            changed = true;
        }
    }
    for (auto& o : p.outputs) o.value = now[o.value];
    return changed;
}

} // namespace hue
