#pragma once
// Problems as data.
// Threads: plain values; each thread has its own.
#include "core/base/result.h"

#include <functional>
#include <string_view>
#include <vector>

namespace hue {

struct Project;

enum class Severity { Advice, Caution, Error };
std::string_view nameOf(Severity);

/// A mend that is itself an edit of the document.
struct Fix {
    std::string label; ///< a verb first, for a button
    std::function<Result<Project>(const Project&)> edit;
};

struct Diagnostic {
    Severity severity = Severity::Error;
    std::string code; ///< stable, such as "wire.width"
    Place place;
    std::string sentence;
    std::vector<Fix> fixes;
};

} // namespace hue
