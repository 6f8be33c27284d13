#pragma once
// XXH3, 64 bit (Collet, "xxHash fast digest algorithm"), for telling contents apart; not against anybody who wants them to collide.
// Threads: any; a Hash that is being fed belongs to one at a time.
#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>

namespace hue {

class Hash {
  public:
    Hash();
    ~Hash();
    void add(const void* data, size_t bytes);
    /// With its end, so that "ab" + "c" differs from "a" + "bc".
    void add(const std::string& text);
    template <class T> void number(T v) { add(&v, sizeof v); }
    uint64_t value() const;
    /// 16 hexadecimal digits.
    std::string text() const;

  private:
    struct State;
    std::unique_ptr<State> m;
};

} // namespace hue
