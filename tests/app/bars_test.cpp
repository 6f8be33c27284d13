// The bars above and below, the menu, and the station Dispatch when something is missing.
#include "app/parts/theme.h"
#include "app/window/keys_dialog.h"
#include "app/window/top_bar.h"
#include "core/edits/starting_points.h"
#include "core/image_files/image_file.h"
#include "tests/app/app_fixture.h"

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSettings>
#include <QSlider>
#include <QTableWidget>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;
using BarTest = Window;
class DispatchTest : public Window {
  protected:
    /// Small maps into a folder, by a button of the station; what the report says of it.
    QString sent(const char* button) {
        DispatchPage& page = dispatch();
        page.findChild<QLineEdit*>("dispatchFolder")->setText(folder->filePath("out"));
        page.findChild<QComboBox*>("dispatchSize")->setCurrentIndex(0);
        QTest::mouseClick(page.findChild<QPushButton*>(button), Qt::LeftButton);
        EXPECT_TRUE(waitFor([&] { return !page.busy(); }, 20000));
        return page.findChild<QPlainTextEdit*>("dispatchReport")->toPlainText();
    }
};

TEST_F(BarTest, TimeIsPlayedScrubbedAndKeptInTheLoop) {
    auto* slider = window->status().findChild<QSlider*>();
    slider->setValue(500);
    EXPECT_NEAR(session().time(), double(project().loopSeconds) / 2, 0.01);
    session().setTime(double(project().loopSeconds) + 1);
    EXPECT_NEAR(session().time(), 1, 1e-6) << "time wraps at the loop";
    auto* play = window->findChild<QToolButton*>("play");
    QTest::mouseClick(play, Qt::LeftButton);
    EXPECT_TRUE(session().playing());
    EXPECT_EQ(play->accessibleName(), "Pause");
    QTest::mouseClick(play, Qt::LeftButton);
    EXPECT_FALSE(session().playing());
    session().setSpeed(2);
    EXPECT_DOUBLE_EQ(session().speed(), 2);
}

TEST_F(BarTest, TheMetersFollowTheGraph) {
    const Cost& before = window->boardService().facts()->cost;
    EXPECT_EQ(before.operationsPerPixel(), 0);
    const Id noise = type("worley", {80, 60});
    wireToChannel(noise, "out", "roughness");
    EXPECT_GT(window->boardService().facts()->cost.operationsPerPixel(), 100);
    EXPECT_EQ(window->boardService().facts()->cost.fetches, 0);
    for (Meter* meter : window->findChildren<Meter*>()) EXPECT_FALSE(meter->toolTip().isEmpty());
}

TEST_F(BarTest, TheMetersAreHeldAgainstTheTargetThatIsChosen) {
    auto& chooser = *window->findChild<QComboBox*>("targetChooser");
    const auto tip = [&](const QString& meter) {
        for (Meter* m : window->findChildren<Meter*>())
            if (m->accessibleName() == meter) return m->toolTip();
        return QString();
    };
    const auto choose = [&](const QString& name) {
        chooser.setCurrentIndex(chooser.findText(name));
        Q_EMIT chooser.activated(chooser.currentIndex());
    };
    const Id noise = type("worley", {80, 60});
    wireToChannel(noise, "out", "roughness");
    choose("Headset");
    EXPECT_TRUE(tip("Operations").contains("Headset has 80: over it")) << tip("Operations").toStdString();
    EXPECT_FALSE(tip("Fetches").contains(": over it"));
    EXPECT_TRUE(tip("Builds").contains("Headset has 3"));
    choose("Desktop");
    EXPECT_TRUE(tip("Operations").contains("Desktop has 700")) << tip("Operations").toStdString();
    EXPECT_EQ(tip("Operations").contains(": over it"), window->boardService().facts()->cost.operationsPerPixel() > 700);
    EXPECT_EQ(QSettings().value("target").toString(), "desktop") << "the next start has it as well";
    QSettings().remove("target");
}

TEST_F(BarTest, AMarkAtTheNameTellsOfUnsavedChanges) {
    auto marked = [&] {
        for (QLabel* label : window->findChildren<QLabel*>())
            if (label->text().contains("\u25CF")) return true;
        return false;
    };
    EXPECT_FALSE(marked());
    type("0.5", {80, 60});
    EXPECT_TRUE(marked());
    ASSERT_TRUE(window->saveTo(folder->filePath("p.huestack")));
    EXPECT_FALSE(marked());
    session().undoStack()->undo();
    EXPECT_TRUE(marked());
    session().undoStack()->redo();
    EXPECT_FALSE(marked()) << "back at what is saved";
    EXPECT_EQ(QSettings().value("recent").toStringList().value(0), folder->filePath("p.huestack"));
}

TEST_F(BarTest, TheKeysAreListedOnTheirKey) {
    key(window.get(), Qt::Key_F1);
    auto* dialog = window->findChild<KeysDialog*>();
    ASSERT_TRUE(dialog);
    EXPECT_TRUE(dialog->isVisible());
    QString all;
    for (int row = 0; row < dialog->table()->rowCount(); ++row)
        for (int column = 0; column < dialog->table()->columnCount(); ++column)
            if (const auto* cell = dialog->table()->item(row, column)) all += cell->text() + "|";
    EXPECT_TRUE(all.contains("Ctrl+Shift+M")) << all.toStdString();
    EXPECT_TRUE(all.contains("F5"));
    dialog->close();
}

TEST_F(BarTest, ASecondMasterIsMadeShownAndRemovedWithUndo) {
    Master second;
    second.id = "second";
    second.name = "Master 1";
    ASSERT_TRUE(session().apply("new master", [&](const Project& p) { return edit::addMaster(p, second); }));
    session().showMaster("second");
    EXPECT_EQ(session().master()->name, "Master 2") << "names are kept apart";
    type("0.5", {80, 60});
    ASSERT_TRUE(session().apply("remove master", [&](const Project& p) { return edit::removeMaster(p, "second"); }));
    ASSERT_TRUE(session().master()) << "another master comes on the board";
    EXPECT_NE(session().masterId(), "second");
    session().undoStack()->undo();
    EXPECT_EQ(project().master("second")->graph.nodes.size(), 1u);
}

TEST_F(DispatchTest, WithoutAFolderNothingStartsAndTheBarSaysWhy) {
    key(window.get(), Qt::Key_4, Qt::ControlModifier);
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    DispatchPage& page = dispatch();
    page.findChild<QLineEdit*>("dispatchFolder")->clear();
    QTest::mouseClick(page.findChild<QPushButton*>("bakeButton"), Qt::LeftButton);
    EXPECT_FALSE(page.busy());
    EXPECT_TRUE(said.contains("folder")) << said.toStdString();
    page.findChild<QLineEdit*>("dispatchFolder")->setText("/proc/nowhere");
    QTest::mouseClick(page.findChild<QPushButton*>("glbButton"), Qt::LeftButton);
    EXPECT_FALSE(page.busy());
    EXPECT_TRUE(said.contains("/proc/nowhere")) << said.toStdString();
}

TEST_F(DispatchTest, ASpecimenGoesOutAsItStandsOnItsOwnMesh) {
    key(window.get(), Qt::Key_4, Qt::ControlModifier);
    DispatchPage& page = dispatch();
    auto* worn = page.findChild<QComboBox*>("dispatchWorn");
    const int at = worn->findText("Specimen 1", Qt::MatchStartsWith);
    ASSERT_GE(at, 0);
    EXPECT_TRUE(page.findChild<QComboBox*>("dispatchMesh")->isEnabled());
    worn->setFocus();
    worn->setCurrentIndex(at);
    EXPECT_FALSE(page.findChild<QComboBox*>("dispatchMesh")->isEnabled()) << "it brings its own";
    for (const char* button : {"bakeButton", "glbButton"}) {
        const QString report = sent(button);
        EXPECT_TRUE(report.contains(" done") && !report.contains("not done")) << report.toStdString();
    }
    EXPECT_TRUE(QFile::exists(folder->filePath("out/specimen_1_sphere/base_color.png")));
    EXPECT_TRUE(QFile::exists(folder->filePath("out/specimen_1_sphere.glb")));
}

TEST_F(DispatchTest, DecalsGoOutByThemselvesWithOneSetOfMaps) {
    auto* worn = dispatch().findChild<QComboBox*>("dispatchWorn");
    EXPECT_LT(worn->findText("Decals", Qt::MatchStartsWith), 0) << "there are none yet";
    Project p = *edit::addMaster(session().project(), makeDecalMaster("Poster"));
    Decal d;
    d.name = "Timetable", d.wears = p.masters.back()->id, d.position = {0, 0, 1};
    p = *edit::addDecal(p, 0, d);
    session().apply("Lay a decal", [&](const Project&) { return p; });
    key(window.get(), Qt::Key_4, Qt::ControlModifier);
    DispatchPage& page = dispatch();
    const int at = worn->findText("Decals of specimen 1", Qt::MatchStartsWith);
    ASSERT_GE(at, 0);
    worn->setCurrentIndex(at);
    EXPECT_FALSE(page.findChild<QComboBox*>("dispatchMesh")->isEnabled());
    EXPECT_FALSE(page.findChild<QComboBox*>("dispatchUvSet")->isEnabled());
    for (const char* button : {"bakeButton", "glbButton"}) {
        const QString report = sent(button);
        EXPECT_TRUE(report.contains("1 decal with 1 picture") && report.contains("as BC7")) << report.toStdString();
        EXPECT_TRUE(report.contains("caution: Timetable")) << report.toStdString();
    }
    const Image map = *readImage(folder->filePath("out/decals_of_specimen_1_sphere/base_color.png").toStdString());
    EXPECT_EQ(map.width, 256);
    const Mesh cut = *readMesh(folder->filePath("out/decals_of_specimen_1_sphere.glb").toStdString());
    EXPECT_GT(cut.indices.size(), 0u);
    for (const Vertex& v : cut.vertices) EXPECT_GT(v.position[2], 0.5f) << "of the sphere what lies in the box";
}

TEST_F(DispatchTest, ABrokenGraphIsReportedAndWritesNothing) {
    const Id uv = type("texcoord", {80, 60});
    ASSERT_TRUE(session().apply("break", [&](const Project& p) {
        return edit::connectChannel(p, session().masterId(), {uv, "out", ""}, "base_color");
    }));
    key(window.get(), Qt::Key_4, Qt::ControlModifier);
    DispatchPage& page = dispatch();
    page.findChild<QLineEdit*>("dispatchFolder")->setText(folder->filePath("out"));
    page.findChild<QComboBox*>("dispatchSize")->setCurrentIndex(0);
    QTest::mouseClick(page.findChild<QPushButton*>("bakeButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return !page.busy(); }, 10000));
    EXPECT_TRUE(page.findChild<QPlainTextEdit*>("dispatchReport")->toPlainText().contains("not done"));
    EXPECT_TRUE(QDir(folder->filePath("out")).entryList(QDir::AllEntries | QDir::NoDotAndDotDot).isEmpty());
}

} // namespace
} // namespace hue
