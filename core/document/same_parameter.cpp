#include "core/document/same_parameter.h"

namespace hue {

const Parameter* sameParameter(const Master& in, const Parameter& p) {
    if (const Parameter* itself = in.parameter(p.id)) return itself;
    for (const Parameter& other : in.parameters)
        if (other.type == p.type && (p.type != ParameterType::Map || other.mapKind == p.mapKind) &&
            (other.name == p.name || other.codeName == p.codeName))
            return &other;
    return nullptr;
}

} // namespace hue
