#include "core/base/value.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {

std::string_view nameOf(Meaning meaning) {
    switch (meaning) {
    case Meaning::Any: return "value";
    case Meaning::Number: return "number";
    case Meaning::Vector: return "vector";
    case Meaning::Color: return "color";
    case Meaning::Normal: return "normal";
    case Meaning::EncodedNormal: return "encoded normal";
    case Meaning::Direction: return "direction";
    case Meaning::Position: return "position";
    case Meaning::Uv: return "UV";
    }
    return "value";
}

float srgbToLinear(float e) { return e <= 0.04045f ? e / 12.92f : std::pow((e + 0.055f) / 1.055f, 2.4f); }
float linearToSrgb(float l) { return l <= 0.0031308f ? l * 12.92f : 1.055f * std::pow(l, 1 / 2.4f) - 0.055f; }

std::string hexFromColor(const Value& color) {
    auto byte = [&](int i) { return int(std::lround(std::clamp(linearToSrgb(color[i]), 0.f, 1.f) * 255)); };
    return fmt::format("#{:02X}{:02X}{:02X}", byte(0), byte(1), byte(2));
}

bool colorFromHex(std::string_view text, Value& color) {
    if (text.size() != 7 || text[0] != '#') return false;
    Value out{3, {}};
    for (int i = 0; i < 3; ++i) {
        int byte = 0;
        for (char c : text.substr(1 + 2 * i, 2)) {
            int digit = c >= '0' && c <= '9' ? c - '0' : c >= 'a' && c <= 'f' ? c - 'a' + 10 : c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
            if (digit < 0) return false;
            byte = byte * 16 + digit;
        }
        out[i] = srgbToLinear(byte / 255.f);
    }
    color = out;
    return true;
}

} // namespace hue
