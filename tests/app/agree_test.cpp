// The window and the command line do the same work: the same bytes come out.
#include "app/stations/dispatch/dispatch_page.h"
#include "app/stations/graph/make_map_dialog.h"
#include "tests/app/app_fixture.h"
#include "tests/random_edits.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include "core/image_files/image_file.h"
#include "core/project/store.h"

#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalSpy>
#include <fstream>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class AgreeTest : public Window {
  protected:
    fs::path here() const { return folder->path().toStdString(); }
    QString projectFile() const { return folder->path() + "/yard.huestack"; }
    /// A master with noise in color and roughness, saved.
    Id noiseMaster() {
        const Id noise = type("fractal", {120, 90});
        wireToChannel(noise, "out", "roughness");
        wireToChannel(noise, "out", "base_color");
        EXPECT_TRUE(window->saveTo(projectFile()));
        return noise;
    }
    std::string masterName() const { return session().master()->name; }
    void runDispatch(const char* button) {
        window->showStation("dispatch");
        DispatchPage& page = dispatch();
        page.findChild<QLineEdit*>("dispatchFolder")->setText(QString::fromStdString((here() / "window").string()));
        auto* size = page.findChild<QComboBox*>("dispatchSize");
        size->setCurrentIndex(size->findData(256));
        ASSERT_GE(size->currentIndex(), 0);
        auto* worn = page.findChild<QComboBox*>("dispatchWorn");
        worn->setCurrentIndex(worn->findData(QString::fromStdString(session().masterId())));
        auto* mesh = page.findChild<QComboBox*>("dispatchMesh");
        mesh->setCurrentIndex(mesh->findData("shape:cube"));
        QSignalSpy finished(&page, &DispatchPage::finished);
        QTest::mouseClick(page.findChild<QPushButton*>(button), Qt::LeftButton);
        ASSERT_TRUE(finished.wait(60000));
        ASSERT_TRUE(finished[0][0].toBool());
    }
    Session& session() const { return window->session(); }
};

TEST_F(AgreeTest, BakedMapsAreTheSame) {
    noiseMaster();
    runDispatch("bakeButton");
    const Ran ran =
        runHsk("bake " + projectFile().toStdString() + " --of '" + masterName() + "' --size 256 --out " + (here() / "hsk").string());
    ASSERT_EQ(ran.code, 0) << ran.output;
    int compared = 0;
    for (const auto& e : fs::directory_iterator(here() / "hsk")) {
        bool found = false;
        for (const auto& w : fs::recursive_directory_iterator(here() / "window"))
            if (w.path().filename() == e.path().filename()) {
                found = true;
                EXPECT_EQ(contentOf(w.path()), contentOf(e.path())) << e.path().filename();
                ++compared;
            }
        EXPECT_TRUE(found) << e.path().filename();
    }
    EXPECT_GE(compared, 2);
}

TEST_F(AgreeTest, DispatchedFilesAreTheSame) {
    noiseMaster();
    runDispatch("glbButton");
    const Ran ran = runHsk("dispatch " + projectFile().toStdString() + " --of '" + masterName() + "' --size 256 --mesh shape:cube --out " +
                           (here() / "hsk.glb").string());
    ASSERT_EQ(ran.code, 0) << ran.output;
    int compared = 0;
    for (const auto& w : fs::directory_iterator(here() / "window"))
        if (w.path().extension() == ".glb") {
            EXPECT_EQ(contentOf(w.path()), contentOf(here() / "hsk.glb"));
            ++compared;
        }
    EXPECT_EQ(compared, 1);
}

TEST_F(AgreeTest, AMapOfAWireIsTheSameAndSoIsWhatTheProjectKeepsOfIt) {
    const Id noise = noiseMaster();
    fs::copy(projectFile().toStdString(), here() / "other.huestack");
    board().select({noise});
    board().setFocus();
    key(&board(), Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    auto* dialog = window->findChild<MakeMapDialog*>();
    ASSERT_TRUE(dialog);
    auto* size = dialog->findChild<QComboBox*>("makeSize");
    size->setCurrentIndex(0);
    const int side = size->currentData().toInt();
    ASSERT_GT(side, 0);
    QTest::mouseClick(dialog->findChild<QPushButton*>("makeButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return project().maps.size() == 1; }, 20000));
    rest();
    const MapFile& made = *project().maps[0];
    const std::string mine = contentOf(window->mapService().path(made));
    const Ran ran =
        runHsk("make " + (here() / "other.huestack").string() + " --of '" + masterName() + "' --wire " + noise + ".out --size " +
               std::to_string(side) + " --samples " + (made.origin.type == SampleType::U16 ? "16-bit" : "8-bit") + " --name theirs");
    ASSERT_EQ(ran.code, 0) << ran.output;
    const auto theirs = loadProject(here() / "other.huestack");
    ASSERT_TRUE(theirs);
    ASSERT_EQ(theirs->project.maps.size(), 1u);
    EXPECT_EQ(contentOf(here() / theirs->project.maps[0]->path), mine);
    EXPECT_EQ(theirs->project.maps[0]->hash, made.hash);
    EXPECT_EQ(theirs->project.maps[0]->kind, made.kind);
}

TEST_F(AgreeTest, WhatTheWindowSavesHskReadsAndWritesBackWithoutAChange) {
    noiseMaster();
    std::mt19937 random(4);
    for (int i = 0; i < 40; ++i) (void)session().apply("walk", [&](const Project& p) { return anyEdit(p, random).next; });
    ASSERT_TRUE(window->saveTo(projectFile()));
    const std::string saved = contentOf(projectFile().toStdString());
    EXPECT_EQ(saved, projectText(project()));
    // Remaking has nothing to do here but reads all and writes what it has read.
    const Ran ran = runHsk("check " + projectFile().toStdString() + " --json");
    EXPECT_LE(ran.code, 1) << ran.output;
    EXPECT_EQ(contentOf(projectFile().toStdString()), saved) << "checking changes nothing";
}

// Undo is for everything: a walk by chance through all edits, taken back and done again.
TEST_F(AgreeTest, AWalkThroughAllEditsIsTakenBackStepByStepAndDoneAgain) {
    // A copy, since unsaved changes are kept beside the project.
    fs::copy(depotFolder(), here() / "depot", fs::copy_options::recursive);
    ASSERT_TRUE(window->openFile(folder->path() + "/depot/depot.huestack"));
    std::mt19937 random(21);
    std::vector<std::string> states{projectText(project())};
    std::set<std::string> kinds;
    while (states.size() < 90) {
        std::string name;
        const bool taken = session().apply("walk", [&](const Project& p) {
            AnyEdit e = anyEdit(p, random);
            name = e.name;
            return e.next;
        });
        const std::string now = projectText(project());
        if (!taken) {
            ASSERT_EQ(now, states.back()) << name << ": what is refused changes nothing";
            continue;
        }
        kinds.insert(name);
        if (now != states.back()) states.push_back(now);
    }
    EXPECT_GT(kinds.size(), 20u);
    std::vector<std::string> back;
    while (session().undoStack()->canUndo()) {
        session().undoStack()->undo();
        if (const std::string now = projectText(project()); back.empty() || now != back.back()) back.push_back(now);
    }
    // The way back passes every state that stood, in turn; the last is the first.
    ASSERT_EQ(back.back(), states.front());
    while (session().undoStack()->canRedo()) session().undoStack()->redo();
    EXPECT_EQ(projectText(project()), states.back()) << "done again, all is as it was";
    rest();
    QTest::qWait(50);
    EXPECT_TRUE(window->isVisible()) << "and the window followed it all";
}

TEST_F(AgreeTest, AMapMadeInAProjectThatWasNeverSavedComesAlongWhenItIs) {
    const Id noise = type("fractal", {120, 90});
    wireToChannel(noise, "out", "roughness");
    board().select({noise});
    board().setFocus();
    key(&board(), Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    auto* dialog = window->findChild<MakeMapDialog*>();
    ASSERT_TRUE(dialog);
    dialog->findChild<QComboBox*>("makeSize")->setCurrentIndex(0);
    QTest::mouseClick(dialog->findChild<QPushButton*>("makeButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return project().maps.size() == 1; }, 20000));
    rest();
    const fs::path before = window->mapService().path(*project().maps[0]);
    ASSERT_TRUE(fs::exists(before));
    const std::string bytes = contentOf(before);
    ASSERT_TRUE(window->saveTo(projectFile()));
    const MapFile& map = *project().maps[0];
    EXPECT_EQ(contentOf(window->mapService().path(map)), bytes);
    EXPECT_FALSE(fs::path(map.path).is_absolute()) << "the project can be moved: " << map.path;
    // Somebody else opens it, in another place.
    fs::create_directories(here() / "elsewhere");
    fs::copy(projectFile().toStdString(), here() / "elsewhere/yard.huestack");
    fs::create_directories((here() / "elsewhere" / map.path).parent_path());
    fs::copy(window->mapService().path(map), here() / "elsewhere" / map.path);
    const Ran ran = runHsk("maps " + (here() / "elsewhere/yard.huestack").string());
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_EQ(ran.output.find("missing"), std::string::npos) << ran.output;
}

} // namespace
} // namespace hue
