// Any text as a formula: it has a mistake that is said with its place, or becomes a valid Program; and it ends soon.
#include "core/formula/formula.h"
#include "core/compile/compile.h"
#include "core/nodes/catalogue.h"
#include "tests/fuzz/fuzz.h"

using namespace hue;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const std::string text = fuzz::textOf(data, size);
    const ParsedFormula parsed = parseFormula(text);
    if (parsed.problem) {
        if (parsed.problem->sentence.empty() || parsed.problem->at.line < 1 || parsed.problem->at.column < 1) std::abort();
        return 0;
    }
    (void)namesRead(parsed.formula);
    Project project;
    auto master = std::make_shared<Master>();
    master->id = "m";
    Node card = makeNode("formula");
    card.settings["formula"] = text;
    const Id id = card.id;
    master->graph.nodes[id] = std::make_shared<Node>(std::move(card));
    project.masters.push_back(master);
    const Compilation c = compileTap(project, *master, {id, "out", ""});
    if (!validate(*c.program).empty()) std::abort();
    return 0;
}
