// Who may look different after an edit, against what is computed for each of them.
#include "core/instances/affected.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "tests/random_edits.h"
#include "tests/test_graphs.h"

#include <algorithm>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// Roughness by "wear", and a second master that takes a finish of an instance of the first.
Project fleet() {
    Project p = bareProject();
    Parameter wear;
    wear.id = "wear", wear.name = "Wear", wear.codeName = "wear", wear.standard.value = Value::number(0.5f);
    p = *edit::addParameter(p, "m", wear);
    const Id card = add(p, "parameter", {}, {{"parameter", "wear"}}), scaled = add(p, "multiply", {{"in2", Value::number(0.8f)}});
    wire(p, {card, "out", ""}, scaled, "in1");
    channel(p, {scaled, "out", ""}, "roughness");
    const auto instance = [&](const Id& id, const Id& parent, std::map<Id, ParameterValue> own) {
        Instance i;
        i.id = i.name = id, i.parent = parent, i.own = std::move(own);
        p = *edit::addInstance(p, i);
    };
    instance("line", "m", {});
    instance("worn", "line", {{"wear", {Value::number(0.9f), {}}}});
    Master other;
    other.id = "o", other.name = "Other";
    p.masters.push_back(std::make_shared<Master>(other));
    Node wearing = makeNode("finish_of");
    wearing.id = "f";
    wearing.settings[std::string(kFinishOfSetting)] = "worn";
    p = *edit::addNode(p, "o", wearing);
    p = *edit::connectChannel(p, "o", {"f", "out", ""}, "finish");
    instance("both", "o", {});
    return p;
}

using Ids = std::vector<Id>;

TEST(Affected, AreThoseThatInheritWhatChanged) {
    const Project p = fleet();
    EXPECT_EQ(affectedBy(p, p), Ids{});
    EXPECT_EQ(affectedBy(p, *edit::setOwn(p, "m", "wear", {Value::number(0.1f), {}})), (Ids{"m", "line"})) << "worn has a value of its own";
    EXPECT_EQ(affectedBy(p, *edit::setOwn(p, "line", "wear", {Value::number(0.1f), {}})), Ids{"line"});
    EXPECT_EQ(affectedBy(p, *edit::setOwn(p, "worn", "wear", {Value::number(0.1f), {}})), (Ids{"o", "worn", "both"}))
        << "and who takes a finish of it";
    EXPECT_EQ(affectedBy(p, *edit::setOwnSurface(p, "line", {{}, {}, true})), (Ids{"o", "line", "worn", "both"}));
}

TEST(Affected, AreAllOfAMasterWhoseGraphChanged) {
    const Project p = fleet();
    const Id scaled = masterOf(p).graph.channelWires.at("roughness").node;
    EXPECT_EQ(affectedBy(p, *edit::setConstant(p, "m", scaled, "in2", Value::number(0.7f))), (Ids{"m", "o", "line", "worn", "both"}));
    // What is only drawn elsewhere, or called otherwise, looks the same.
    EXPECT_EQ(affectedBy(p, *edit::moveNodes(p, "m", {{scaled, {900, 40}}})), Ids{});
    EXPECT_EQ(affectedBy(p, *edit::renameMaster(p, "m", "N")), Ids{});
    EXPECT_EQ(affectedBy(p, *edit::setNote(p, "line", "said")), Ids{});
}

TEST(Affected, MissNothingThatIsComputedOtherwise) {
    // Random edits, and the value of every channel over the square for everybody, before and after.
    const auto pictures = [](const Project& p, const Id& worn) {
        const Resolved r = resolve(p, worn);
        const Compilation c = compileSurface(p, *r.master);
        FrameInputs inputs;
        inputs.parameter = [&](const Id& id) {
            const auto at = r.values.find(id);
            return at == r.values.end() ? Value{} : at->second.value.value;
        };
        std::vector<float> out{float(r.surface.doubleSided)};
        const Evaluator e(c.program);
        for (const auto& o : c.program->outputs) {
            const auto over = overSquare(e, inputs, o.name, c.program->code[size_t(o.value)].width, 6);
            out.insert(out.end(), over.begin(), over.end());
        }
        return out;
    };
    int changes = 0, spared = 0;
    for (uint32_t seed = 1; seed <= 150; ++seed) {
        const Project before = fleet();
        std::mt19937 random(seed);
        Project after = before;
        for (int k = 0; k < 3; ++k)
            if (AnyEdit edited = anyEdit(after, random); edited.next) after = std::move(*edited.next);
        const Ids affected = affectedBy(before, after);
        for (const Id worn : {"m", "o", "line", "worn", "both"}) {
            if (!resolve(before, worn).master || !resolve(after, worn).master) continue;
            const bool differs = pictures(before, worn) != pictures(after, worn);
            const bool told = std::find(affected.begin(), affected.end(), worn) != affected.end();
            EXPECT_TRUE(told || !differs) << "seed " << seed << ": " << worn;
            changes += differs, spared += !told;
        }
    }
    EXPECT_GT(changes, 10);
    EXPECT_GT(spared, 100);
}

} // namespace
} // namespace hue
