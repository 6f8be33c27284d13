// Facts that hold of every edit of every part of a project.
#include "core/check/check.h"
#include "core/document/changes.h"
#include "core/project/store.h"
#include "tests/places.h"
#include "tests/random_edits.h"

#include <gtest/gtest.h>
#include <map>

namespace hue {
namespace {

using namespace test;

Project demo() {
    Result<Loaded> read = loadProject(depotFile());
    EXPECT_TRUE(read);
    return read ? std::move(read->project) : Project{};
}

TEST(AnyEdit, LeavesTheStateBeforeAsItWasAndEveryReferenceWhole) {
    const Project start = demo();
    ASSERT_EQ(brokenReference(start), "");
    std::map<std::string, int> done;
    const std::initializer_list<const char*> everyone = {"add card",
                                                         "connect",
                                                         "connect channel",
                                                         "remove cards",
                                                         "paste",
                                                         "replace card",
                                                         "move wires",
                                                         "swap inputs",
                                                         "underpass",
                                                         "bay",
                                                         "fold bay",
                                                         "scratch bay",
                                                         "into bay",
                                                         "remove bay",
                                                         "expose",
                                                         "remove parameter",
                                                         "change parameter",
                                                         "surface",
                                                         "kind",
                                                         "derive",
                                                         "remove instance",
                                                         "own value",
                                                         "add master",
                                                         "remove master",
                                                         "add map",
                                                         "change map",
                                                         "remove map",
                                                         "make set",
                                                         "wear set",
                                                         "place set",
                                                         "swap sets",
                                                         "replace by map",
                                                         "add packing",
                                                         "change packing",
                                                         "remove packing",
                                                         "fold",
                                                         "unfold",
                                                         "place assembly",
                                                         "rename output",
                                                         "remove assembly",
                                                         "camera",
                                                         "add specimen",
                                                         "remove specimen",
                                                         "add mesh",
                                                         "wear"};
    const auto came = [&] { return std::all_of(everyone.begin(), everyone.end(), [&](const char* name) { return done[name] > 0; }); };
    for (uint32_t seed = 0; seed < 7 || (seed < 40 && !came()); ++seed) {
        std::mt19937 random(seed);
        Project p = start;
        std::string text = projectText(p);
        for (int i = 0; i < 120; ++i) {
            const AnyEdit e = anyEdit(p, random);
            ASSERT_EQ(projectText(p), text) << e.name << " changed the project that it was given";
            if (!e.next) {
                ASSERT_FALSE(e.next.error().sentence.empty()) << e.name << " is refused without a word";
                continue;
            }
            ++done[e.name];
            ASSERT_EQ(brokenReference(*e.next), "") << "after " << e.name << ", seed " << seed;
            p = *e.next;
            text = projectText(p);
        }
    }
    // The walks come everywhere, or they would say nothing.
    for (const char* name : everyone) EXPECT_GT(done[name], 0) << name << " was never taken";
}

TEST(AnyEdit, IsInTheFileAsItIsInTheProject) {
    for (uint32_t seed = 100; seed < 108; ++seed) {
        std::mt19937 random(seed);
        Project p = demo();
        for (int i = 0; i < 60; ++i) {
            AnyEdit e = anyEdit(p, random);
            if (e.next) p = std::move(*e.next);
        }
        const std::string text = projectText(p);
        const Result<Loaded> read = parseProject(text, "a walk");
        ASSERT_TRUE(read) << read.error().sentence;
        EXPECT_TRUE(read->report.empty()) << read->report[0].sentence;
        EXPECT_EQ(projectText(read->project), text) << "seed " << seed;
    }
}

TEST(AnyEdit, TellsWhatItChangedAndNothingElse) {
    // What is told is what a comparison of the texts of the parts finds.
    for (uint32_t seed = 200; seed < 206; ++seed) {
        std::mt19937 random(seed);
        Project p = demo();
        for (int i = 0; i < 60; ++i) {
            AnyEdit e = anyEdit(p, random);
            if (!e.next) continue;
            const Changes told = changesBetween(p, *e.next);
            const bool differs = projectText(p) != projectText(*e.next);
            ASSERT_EQ(!told.none(), differs) << e.name << ": it is told exactly when something is another";
            ASSERT_FALSE(!changesBetween(*e.next, *e.next).none());
            // Both ways the same kinds are told: undo wakes whom the edit woke.
            ASSERT_EQ(changesBetween(*e.next, p), told) << e.name;
            p = std::move(*e.next);
        }
    }
}

TEST(AnyEdit, CanBeCheckedWhateverItMade) {
    std::mt19937 random(7);
    Project p = demo();
    int problems = 0;
    for (int i = 0; i < 150; ++i) {
        AnyEdit e = anyEdit(p, random);
        if (e.next) p = std::move(*e.next);
        if (i % 10) continue;
        for (const Diagnostic& d : checkProject(p)) {
            ++problems;
            ASSERT_FALSE(d.sentence.empty());
            ASSERT_FALSE(d.code.empty());
        }
    }
    EXPECT_GT(problems, 0) << "a walk by chance breaks something, and that is said";
}

} // namespace
} // namespace hue
