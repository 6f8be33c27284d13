// Who wears what when instances are made.
#include "core/check/check.h"
#include "core/edits/edits.h"
#include "core/edits/wearing.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// Line is worn by specimens 1 and 3, there by a decal; the master by 2.
Project yard() {
    Project p = bareProject();
    Parameter wear;
    wear.id = "wear", wear.name = "Wear", wear.codeName = "wear", wear.standard.value = Value::number(0.5f);
    p = *edit::addParameter(p, "m", wear);
    Instance line;
    line.id = "line", line.name = "Line", line.parent = "m", line.own["wear"] = {Value::number(0.7f), {}}, line.locked = true;
    p = *edit::addInstance(p, line);
    Decal d;
    d.wears = "line";
    p.lineup.specimens = {{"shape:sphere", {"line"}}, {"shape:cube", {"m", "m"}}, {.mesh = "shape:plane", .wears = {"m"}, .decals = {d}}};
    return p;
}

using Specimens = std::vector<size_t>;

TEST(Wearing, IsFoundInSlotsAndDecals) {
    const Project p = yard();
    EXPECT_EQ(specimensWearing(p, "line"), (Specimens{0, 2}));
    EXPECT_EQ(specimensWearing(p, "m"), (Specimens{1, 2}));
    EXPECT_EQ(specimensWearing(p, "nobody"), Specimens{});
}

TEST(Wearing, AChildIsWornByThoseThatAreNamed) {
    const Project p = yard();
    Project next = *edit::deriveFor(p, "line", "child", {2});
    EXPECT_EQ(specimensWearing(next, "child"), Specimens{2});
    EXPECT_EQ(specimensWearing(next, "line"), Specimens{0});
    EXPECT_EQ(resolve(next, "child").values.at("wear").value.value[0], 0.7f);
    EXPECT_TRUE(next.instance("child")->own.empty());
    next = *edit::deriveFor(p, "m", "child", {1, 2});
    EXPECT_EQ(next.lineup.specimens[1].wears, (std::vector<Id>{"child", "child"})) << "in all its slots";
    next = *edit::deriveFor(p, "m", "child", {});
    EXPECT_EQ(specimensWearing(next, "child"), Specimens{});
    EXPECT_EQ(edit::deriveFor(p, "nobody", "child", {}).error().code, "instance.no-parent");
}

TEST(Wearing, AnOwnCopyLeavesTheOthersAlone) {
    const Project p = yard();
    const Project next = *edit::ownCopyFor(p, "line", "copy", 0);
    EXPECT_EQ(specimensWearing(next, "copy"), Specimens{0});
    EXPECT_EQ(specimensWearing(next, "line"), Specimens{2});
    EXPECT_EQ(next.instance("copy")->own, p.instance("line")->own);
    EXPECT_EQ(next.instance("copy")->parent, "m");
    EXPECT_FALSE(next.instance("copy")->locked);
    EXPECT_NE(next.instance("copy")->name, "Line");
}

TEST(Wearing, ABareMasterIsAdvisedOnAndMended) {
    Project p = yard();
    const auto bare = [](const Project& q) {
        std::vector<Diagnostic> out;
        for (Diagnostic& d : checkProject(q))
            if (d.code == "wearing.bare-master") out.push_back(std::move(d));
        return out;
    };
    ASSERT_EQ(bare(p).size(), 2u);
    for (int k = 0; k < 2; ++k) p = *bare(p)[0].fixes.at(0).edit(p);
    EXPECT_TRUE(bare(p).empty());
    EXPECT_EQ(specimensWearing(p, "m"), Specimens{});
    // While nobody has made an instance yet, the master is what one works on.
    p = yard();
    p.instances.clear();
    EXPECT_TRUE(bare(p).empty());
}

} // namespace
} // namespace hue
