#include "core/base/hash.h"

#include <fmt/format.h>
#define XXH_INLINE_ALL
#include <xxhash.h>

namespace hue {

struct Hash::State {
    XXH3_state_t state;
};

Hash::Hash() : m(std::make_unique<State>()) { XXH3_64bits_reset(&m->state); }
Hash::~Hash() = default;

void Hash::add(const void* data, size_t bytes) { XXH3_64bits_update(&m->state, data, bytes); }

void Hash::add(const std::string& text) { add(text.c_str(), text.size() + 1); }

uint64_t Hash::value() const { return XXH3_64bits_digest(&m->state); }

std::string Hash::text() const { return fmt::format("{:016x}", value()); }

} // namespace hue
