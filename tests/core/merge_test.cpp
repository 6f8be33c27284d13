// A project that two have changed.
#include "core/project/merge.h"
#include "core/project/store.h"
#include "tests/random_edits.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

Project ground() {
    Project p = bareProject();
    add(p, "noise_2d");
    add(p, "texcoord");
    p = *edit::addInstance(p, {"i", "Wet", "m", {}, {}, {}, {}, {}});
    return *edit::addInstance(p, {"j", "Dry", "m", {}, {}, {}, {}, {}});
}

std::vector<std::string> told(const Project& from, const Project& to) {
    std::vector<std::string> out;
    for (const Difference& d : differences(from, to)) out.push_back(d.sentence());
    return out;
}

TEST(Merge, DifferencesNameWhatWasAddedRemovedAndChanged) {
    const Project p = ground();
    EXPECT_TRUE(differences(p, p).empty());
    Project q = *edit::renameInstance(p, "i", "Soaked");
    q = *edit::removeInstance(q, "j");
    q = *edit::setConstant(q, "m", "n1000", "amplitude", Value::number(0.25f));
    q = *edit::setChannelConstant(q, "m", "roughness", Value::number(0.75f));
    Project with = q;
    add(with, "sine");
    const auto all = told(p, with);
    for (const char* wanted : {"masters / M: channelValues roughness changed", "masters / M / cards / noise_2d n1000: values amplitude changed",
                               "masters / M / cards / sine n1002: added", "instances / Soaked: name changed", "instances / Dry: removed"})
        EXPECT_TRUE(holds(all, wanted)) << wanted << " is not among: " << ::testing::PrintToString(all);
    EXPECT_EQ(all.size(), 5u);
}

TEST(Merge, WhatEachChangedElsewhereComesTogether) {
    const Project p = ground();
    Project ours = *edit::setConstant(p, "m", "n1000", "amplitude", Value::number(0.25f));
    ours = *edit::renameInstance(ours, "i", "Soaked");
    add(ours, "sine");
    Project theirs = *edit::setConstant(p, "m", "n1000", "pivot", Value::number(0.75f));
    theirs = *edit::removeInstance(theirs, "j");
    theirs = *edit::setChannelConstant(theirs, "m", "roughness", Value::number(0.75f));
    const auto both = merged(p, ours, theirs);
    ASSERT_TRUE(both) << both.error().sentence;
    EXPECT_TRUE(both->conflicts.empty()) << both->conflicts[0];
    const Graph& g = both->project.masters[0]->graph;
    EXPECT_EQ(g.nodes.at("n1000")->constants.at("amplitude"), Value::number(0.25f));
    EXPECT_EQ(g.nodes.at("n1000")->constants.at("pivot"), Value::number(0.75f));
    EXPECT_TRUE(g.nodes.contains("n1002"));
    EXPECT_EQ(g.channelConstants.at("roughness"), Value::number(0.75f));
    EXPECT_EQ(both->project.instances.size(), 1u);
    EXPECT_EQ(both->project.instances[0]->name, "Soaked");
}

TEST(Merge, WhereBothChangedTheSameOursStaysAndIsTold) {
    const Project p = ground();
    const auto value = [&](float v) { return *edit::setConstant(p, "m", "n1000", "amplitude", Value::number(v)); };
    const auto both = merged(p, value(0.25f), value(0.75f));
    ASSERT_TRUE(both);
    EXPECT_EQ(both->conflicts, std::vector<std::string>{"masters / M / cards / noise_2d n1000 / values / amplitude"});
    EXPECT_EQ(both->project.masters[0]->graph.nodes.at("n1000")->constants.at("amplitude"), Value::number(0.25f));
    // What one removed and the other changed stays, whoever did which.
    const Project gone = *edit::removeInstance(p, "i"), renamed = *edit::renameInstance(p, "i", "Soaked");
    for (const auto& [ours, theirs] : {std::pair{gone, renamed}, {renamed, gone}}) {
        const auto kept = merged(p, ours, theirs);
        ASSERT_TRUE(kept);
        ASSERT_NE(kept->project.instance("i"), nullptr);
        EXPECT_EQ(kept->project.instance("i")->name, "Soaked");
        EXPECT_EQ(kept->conflicts.size(), 1u);
    }
}

// Whatever is changed: with one side alone the result is that side, in either order.
TEST(Merge, OneSideAloneIsTakenAsItIs) {
    std::mt19937 random(7);
    Project p = ground();
    for (int round = 0; round < 40; ++round) {
        Project q = p;
        for (int k = 0; k < 5; ++k)
            if (auto edited = anyEdit(q, random).next) q = std::move(*edited);
        for (const auto& both : {merged(p, q, p), merged(p, p, q), merged(p, q, q)}) {
            ASSERT_TRUE(both) << both.error().sentence;
            EXPECT_TRUE(both->conflicts.empty());
            // As the file keeps it, which a merge goes through.
            EXPECT_EQ(projectText(both->project), projectText(parseProject(projectText(q), "q")->project));
        }
        EXPECT_EQ(differences(p, q).empty(), projectText(p) == projectText(q));
        p = q;
    }
}

} // namespace
} // namespace hue
