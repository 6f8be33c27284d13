#pragma once
// Short forms for writing port definitions.
// Threads: any. Nothing is kept between calls.
#include "core/nodes/catalogue.h"

namespace hue {

inline PortDef anyIn(std::string_view key, float standard, std::string_view help, float low = 0, float high = 1) {
    return {key, kAnyWidth, Meaning::Any, Value::number(standard), low, high, help, {}};
}
inline PortDef numberIn(std::string_view key, float standard, std::string_view help, float low = 0, float high = 1,
                        std::string_view unit = {}) {
    return {key, 1, Meaning::Number, Value::number(standard), low, high, help, unit};
}
inline PortDef uvIn(std::string_view help = "UV; the mesh's first set when nothing is wired") {
    return {"uv", 2, Meaning::Uv, Value::vec2(0, 0), 0, 1, help, {}, Unwired::Uv};
}
inline PortDef normalIn() {
    return {"normal",
            3,
            Meaning::Normal,
            Value::vec3(0, 0, 1),
            -1,
            1,
            "World-space normal; the mesh's own when nothing is wired",
            {},
            Unwired::NormalWorld};
}
/// A color that is composited; `standard` of all components.
inline PortDef colorIn(std::string_view key, float standard, std::string_view help) {
    return {key, 3, Meaning::Color, Value::vec3(standard, standard, standard), 0, 1, help, {}};
}
/// Of any width, or a finish.
inline PortDef withFinishes(PortDef port) {
    port.finishes = true;
    return port;
}
inline PortDef anyOut(std::string_view key = "out", std::string_view help = {}) {
    return {key, kAnyWidth, Meaning::Any, {}, 0, 1, help, {}};
}
inline PortDef out(int width, Meaning meaning, std::string_view key = "out", std::string_view help = {}) {
    return {key, width, meaning, {}, 0, 1, help, {}};
}
inline PortDef numberOut(std::string_view key = "out", std::string_view help = {}) { return out(1, Meaning::Number, key, help); }

} // namespace hue
