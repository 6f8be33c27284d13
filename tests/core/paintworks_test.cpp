// Paintworks in the document, in the project's folder, in the journal, on specimens and on the command line.
#include "core/assemblies/fold.h"
#include "core/base/files.h"
#include "core/base/value.h"
#include "core/image_files/image_file.h"
#include "core/mesh/paint_data.h"
#include "core/paint/finer_mesh.h"
#include "core/paint/paint_names.h"
#include "core/paint/paint_problems.h"
#include "core/picture/looks.h"
#include "core/project/merge.h"
#include "core/project/store.h"
#include "core/tap/swatches.h"
#include "tests/test_folder.h"
#include "tests/test_glb.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

constexpr const char* kBall = "shape:sphere/1";

/// Everywhere the same.
PaintDataPtr flat(float value, int channel = 0) {
    const PaintData bare(shapeById(kBall));
    return std::make_shared<PaintData>(bare.with(channel, std::vector<float>(bare.vertices(), value)));
}

/// One specimen that wears the only master, which reads the first channel as "rust", and a paintwork.
struct Painted {
    Project p = bareProject();
    Id card, paintwork = "w";
    explicit Painted(float value = 0.4f) {
        card = add(p, "painted");
        p = *edit::renameNode(p, "m", card, "rust");
        channel(p, {card, "out", ""}, "roughness");
        p.lineup.specimens = {Specimen{.mesh = kBall, .wears = {"m"}}};
        p = *edit::addPaintwork(p, {paintwork, "Ball", kBall, {}, {}, flat(value)});
        p = *edit::wearPaintwork(p, 0, paintwork);
    }
    Paintwork its() const { return *p.paintwork(paintwork); }
};

float paintOf(const Project& p) {
    const Paintwork* w = p.paintwork("w");
    return w && w->paint ? w->paint->value(0, 3) : -1;
}

class Paintworks : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_STATE_HOME", (folder / "state").c_str(), 1);
    }
    fs::path file() const { return folder / "depot.huestack"; }
    /// Files of a journal with paint in them.
    size_t sidecars() const {
        size_t out = 0;
        for (const auto& e : fs::directory_iterator(folder))
            out += e.path().filename().string().find(".journal.paint-") != std::string::npos;
        return out;
    }
};

TEST_F(Paintworks, HaveNamesFilesAndWearersAndGoWithoutATrace) {
    Painted at;
    EXPECT_EQ(at.its().path, "paint/ball.glb");
    const Project two = *edit::addPaintwork(at.p, {"v", "Ball", kBall, {}, {}, flat(1)});
    EXPECT_EQ(two.paintwork("v")->name, "Ball 2");
    EXPECT_NE(two.paintwork("v")->path, at.its().path);
    EXPECT_EQ(edit::renamePaintwork(two, "v", "Ball")->paintwork("v")->name, "Ball 2");
    EXPECT_EQ(edit::removePaintwork(at.p, "w")->lineup.specimens[0].paintwork, "");
    EXPECT_EQ(edit::wearPaintwork(at.p, 7, "w").error().code, "lineup.no-specimen");
    EXPECT_EQ(edit::wearPaintwork(at.p, 0, "gone").error().code, "edit.no-paintwork");
    EXPECT_EQ(edit::setPaint(at.p, "gone", flat(1)).error().code, "edit.no-paintwork");
    EXPECT_EQ(edit::addPaintwork(at.p, {}).error().code, "edit.no-paint");
    Project other = at.p;
    other.lineup.specimens[0].mesh = "shape:cube";
    EXPECT_EQ(edit::wearPaintwork(other, 0, "w").error().code, "lineup.other-mesh");
}

TEST_F(Paintworks, ComeBackFromTheProjectsFolderAndAreWrittenOnlyWhereTheyChanged) {
    Painted at(0.4f);
    ASSERT_TRUE(saveProject(at.p, file()));
    const Result<Loaded> back = loadProject(file());
    ASSERT_TRUE(back);
    EXPECT_TRUE(back->report.empty());
    ASSERT_TRUE(back->project.paintwork("w")->paint);
    EXPECT_EQ(back->project.paintwork("w")->paint->fingerprint(), at.its().paint->fingerprint());
    EXPECT_EQ(back->project.lineup.specimens[0].paintwork, "w");
    EXPECT_EQ(projectText(back->project), projectText(at.p));
    // A save that changes nothing of the paint does not touch its file.
    const fs::path glb = folder / "paint" / "ball.glb";
    const auto longAgo = fs::file_time_type::clock::now() - std::chrono::hours(5);
    fs::last_write_time(glb, longAgo);
    ASSERT_TRUE(saveProject(*edit::renameMaster(back->project, "m", "Other"), file()));
    EXPECT_EQ(fs::last_write_time(glb), longAgo);
    ASSERT_TRUE(saveProject(*edit::setPaint(back->project, "w", flat(0.8f)), file()));
    EXPECT_NE(fs::last_write_time(glb), longAgo);
    EXPECT_NEAR(paintOf(loadProject(file())->project), 0.8f, 0.01f);
    // What was loaded first still holds what it held: a step of undo leads back to it.
    EXPECT_NEAR(paintOf(back->project), 0.4f, 0.01f);
}

// As one works in a terminal: in the project's folder, by the name of its file alone.
TEST_F(Paintworks, AreReadAndWrittenWhereTheProjectIsNamedWithoutAFolder) {
    Painted at(0.4f);
    const fs::path before = fs::current_path();
    fs::current_path(folder);
    EXPECT_TRUE(saveProject(at.p, "depot.huestack"));
    const Result<Loaded> back = loadProject("depot.huestack");
    EXPECT_TRUE(back && back->report.empty()) << back->report[0].sentence;
    EXPECT_NEAR(back ? paintOf(back->project) : 0, 0.4f, 0.01f);
    const Ran ran = runHsk("check depot.huestack");
    fs::current_path(before);
    EXPECT_TRUE(fs::exists(folder / "paint" / "ball.glb"));
    EXPECT_EQ(ran.output.find("paint.outside"), std::string::npos) << ran.output;
    // What lies outside is not taken for inside by that.
    for (const char* path : {"../ball.glb", "/tmp/ball.glb", "paint/../../ball.glb"}) EXPECT_FALSE(liesWithin("", path)) << path;
    EXPECT_TRUE(liesWithin("", "no such folder/ball.glb"));
}

TEST_F(Paintworks, TheJournalKeepsPaintThatWasNotSavedAndLeavesNothingBehind) {
    Painted at(0.2f);
    ASSERT_TRUE(saveProject(at.p, file()));
    ASSERT_TRUE(writeJournal(at.p, file()));
    EXPECT_EQ(sidecars(), 0u) << "the project's own file holds it";
    for (const float value : {0.5f, 0.7f}) ASSERT_TRUE(writeJournal(*edit::setPaint(at.p, "w", flat(value)), file()));
    EXPECT_EQ(sidecars(), 1u) << "that of an older journal is gone";
    const auto found = readJournal(file());
    ASSERT_TRUE(found);
    EXPECT_NEAR(paintOf(*found), 0.7f, 0.01f);
    EXPECT_NEAR(paintOf(loadProject(file())->project), 0.2f, 0.01f) << "and the project is as it was saved";
    dropJournal(file());
    EXPECT_EQ(sidecars(), 0u);
    EXPECT_FALSE(readJournal(file()));
    // Of a project without a file.
    ASSERT_TRUE(writeJournal(at.p, {}));
    const auto untitled = readJournal({});
    ASSERT_TRUE(untitled);
    EXPECT_NEAR(paintOf(*untitled), 0.2f, 0.01f);
}

TEST_F(Paintworks, PaintThatCannotBeReadIsToldAndItsFileIsLeftAlone) {
    Painted at;
    ASSERT_TRUE(saveProject(at.p, file()));
    const fs::path glb = folder / "paint" / "ball.glb";
    const std::string whole = contentOf(glb);
    std::ofstream(glb, std::ios::binary) << whole.substr(0, whole.size() / 2);
    const Result<Loaded> cut = loadProject(file());
    ASSERT_TRUE(cut);
    ASSERT_EQ(cut->report.size(), 1u);
    EXPECT_EQ(cut->report[0].code, "paint.unreadable");
    EXPECT_FALSE(cut->project.paintwork("w")->paint);
    ASSERT_TRUE(saveProject(cut->project, file()));
    EXPECT_EQ(contentOf(glb).size(), whole.size() / 2) << "nobody knows better what it should hold";
    Assets assets;
    assets.setFolder(folder);
    EXPECT_TRUE(holds(codesOf(paintProblems(cut->project, assets)), "paint.unreadable"));
    // It is back: the fix takes it.
    std::ofstream(glb, std::ios::binary) << whole;
    const auto problems = paintProblems(cut->project, assets);
    ASSERT_EQ(problems.at(0).fixes.size(), 1u);
    EXPECT_NEAR(paintOf(*problems[0].fixes[0].edit(cut->project)), 0.4f, 0.01f);
}

TEST_F(Paintworks, AreNeverWrittenOutsideOfTheFolderNorOverSomebodyElsesFile) {
    Painted at;
    for (const char* path : {"../ball.glb", "/tmp/huestack-ball.glb"}) {
        Paintwork out = at.its();
        out.path = path;
        Project p = at.p;
        p.paintworks = {std::make_shared<Paintwork>(out)};
        fs::create_directories(folder / "in");
        const Outcome saved = saveProject(p, folder / "in" / "p.huestack");
        ASSERT_FALSE(saved) << path;
        EXPECT_EQ(saved.error().code, "paint.outside");
        EXPECT_FALSE(fs::exists(folder / "ball.glb"));
        EXPECT_FALSE(fs::exists("/tmp/huestack-ball.glb"));
        EXPECT_FALSE(fs::exists(folder / "in" / "p.huestack"));
    }
    fs::create_directories(folder / "paint");
    ASSERT_TRUE(writeMesh(folder / "paint" / "ball.glb", *shapeById(kBall)));
    const std::string theirs = contentOf(folder / "paint" / "ball.glb");
    const Outcome saved = saveProject(at.p, file());
    ASSERT_FALSE(saved);
    EXPECT_EQ(saved.error().code, "file.not-ours");
    EXPECT_EQ(contentOf(folder / "paint" / "ball.glb"), theirs);
}

TEST_F(Paintworks, AreMergedAsEverythingElseIs) {
    const Painted at(0.1f);
    const Project ours = *edit::setPaint(at.p, "w", flat(0.6f)), theirs = *edit::renameMaster(at.p, "m", "Renamed");
    const auto both = merged(at.p, ours, theirs);
    ASSERT_TRUE(both);
    EXPECT_TRUE(both->conflicts.empty());
    EXPECT_NEAR(paintOf(both->project), 0.6f, 0.01f);
    EXPECT_EQ(both->project.masters[0]->name, "Renamed");
    const auto clash = merged(at.p, ours, *edit::setPaint(at.p, "w", flat(0.9f)));
    ASSERT_TRUE(clash);
    EXPECT_FALSE(clash->conflicts.empty()) << "two hands painted at once";
    EXPECT_GT(paintOf(clash->project), 0.5f) << "and paint of one of them is there";
}

TEST_F(Paintworks, AreTheVertexColorsOfTheSpecimenThatWearsThem) {
    Painted at(0.4f);
    Assets assets;
    LookCache looks;
    const DressedSpecimen dressed = dress(at.p, assets, looks, at.p.lineup.specimens[0], 0);
    for (const Vertex& v : dressed.mesh->vertices) ASSERT_NEAR(v.color[0], 0.4f, 0.01f);
    EXPECT_EQ(dress(at.p, assets, looks, at.p.lineup.specimens[0], 1).mesh, dressed.mesh) << "made once";
    Project bare = *edit::wearPaintwork(at.p, 0, {});
    EXPECT_EQ(dress(bare, assets, looks, bare.lineup.specimens[0], 0).mesh->vertices[0].color[0], 1);
    // On a finer mesh it is carried over, said, and kept so by the fix.
    auto moved = std::make_shared<Paintwork>(at.its());
    moved->mesh = "shape:sphere/2";
    at.p.paintworks = {moved};
    at.p.lineup.specimens[0].mesh = "shape:sphere/2";
    const DressedSpecimen finer = dress(at.p, assets, looks, at.p.lineup.specimens[0], 0);
    EXPECT_EQ(finer.mesh->vertices.size(), shapeById("shape:sphere/2")->vertices.size());
    for (const Vertex& v : finer.mesh->vertices) ASSERT_NEAR(v.color[0], 0.4f, 0.01f);
    const auto problems = paintProblems(at.p, assets);
    ASSERT_EQ(codesOf(problems), std::vector<std::string>{"paint.mesh-changed"});
    const Project carried = *problems[0].fixes.at(0).edit(at.p);
    EXPECT_TRUE(paintProblems(carried, assets).empty());
    EXPECT_EQ(carried.paintwork("w")->paint->vertices(), finer.mesh->vertices.size());
}

TEST_F(Paintworks, WhatDoesNotFitIsToldAndTheFixesMendIt) {
    Painted at(0.4f);
    Assets assets;
    const auto codes = [&](const Project& p) { return codesOf(paintProblems(p, assets)); };
    EXPECT_EQ(codes(at.p), std::vector<std::string>{});
    // Read, and not there.
    const Project bare = *edit::wearPaintwork(at.p, 0, {});
    EXPECT_EQ(codes(bare), (std::vector<std::string>{"paint.not-worn", "paint.none"}));
    const Project given = *paintProblems(bare, assets)[1].fixes.at(0).edit(bare);
    EXPECT_NE(given.lineup.specimens[0].paintwork, "");
    EXPECT_TRUE(holds(codes(given), "paint.never-painted")) << "a new one is bare";
    EXPECT_FALSE(holds(codes(given), "paint.none"));
    EXPECT_EQ(codes(*paintProblems(bare, assets)[0].fixes.at(0).edit(bare)), std::vector<std::string>{"paint.none"});
    // A bare mesh beside a painted one is meant.
    Project beside = at.p;
    beside.lineup.specimens.push_back(Specimen{.mesh = "shape:cube", .wears = {"m"}});
    EXPECT_EQ(codes(beside), std::vector<std::string>{});
    // There, and not read.
    const Project unread = *edit::removeNodes(at.p, "m", {at.card});
    EXPECT_EQ(codes(unread), std::vector<std::string>{"paint.unread"});
    const Project off = *paintProblems(unread, assets)[0].fixes.at(0).edit(unread);
    EXPECT_EQ(codes(off), std::vector<std::string>{"paint.not-worn"});
    EXPECT_TRUE(holds(codes(*edit::setPaint(at.p, "w", flat(0))), "paint.never-painted"));
}

TEST_F(Paintworks, AMeshIsMadeFinerWithItsPaintAndTheOldOneStays) {
    Painted at(0);
    std::vector<float> up;
    for (const Vertex& v : shapeById(kBall)->vertices) up.push_back(v.position[1] * 0.5f + 0.5f);
    at.p = *edit::setPaint(at.p, "w", std::make_shared<PaintData>(at.its().paint->with(0, up)));
    at.p.lineup.specimens.push_back(at.p.lineup.specimens[0]);
    Assets assets;
    assets.setFolder(folder);
    const Result<FinerMesh> shape = finerMesh(at.p, assets, 0);
    ASSERT_TRUE(shape) << shape.error().sentence;
    for (const Specimen& s : shape->project.lineup.specimens) EXPECT_EQ(s.mesh, "shape:sphere/2");
    const PaintDataPtr finer = shape->project.paintwork("w")->paint;
    EXPECT_EQ(finer->vertices(), shapeById("shape:sphere/2")->vertices.size());
    for (size_t v = 0; v < finer->vertices(); ++v)
        ASSERT_NEAR(finer->value(0, v), finer->surface()->vertices[v].position[1] * 0.5f + 0.5f, 0.02f);
    EXPECT_EQ(codesOf(paintProblems(shape->project, assets)), std::vector<std::string>{});
    Project densest = at.p;
    densest.lineup.specimens[0].mesh = "shape:sphere/5";
    EXPECT_EQ(finerMesh(densest, assets, 0).error().code, "paint.finest");

    // A mesh of one's own.
    fs::create_directories(folder / "meshes");
    ASSERT_TRUE(writeMesh(folder / "meshes" / "kerb.glb", makePlane(3)));
    Project own = *edit::addMesh(at.p, {"k", "kerb", "meshes/kerb.glb", {}});
    own.lineup.specimens[1] = {.mesh = "k", .wears = {"m"}};
    const std::string before = contentOf(folder / "meshes" / "kerb.glb");
    for (const char* name : {"meshes/kerb_finer.glb", "meshes/kerb_finer_2.glb"}) {
        const Result<FinerMesh> made = finerMesh(own, assets, 1);
        ASSERT_TRUE(made) << made.error().sentence;
        EXPECT_EQ(made->file, name);
        EXPECT_EQ(readMesh(folder / name)->indices.size(), 4 * makePlane(3).indices.size());
        EXPECT_EQ(made->project.lineup.specimens[0].mesh, kBall) << "others keep theirs";
    }
    EXPECT_EQ(contentOf(folder / "meshes" / "kerb.glb"), before);
}

TEST_F(Paintworks, ChannelsAreCalledAsTheMasterCallsThem) {
    Painted at;
    const Id dirt = add(at.p, "painted", {}, {{"channel", "3"}}), soot = add(at.p, "painted", {}, {{"channel", "7"}}),
             colors = add(at.p, "geometric_color"), sum = add(at.p, "add");
    at.p = *edit::renameNode(*edit::renameNode(at.p, "m", dirt, "dirt"), "m", soot, "soot");
    wire(at.p, {colors, "color", "g"}, sum, "in1");
    wire(at.p, {dirt, "out", ""}, sum, "in2");
    const auto names = [&](const Project& p) {
        std::vector<std::string> out;
        for (const ReadChannel& r : channelsRead(p, masterOf(p))) out.push_back(std::to_string(r.channel) + " " + r.name);
        return out;
    };
    EXPECT_EQ(names(at.p), (std::vector<std::string>{"0 rust", "1 Geometric color green", "2 dirt", "6 soot"}));
    // Within an assembly they are read all the same.
    const Result<Folded> folded = foldCards(at.p, "m", {dirt, sum}, "Part");
    ASSERT_TRUE(folded) << folded.error().sentence;
    EXPECT_EQ(names(folded->project), names(at.p));
    EXPECT_EQ(channelsRead(folded->project, masterOf(folded->project))[2].board, folded->assembly);
}

/// Channels with the finish that each brings: "0 Rust".
std::vector<std::string> finishesOf(const Project& p) {
    std::vector<std::string> out;
    for (const ReadChannel& r : channelsRead(p, masterOf(p))) out.push_back(std::to_string(r.channel) + " " + r.finishName);
    return out;
}
/// A Finish card of one color.
Id finishCard(Project& p, const std::string& name, const Rgb& color) {
    const Id out = add(p, "finish", {{"base_color", Value::vec3(color[0], color[1], color[2])}});
    p = *edit::renameNode(p, "m", out, name);
    return out;
}

TEST_F(Paintworks, ChannelsSayWhichFinishLiesWhereTheyArePainted) {
    Project p = bareProject();
    const Rgb rusty{0.5f, 0.1f, 0.02f};
    const Id steel = finishCard(p, "Steel", {0.6f, 0.6f, 0.6f}), rust = finishCard(p, "Rust", rusty),
             moss = finishCard(p, "Moss", {0, 0.3f, 0});
    const auto painted = [&](const char* channel) { return add(p, "painted", {}, {{"channel", channel}}); };
    const Id first = painted("1"), second = painted("2"), third = painted("3"), loose = painted("5");
    // Sharpened on its way to the mask of a mix.
    const Id sharp = add(p, "smoothstep"), mix = add(p, "mix");
    wire(p, {first, "out", ""}, sharp, "in");
    wire(p, {sharp, "out", ""}, mix, "mix");
    wire(p, {steel, "out", ""}, mix, "bg");
    wire(p, {rust, "out", ""}, mix, "fg");
    // Turned around: where it is painted, what lies behind is seen.
    const Id invert = add(p, "invert"), over = add(p, "finish_height_blend");
    wire(p, {second, "out", ""}, invert, "in");
    wire(p, {invert, "out", ""}, over, "mix");
    wire(p, {mix, "out", ""}, over, "fg");
    wire(p, {moss, "out", ""}, over, "bg");
    const Id weights = add(p, "finish_weights", {}, {{"count", "3"}});
    wire(p, {over, "out", ""}, weights, "finish1");
    wire(p, {third, "out", ""}, weights, "weight3");
    wire(p, {steel, "out", ""}, weights, "finish3");
    channel(p, {weights, "out", ""}, "finish");
    channel(p, {loose, "out", ""}, "roughness");
    const std::vector<std::string> expected{"0 Rust", "1 Moss", "2 Steel", "4 "};
    EXPECT_EQ(finishesOf(p), expected);
    // Within an assembly as well.
    const Result<Folded> folded = foldCards(p, "m", {sharp, mix, rust, steel}, "Rusting");
    ASSERT_TRUE(folded) << folded.error().sentence;
    EXPECT_EQ(finishesOf(folded->project), expected);
    // The small picture is of the finish's color, wherever its card lies.
    Assets assets;
    for (const Project& of : {p, folded->project}) {
        const ReadChannel its = channelsRead(of, masterOf(of))[0];
        ASSERT_TRUE(its.finish);
        const auto swatch = swatchOf(of, "m", *its.finish, assets, 0, 8);
        ASSERT_TRUE(swatch);
        ASSERT_EQ(swatch->rgb.size(), 64u);
        for (size_t c = 0; c < 3; ++c)
            EXPECT_NEAR(double(swatch->rgb[27] >> (16 - 8 * c) & 255), 255 * double(linearToSrgb(rusty[c])), 1) << "component " << c;
    }
    EXPECT_FALSE(swatchOf(p, "m", {"gone", "out", ""}, assets, 0, 8));
    EXPECT_FALSE(swatchOf(p, "gone", {rust, "out", ""}, assets, 0, 8));
    // A mix of numbers brings no finish, and neither does one that is muted.
    p = *edit::muteNodes(p, "m", {mix}, true);
    EXPECT_EQ(finishesOf(p)[0], "0 ");
}

// A journal has the paint on the disk already; a save has it stand under the project's name as well.
TEST_F(Paintworks, SavesTakeWhatTheJournalHasWrittenInsteadOfWritingItAgain) {
    Painted at(0.2f);
    ASSERT_TRUE(saveProject(at.p, file()));
    const fs::path glb = folder / "paint" / "ball.glb";
    const auto kept = [&] {
        for (const auto& e : fs::directory_iterator(folder))
            if (e.path().filename().string().find(".journal.paint-") != std::string::npos) return e.path();
        return fs::path();
    };
    const SaveOver over{.known = {}, .held = nullptr, .journal = journalFor(file()), .written = nullptr};
    Project next = *edit::setPaint(at.p, "w", flat(0.7f));
    ASSERT_TRUE(writeJournal(next, file()));
    ASSERT_TRUE(saveProject(next, file(), over));
    EXPECT_TRUE(fs::equivalent(kept(), glb)) << "one file with two names";
    dropJournal(file());
    EXPECT_EQ(sidecars(), 0u);
    EXPECT_NEAR(paintOf(loadProject(file())->project), 0.7f, 0.01f) << "it outlives the journal";
    // Other paint than the journal's is written.
    ASSERT_TRUE(writeJournal(*edit::setPaint(next, "w", flat(0.9f)), file()));
    next = *edit::setPaint(next, "w", flat(0.3f));
    ASSERT_TRUE(saveProject(next, file(), over));
    EXPECT_NEAR(paintOf(loadProject(file())->project), 0.3f, 0.01f);
    // What is replaced keeps who may read it.
    next = *edit::setPaint(next, "w", flat(0.5f));
    ASSERT_TRUE(writeJournal(next, file()));
    fs::permissions(glb, fs::perms::owner_read | fs::perms::owner_write);
    fs::permissions(kept(), fs::perms(0644));
    ASSERT_TRUE(saveProject(next, file(), over));
    EXPECT_FALSE(fs::equivalent(kept(), glb));
    EXPECT_EQ(fs::status(glb).permissions(), fs::perms(0600));
    EXPECT_NEAR(paintOf(loadProject(file())->project), 0.5f, 0.01f);
    for (const auto& e : fs::recursive_directory_iterator(folder))
        EXPECT_EQ(e.path().string().find(".part"), std::string::npos) << e.path() << " was left";
}

TEST_F(Paintworks, AreFilledAndTakenAlongByTheCommandLine) {
    Painted at(0);
    at.p.paintworks.clear();
    at.p.lineup.specimens[0].paintwork.clear();
    ASSERT_TRUE(saveProject(at.p, file()));
    const std::string project = file().string();
    Ran ran = runHsk("paint " + project + " --paintwork Side --mesh sphere/1 --channel rust --rule 'height 0..0'");
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("r (rust): 0 to 1"), std::string::npos) << ran.output;
    const Project made = loadProject(file())->project;
    ASSERT_EQ(made.paintworks.size(), 1u);
    const MeshPtr mesh = shapeById(kBall);
    for (size_t v = 0; v < mesh->vertices.size(); ++v)
        ASSERT_EQ(made.paintworks[0]->paint->value(0, v), mesh->vertices[v].position[1] >= 0 ? 1.f : 0.f);
    // Again, upon what is there; another channel; and only a look.
    ASSERT_EQ(runHsk("paint " + project + " --paintwork Side --channel r --rule invert").code, 0);
    ASSERT_EQ(runHsk("paint " + project + " --paintwork Side --channel b --rule 'constant 0.25'").code, 0);
    std::string before = contentOf(file());
    ran = runHsk("paint " + project + " --paintwork Side --info --json");
    ASSERT_EQ(ran.code, 0) << ran.output;
    const auto told = nlohmann::json::parse(ran.output);
    EXPECT_EQ(told["channels"][0]["name"], "rust");
    EXPECT_NEAR(told["channels"][2]["mean"].get<float>(), 0.25f, 0.003f);
    EXPECT_EQ(contentOf(file()), before);
    // The second set is told of where there is something in it, and read by other programs as the second one.
    EXPECT_EQ(told["channels"].size(), 4u);
    ASSERT_EQ(runHsk("paint " + project + " --paintwork Side --channel 6 --rule 'constant 0.75'").code, 0);
    EXPECT_EQ(nlohmann::json::parse(runHsk("paint " + project + " --paintwork Side --info --json").output)["channels"][4]["channel"], "6");
    before = contentOf(file());
    // As a mesh and as a map.
    ran = runHsk("paint " + project + " --paintwork Side --channel rust --size 64 --export " + (folder / "side.glb").string() +
                 " --to-map " + (folder / "rust.png").string());
    ASSERT_EQ(ran.code, 0) << ran.output;
    const auto colors = Glb(folder / "side.glb").colors("COLOR_0");
    for (size_t v = 0; v < colors.size(); ++v) ASSERT_EQ(colors[v][0], mesh->vertices[v].position[1] >= 0 ? 0.f : 1.f);
    const auto second = Glb(folder / "side.glb").colors("COLOR_1");
    ASSERT_EQ(second.size(), colors.size());
    for (const auto& color : second) ASSERT_NEAR(color[1], 0.75f, 0.003f);
    const Result<Mesh> mesh1 = readMesh(folder / "side.glb");
    ASSERT_TRUE(mesh1);
    EXPECT_TRUE(mesh1->hasColors1);
    for (const Vertex& v : mesh1->vertices) ASSERT_NEAR(v.color1[1], 0.75f, 0.003f);
    const Result<Image> map = readImage(folder / "rust.png");
    ASSERT_TRUE(map) << map.error().sentence;
    EXPECT_EQ(map->channels, 1);
    EXPECT_EQ(map->at(20, 4, 0), 0) << "the upper half of a sphere lies above in its UVs";
    EXPECT_EQ(map->at(20, 60, 0), 1);
    // Words for what is not there.
    for (const char* wrong : {"--paintwork Gone", "--channel moss --paintwork Side", "--rule invert", "--paintwork Side --mesh cube"}) {
        const Ran refused = runHsk("paint " + project + " " + wrong);
        EXPECT_EQ(refused.code, 2) << wrong;
        EXPECT_NE(refused.output.find("hsk:"), std::string::npos) << refused.output;
    }
    EXPECT_EQ(contentOf(file()), before);
}

} // namespace
} // namespace hue
