// Any text as a board: it has mistakes that are said with their places, or becomes a valid board whose own text says the same; and it ends
// soon.
#include "core/compile/compile.h"
#include "core/master_text/master_text.h"
#include "tests/fuzz/fuzz.h"

using namespace hue;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const std::string text = fuzz::textOf(data, size);
    Project project;
    auto master = std::make_shared<Master>();
    master->id = "m";
    master->name = "M";
    project.masters.push_back(master);
    const ReadText read = readText(project, "m", text, {});
    if (!read.project) {
        if (read.problems.empty()) std::abort();
        for (const FormulaProblem& p : read.problems)
            if (p.sentence.empty() || p.at.line < 1 || p.at.column < 1) std::abort();
        return 0;
    }
    const Master& made = *read.project->master("m");
    if (!validate(*compileSurface(*read.project, made).program).empty()) std::abort();
    const BoardText again = boardText(*read.project, made, read.cards);
    const ReadText same = readText(*read.project, "m", again.text, {{}, again.cards});
    if (!same.project || same.changes) std::abort();
    // The text that was given stands for the board as it is, and follows it without a change.
    const BoardText kept = followed({text, read.cards}, *read.project, "m");
    if (!text.empty() && kept.text != text) std::abort();
    return 0;
}
