#pragma once
// FNV-1a, 64 bit (Fowler, Noll and Vo), for telling contents apart; not against anybody who wants them to collide.
#include <cstddef>
#include <cstdint>
#include <string>

namespace hue {

class Hash {
  public:
    void add(const void* data, size_t bytes) {
        const auto* p = static_cast<const unsigned char*>(data);
        for (size_t i = 0; i < bytes; ++i) m_value = (m_value ^ p[i]) * 0x100000001B3ull;
    }
    /// With its end, so that "ab" + "c" differs from "a" + "bc".
    void add(const std::string& text) {
        add(text.data(), text.size());
        add("\0", 1);
    }
    template <class T> void number(T v) { add(&v, sizeof v); }
    uint64_t value() const { return m_value; }
    /// 16 hexadecimal digits.
    std::string text() const {
        static constexpr char digits[] = "0123456789abcdef";
        std::string out(16, '0');
        for (size_t k = 0; k < 16; ++k) out[15 - k] = digits[(m_value >> (4 * k)) & 15];
        return out;
    }

  private:
    uint64_t m_value = 0xCBF29CE484222325ull;
};

} // namespace hue
