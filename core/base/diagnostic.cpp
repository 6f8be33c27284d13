#include "core/base/diagnostic.h"

namespace hue {

std::string_view nameOf(Severity severity) {
    switch (severity) {
    case Severity::Advice: return "advice";
    case Severity::Caution: return "caution";
    case Severity::Error: return "error";
    }
    return "error";
}

} // namespace hue
