// Any text as a project: it is refused with a reason, or opens, can be looked at in every way, and comes back the same from its own text.
#include "core/check/check.h"
#include "core/compile/compile.h"
#include "core/project/merge.h"
#include "core/project/store.h"
#include "tests/fuzz/json_text.h"

using namespace hue;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const Result<Loaded> loaded = parseProject(fuzz::textOf(data, size), "input");
    if (!loaded) {
        fuzz::isReason(loaded.error());
        return 0;
    }
    const Project& p = loaded->project;
    for (const Diagnostic& d : checkProject(p))
        if (d.code.empty() || d.sentence.empty()) std::abort();
    for (const auto& m : p.masters) {
        const Compilation c = compileSurface(p, *m, Constants::Live);
        if (!validate(*c.program).empty()) std::abort();
    }
    for (const auto& i : p.instances) (void)resolve(p, i->id);
    const std::string text = projectText(p);
    const Result<Loaded> again = parseProject(text, "input");
    if (!again || projectText(again->project) != text) std::abort();
    if (!differences(p, again->project).empty()) std::abort();
    return 0;
}
