// The lineup as its users drive it: views, orbits, yardstick, taps, pointer, time, recording, surface kinds.
#include "app/lineup/placements_dialog.h"
#include "app/lineup/record_dialog.h"
#include "app/lineup/scene_panel.h"
#include "app/lineup/yardstick_panel.h"
#include "app/session/drops.h"
#include "app/stations/graph/tap_panel.h"
#include "tests/app/app_fixture.h"

#include <QAction>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSpinBox>
#include <QToolButton>
#include <cstdlib>
#include <fstream>

namespace hue {
namespace {

using namespace test;

class SeeingTest : public Window {
  protected:
    SpecimenView* specimen(size_t i = 0) { return window->lineup().specimen(i); }
    LineupView& lineup() { return window->lineup(); }
    const Lineup& stored() { return project().lineup; }
    void edit(const std::function<void(Lineup&)>& change) {
        ASSERT_TRUE(session().apply("lineup", [&](const Project& p) {
            Lineup l = p.lineup;
            change(l);
            return edit::setLineup(p, l);
        }));
        settle();
    }
    /// Chooses an entry of a menu, also of a menu within, by its words.
    static bool choose(QMenu* menu, const QStringList& words) {
        for (QAction* a : menu->actions()) {
            if (!a->text().contains(words[0])) continue;
            if (words.size() == 1) {
                a->trigger();
                return true;
            }
            if (a->menu() && choose(a->menu(), words.mid(1))) return true;
        }
        return false;
    }
    bool fromSpecimenMenu(size_t i, const QStringList& words) {
        QContextMenuEvent event(QContextMenuEvent::Mouse, {20, 20}, specimen(i)->mapToGlobal(QPoint(20, 20)));
        QApplication::sendEvent(specimen(i), &event);
        for (QMenu* menu : lineup().findChildren<QMenu*>(Qt::FindDirectChildrenOnly))
            if (menu->isVisible()) {
                const bool done = choose(menu, words);
                menu->close();
                return done;
            }
        return false;
    }
    static void pick(QComboBox* box, const QString& words) {
        const int at = box->findText(words, Qt::MatchContains);
        ASSERT_GE(at, 0) << words.toStdString();
        box->setCurrentIndex(at);
        Q_EMIT box->activated(at);
    }
};

TEST_F(SeeingTest, AltDragTurnsOneSpecimenAloneAndItSaysSo) {
    lineup().addSpecimen();
    settle();
    SpecimenView* s = specimen(1);
    const float shared = stored().orbit.yaw;
    QTest::mousePress(s, Qt::LeftButton, Qt::AltModifier, {60, 60});
    QMouseEvent move(QEvent::MouseMove, QPointF(110, 60), s->mapToGlobal(QPointF(110, 60)), Qt::NoButton, Qt::LeftButton, Qt::AltModifier);
    QApplication::sendEvent(s, &move);
    QTest::mouseRelease(s, Qt::LeftButton, Qt::AltModifier, {110, 60});
    ASSERT_TRUE(stored().specimens[1].orbit);
    EXPECT_EQ(stored().orbit.yaw, shared);
    EXPECT_NE(stored().specimens[1].orbit->yaw, shared);
    EXPECT_TRUE(s->footText().contains("own orbit"));
    ASSERT_TRUE(fromSpecimenMenu(1, {"Own orbit"}));
    EXPECT_FALSE(stored().specimens[1].orbit);
}

TEST_F(SeeingTest, KeysTurnPanZoomAndFit) {
    SpecimenView* s = specimen();
    s->setFocus();
    const Orbit before = stored().orbit;
    key(s, Qt::Key_Left);
    EXPECT_NE(stored().orbit.yaw, before.yaw);
    key(s, Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_GT(stored().orbit.panX, 0);
    key(s, Qt::Key_Plus);
    EXPECT_LT(stored().orbit.standOff, before.standOff);
    key(s, Qt::Key_Home);
    EXPECT_EQ(stored().orbit.panX, 0);
    EXPECT_EQ(stored().orbit.standOff, 1);
}

TEST_F(SeeingTest, OneSpecimenFillsTheWindowAndReturns) {
    lineup().addSpecimen();
    lineup().addSpecimen();
    settle();
    specimen(1)->setFocus();
    const int small = specimen(1)->height();
    key(window.get(), Qt::Key_Return, Qt::ControlModifier);
    QTest::qWait(50);
    EXPECT_FALSE(specimen(0)->isVisible());
    EXPECT_GT(specimen(1)->height(), small * 2);
    EXPECT_FALSE(board().isVisible());
    key(window.get(), Qt::Key_Return, Qt::ControlModifier);
    QTest::qWait(50);
    EXPECT_TRUE(specimen(0)->isVisible());
    EXPECT_TRUE(board().isVisible());
}

TEST_F(SeeingTest, UpToSixStandSideBySide) {
    for (int i = 0; i < 8; ++i) lineup().addSpecimen();
    settle();
    EXPECT_EQ(lineup().count(), 6u);
    for (size_t i = 0; i < 6; ++i) EXPECT_FALSE(specimen(i)->picture().isNull());
}

TEST_F(SeeingTest, AYardstickIsSetShownThreeWaysAndMeasured) {
    lineup().addSpecimen();
    settle();
    ASSERT_TRUE(fromSpecimenMenu(0, {"Make it the yardstick"}));
    settle();
    ASSERT_TRUE(waitFor([&] { return specimen(1)->finished().comparison.has_value(); }, 8000));
    EXPECT_LT(specimen(1)->finished().comparison->mean, 0.1f) << "both wear the same";
    EXPECT_FALSE(specimen(0)->finished().comparison) << "the yardstick itself is not compared";
    // Another color makes a difference that the numbers tell.
    const Id instance = session().deriveInstance(session().masterId(), {});
    session().setTarget(session().masterId());
    edit([&](Lineup& l) {
        l.specimens[0].wears = {session().masterId()};
        l.specimens[1].mesh = "shape:cube";
        l.specimens[1].wears = {instance};
    });
    ASSERT_TRUE(waitFor([&] { return specimen(1)->finished().comparison && specimen(1)->finished().comparison->mean > 0.5f; }, 8000));
    EXPECT_GT(specimen(1)->finished().comparison->worst, specimen(1)->finished().comparison->mean);
    ASSERT_TRUE(waitFor([&] { return specimen(1)->finished().comparison->flip > 0; }, 8000));
    const QSize whole = specimen(1)->pictureSize();
    pick(lineup().yardstickPanel()->showBox(), "beside");
    EXPECT_LT(specimen(1)->pictureSize().width(), whole.width() / 2 + 2);
    pick(lineup().yardstickPanel()->showBox(), "difference");
    settle();
    ASSERT_TRUE(waitFor([&] { return !specimen(1)->finished().difference.isNull(); }, 8000));
    EXPECT_EQ(specimen(1)->finished().difference.pixelColor(2, 2), QColor(0, 0, 0)) << "the surround is the same";
    key(window.get(), Qt::Key_F6);
    EXPECT_EQ(stored().yardstick.what, Yardstick::What::None);
    key(window.get(), Qt::Key_F6);
    EXPECT_EQ(stored().yardstick.what, Yardstick::What::Specimen) << "the same key brings it back";
}

TEST_F(SeeingTest, TheLineOfASplitIsDragged) {
    lineup().addSpecimen();
    edit([](Lineup& l) {
        l.yardstick.what = Yardstick::What::Specimen;
        l.yardstick.show = Yardstick::Show::Split;
    });
    SpecimenView* s = specimen(1);
    const int middle = s->pictureSize().width() / 2;
    const float yaw = stored().orbit.yaw;
    drag(s, {middle, 60}, s->mapToGlobal(QPoint(middle / 2, 60)));
    EXPECT_NEAR(stored().yardstick.split, 0.25f, 0.03f);
    EXPECT_EQ(stored().orbit.yaw, yaw) << "dragging the line turns nothing";
}

TEST_F(SeeingTest, APictureFileIsAYardstick) {
    const QString file = folder->filePath("photo.png");
    QImage photo(64, 48, QImage::Format_RGB32);
    photo.fill(QColor(10, 200, 30));
    ASSERT_TRUE(photo.save(file));
    edit([&](Lineup& l) {
        l.yardstick.what = Yardstick::What::Picture;
        l.yardstick.picture = file.toStdString();
    });
    ASSERT_TRUE(waitFor([&] { return !specimen()->finished().yardstick.isNull(); }, 8000));
    EXPECT_EQ(specimen()->finished().yardstick.pixelColor(5, 5), QColor(10, 200, 30));
    QFile::remove(file);
    edit([&](Lineup& l) { l.yardstick.picture += ".gone"; });
    ASSERT_TRUE(waitFor([&] { return !specimen()->problem().isEmpty(); }, 8000)) << "a lost picture is named";
    EXPECT_FALSE(specimen()->picture().isNull()) << "and the specimen is still shown";
}

TEST_F(SeeingTest, AMapSetIsAYardstick) {
    const QString file = folder->filePath("plain_color.png");
    QImage map(8, 8, QImage::Format_RGB32);
    map.fill(QColor(200, 40, 40));
    ASSERT_TRUE(map.save(file));
    importFile(session(), file);
    ASSERT_TRUE(waitFor([&] { return project().maps.size() == 1; }, 10000));
    edit([&](Lineup& l) {
        l.view = "base_color";
        l.yardstick.what = Yardstick::What::Maps;
        l.yardstick.maps[0] = project().maps[0]->id;
    });
    lineup().setView("base_color");
    settle();
    ASSERT_TRUE(waitFor(
        [&] {
            const QImage& y = specimen()->finished().yardstick;
            return !y.isNull() && std::abs(y.pixelColor(y.width() / 2, y.height() / 2).red() - 200) <= 1;
        },
        8000));
}

TEST_F(SeeingTest, ThePointerTellsExactValues) {
    ASSERT_TRUE(session().apply("color", [&](const Project& p) {
        return edit::setChannelConstant(p, session().masterId(), "base_color", Value::vec3(0.25f, 0.5f, 3));
    }));
    settle();
    SpecimenView* s = specimen();
    const QPoint middle = s->pictureRect().center();
    QCursor::setPos(s->mapToGlobal(middle));
    QTest::mouseMove(s, middle);
    ASSERT_TRUE(waitFor([&] { return s->readout().contains("0.25 0.5 3"); }, 5000)) << s->readout().toStdString();
    EXPECT_TRUE(s->readout().contains("encoded"));
    EXPECT_TRUE(s->readout().contains("UV"));
    QTest::mouseMove(s, QPoint(3, 3));
    EXPECT_TRUE(waitFor([&] { return s->readout().isEmpty(); }, 5000)) << "nothing lies there";
}

TEST_F(SeeingTest, AColorFieldTakesTheUnlitColorOfASpecimen) {
    ASSERT_TRUE(session().apply("color", [&](const Project& p) {
        return edit::setChannelConstant(p, session().masterId(), "base_color", Value::vec3(0.125f, 0.25f, 0.5f));
    }));
    settle();
    ValueField* field = rail().row("emissive")->field();
    field->setFocus();
    key(window.get(), Qt::Key_K, Qt::ControlModifier);
    EXPECT_EQ(specimen()->cursor().shape(), Qt::CrossCursor);
    key(window.get(), Qt::Key_Escape);
    EXPECT_EQ(specimen()->cursor().shape(), Qt::ArrowCursor) << "Esc keeps the old color";
    field->setFocus();
    key(window.get(), Qt::Key_K, Qt::ControlModifier);
    QTest::mouseClick(specimen(), Qt::LeftButton, {}, specimen()->pictureRect().center());
    ASSERT_TRUE(waitFor([&] { return graph().channelConstants.contains("emissive"); }, 5000));
    EXPECT_EQ(graph().channelConstants.at("emissive"), Value::vec3(0.125f, 0.25f, 0.5f)) << "not what the light makes of it";
}

TEST_F(SeeingTest, ATapShowsNumbersPlotAndTheWireOnTheMesh) {
    const Id wave = type("wave", {80, 60});
    board().select({wave});
    key(window.get(), Qt::Key_F3);
    TapPanel& tap = this->tap();
    ASSERT_TRUE(tap.isVisible());
    ASSERT_TRUE(waitFor([&] { return tap.upToDate() && tap.facts().width == 1; }, 5000));
    EXPECT_TRUE(tap.facts().movesWithTime);
    EXPECT_EQ(tap.facts().axisName, "time");
    EXPECT_TRUE(tap.numbers().contains("mean"));
    // Dragging over the plot moves the clock.
    CoursePlot* plot = tap.plot();
    QTest::mousePress(plot, Qt::LeftButton, {}, QPoint(34 + (plot->width() - 40) / 2, 30));
    EXPECT_NEAR(session().time(), double(project().loopSeconds) / 2, 0.1);
    EXPECT_TRUE(plot->readoutAt(0.5).startsWith("time 4"));
    pick(tap.axisBox(), "U");
    ASSERT_TRUE(waitFor([&] { return tap.facts().axisName == "U"; }, 5000));
    key(window.get(), Qt::Key_F3, Qt::ShiftModifier);
    EXPECT_EQ(stored().view, "wire");
    EXPECT_EQ(stored().wire.node, wave);
    settle();
    EXPECT_EQ(middle().red(), middle().blue()) << "a number is grey";
    key(window.get(), Qt::Key_F3);
    EXPECT_FALSE(tap.isVisible());
}

TEST_F(SeeingTest, AWireShowsItsColorsOnTheMesh) {
    const Id color = type("#3366e6", {80, 60});
    lineup().showWire({color, "out", ""});
    settle();
    EXPECT_NEAR(middle().red(), 0x33, 1);
    EXPECT_NEAR(middle().blue(), 0xE6, 1);
    lineup().showWire({color, "out", "b"});
    settle();
    EXPECT_EQ(middle().red(), middle().blue()) << "one component is grey";
}

TEST_F(SeeingTest, SurfaceKindsAnnounceTheirChannelsAndTheRailFollows) {
    SurfaceRail& rail = this->rail();
    EXPECT_FALSE(rail.row("clearcoat")->isVisibleTo(&rail));
    QMenu* menu = rail.kindButton()->menu();
    Q_EMIT menu->aboutToShow();
    ASSERT_TRUE(choose(menu, {"Coated"}));
    EXPECT_TRUE(rail.row("clearcoat")->isVisibleTo(&rail));
    EXPECT_TRUE(rail.announced().contains("Clearcoat, 0 to 1")) << rail.announced().toStdString();
    EXPECT_EQ(session().undoStack()->undoText(), "make it coated");
    session().undoStack()->undo();
    EXPECT_FALSE(rail.row("clearcoat")->isVisibleTo(&rail));
    // What another layer would bring is one click away, with the reason.
    rail.moreButton()->click();
    ASSERT_TRUE(rail.row("transmission")->isVisibleTo(&rail));
    EXPECT_EQ(rail.row("transmission")->switchButton()->text(), "Add transmission");
    rail.row("transmission")->switchButton()->click();
    EXPECT_TRUE(session().master()->surface.has(Layer::Transmission));
    EXPECT_TRUE(rail.row("transmission")->switchButton()->isHidden());
}

TEST_F(SeeingTest, TheScenePanelChangesTheSceneInStepsOfUndo) {
    ScenePanel* panel = lineup().scenePanel();
    const QColor before = middle();
    pick(panel->lightBox(), "dusk");
    settle();
    EXPECT_EQ(stored().light, "harbour-dusk");
    EXPECT_NE(middle(), before);
    pick(panel->backdropBox(), "depot");
    EXPECT_EQ(stored().backdrop, "depot");
    pick(panel->toneBox(), "filmic");
    panel->field("exposure")->take(Value::number(1.5f));
    EXPECT_EQ(stored().exposure, 1.5f);
    for (int i = 0; i < 4; ++i) session().undoStack()->undo();
    EXPECT_EQ(stored().light, "grey-box");
    EXPECT_EQ(stored().backdrop, "surround");
}

TEST_F(SeeingTest, ThingsAreSetUpMovedAndTakenAway) {
    ASSERT_TRUE(fromSpecimenMenu(0, {"Surroundings", "Enamel signs"}));
    ASSERT_EQ(stored().specimens[0].things.size(), 1u);
    const auto before = stored().specimens[0].things[0].position;
    SpecimenView* s = specimen();
    QTest::mousePress(s, Qt::LeftButton, Qt::ControlModifier, {60, 60});
    QMouseEvent move(QEvent::MouseMove, QPointF(60, 30), s->mapToGlobal(QPointF(60, 30)), Qt::NoButton, Qt::LeftButton,
                     Qt::ControlModifier);
    QApplication::sendEvent(s, &move);
    QTest::mouseRelease(s, Qt::LeftButton, Qt::ControlModifier, {60, 30});
    EXPECT_GT(stored().specimens[0].things[0].position[1], before[1]) << "up";
    ASSERT_TRUE(fromSpecimenMenu(0, {"Surroundings", "Enamel signs", "Take away"}));
    EXPECT_TRUE(stored().specimens[0].things.empty());
    session().undoStack()->undo();
    EXPECT_EQ(stored().specimens[0].things.size(), 1u);
}

TEST_F(SeeingTest, AMeshIsRepeatedFromTheMenuAndArrangedInADialogThatFollowsUndo) {
    ASSERT_TRUE(fromSpecimenMenu(0, {"Placements", "Ring of 8"}));
    ASSERT_TRUE(stored().specimens[0].placements);
    EXPECT_EQ(stored().specimens[0].placements->form, Placements::Form::Ring);
    EXPECT_EQ(stored().specimens[0].placements->count, 8);
    ASSERT_TRUE(fromSpecimenMenu(0, {"Placements", "Arrange"}));
    auto* dialog = window->findChild<PlacementsDialog*>();
    ASSERT_TRUE(dialog);
    auto* count = dialog->findChild<QSpinBox*>("count");
    auto* size = dialog->findChild<QDoubleSpinBox*>("size");
    EXPECT_EQ(count->value(), 8);
    EXPECT_FALSE(dialog->findChild<QSpinBox*>("rows")->isVisibleTo(dialog)) << "of a grid";
    count->setFocus();
    QTest::keyClick(count, Qt::Key_Up);
    size->setValue(0.5);
    EXPECT_EQ(stored().specimens[0].placements->count, 9);
    EXPECT_EQ(stored().specimens[0].placements->size, 0.5f);
    session().undoStack()->undo();
    EXPECT_EQ(stored().specimens[0].placements->count, 8) << "what was set in the dialog is one step";
    EXPECT_EQ(count->value(), 8);
    dialog->findChild<QComboBox*>("form")->setCurrentIndex(0);
    EXPECT_FALSE(stored().specimens[0].placements);
    EXPECT_FALSE(count->isEnabled());
    session().undoStack()->undo();
    session().undoStack()->undo();
    EXPECT_FALSE(stored().specimens[0].placements) << "as before the menu";
    dialog->close();
}

// Each copy has its own number, and wearing something beneath the cursor hits the slot of the mesh, not of the copy.
TEST_F(SeeingTest, CopiesWearTheSameAndDifferByTheirOwnNumber) {
    const Id random = type("random per placement", {80, 60});
    wireToChannel(random, "out", "roughness");
    lineup().setView("roughness");
    ASSERT_TRUE(fromSpecimenMenu(0, {"Placements", "Row of 5"}));
    settle();
    const QImage picture = specimen()->picture();
    std::set<QRgb> tones;
    for (int x = 0; x < picture.width(); ++x) tones.insert(picture.pixel(x, picture.height() / 2));
    EXPECT_GE(tones.size(), 6u) << "five copies and what is behind them";
}

TEST_F(SeeingTest, ViewsStretchTheirRangeAndBack) {
    const Id noise = type("noise 2d", {80, 60});
    wireToChannel(noise, "out", "roughness");
    lineup().setView("roughness");
    settle();
    lineup().stretchView();
    EXPECT_NE(stored().viewHigh, 1);
    EXPECT_LT(stored().viewLow, stored().viewHigh);
    lineup().stretchView();
    EXPECT_EQ(stored().viewLow, 0);
    EXPECT_EQ(stored().viewHigh, 1);
    lineup().setView("normal");
    lineup().stretchView();
    EXPECT_EQ(stored().viewHigh, 1) << "directions have no black and white";
}

TEST_F(SeeingTest, AColorIsStretchedByItsLinearValues) {
    const Id uv = type("texcoord", {80, 60}), ramp = type("mix", {300, 60});
    ASSERT_TRUE(session().apply("colors", [&](const Project& p) {
        return edit::chain(
            p, {[&](const Project& q) { return edit::setConstant(q, session().masterId(), ramp, "bg", Value::vec3(0.2f, 0.2f, 0.2f)); },
                [&](const Project& q) { return edit::setConstant(q, session().masterId(), ramp, "fg", Value::vec3(0.3f, 0.3f, 0.3f)); },
                [&](const Project& q) {
                    return edit::connect(q, session().masterId(), {uv, "out", "y"}, ramp, "mix");
                }});
    }));
    lineup().showWire({ramp, "out", ""});
    settle();
    ASSERT_TRUE(waitFor([&] { return specimen()->finished().encoded; }, 8000));
    lineup().stretchView();
    EXPECT_NEAR(stored().viewLow, 0.2f, 0.03f);
    EXPECT_NEAR(stored().viewHigh, 0.3f, 0.03f) << "the poles are out of sight; read as encoded it would be 0.56";
}

TEST_F(SeeingTest, TimeIsSteppedFrameByFrameAndTheSeamIsMeasured) {
    key(window.get(), Qt::Key_Right, Qt::ControlModifier);
    EXPECT_NEAR(session().time(), 1 / 30.0, 1e-6);
    key(window.get(), Qt::Key_Left, Qt::ControlModifier);
    key(window.get(), Qt::Key_Left, Qt::ControlModifier);
    EXPECT_NEAR(session().time(), double(project().loopSeconds) - 1 / 30.0, 1e-6) << "back from the start lies the end";
    // A saw that turns 1.1 times in the loop of 8 s does not meet its start.
    const Id wave = type("wave", {80, 60});
    ASSERT_TRUE(
        session().apply("shape", [&](const Project& p) { return edit::setSetting(p, session().masterId(), wave, "shape", "saw"); }));
    ASSERT_TRUE(session().apply(
        "rate", [&](const Project& p) { return edit::setConstant(p, session().masterId(), wave, "frequency", Value::number(1.5f / 8)); }));
    wireToChannel(wave, "out", "emissive_strength");
    ASSERT_TRUE(session().apply(
        "glow", [&](const Project& p) { return edit::setChannelConstant(p, session().masterId(), "emissive", Value::vec3(1, 1, 1)); }));
    ASSERT_TRUE(waitFor([&] { return window->status().seamText().startsWith("seam"); }, 15000))
        << window->status().seamText().toStdString();
    ASSERT_TRUE(session().apply(
        "rate", [&](const Project& p) { return edit::setConstant(p, session().masterId(), wave, "frequency", Value::number(2.f / 8)); }));
    EXPECT_TRUE(waitFor([&] { return window->status().seamText() == "no seam"; }, 15000)) << window->status().seamText().toStdString();
}

TEST_F(SeeingTest, TheLoopIsRecordedWithProgressAndCanBeCancelled) {
    RecordDialog dialog(session(), 0, {64, 48}, window.get());
    dialog.kindBox()->setCurrentIndex(0);
    dialog.whatBox()->setCurrentIndex(1);
    dialog.widthBox()->setValue(48);
    dialog.rate()->setValue(1);
    bool good = false, done = false;
    QObject::connect(&dialog, &RecordDialog::finished, [&](bool g) { good = g, done = true; });
    dialog.start(folder->filePath("frames"));
    ASSERT_TRUE(waitFor([&] { return done; }, 20000));
    EXPECT_TRUE(good);
    EXPECT_EQ(QDir(folder->filePath("frames")).entryList({"*.png"}).size(), 8) << "8 s at one frame a second";
    EXPECT_EQ(QImage(folder->filePath("frames/frame_0000.png")).width(), 48);
    done = false;
    dialog.rate()->setValue(120);
    dialog.start(folder->filePath("more"));
    dialog.findChild<QPushButton*>()->click();
    ASSERT_TRUE(waitFor([&] { return done; }, 20000));
    EXPECT_FALSE(good);
    EXPECT_LT(QDir(folder->filePath("more")).entryList({"*.png"}).size(), 900);
}

TEST_F(SeeingTest, ALightFileThatIsLostIsNamedAndTheNeutralLightStandsIn) {
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    edit([](Lineup& l) { l.light = "gone.hdr"; });
    EXPECT_TRUE(waitFor([&] { return said.contains("gone.hdr"); }, 8000)) << said.toStdString();
    EXPECT_FALSE(specimen()->picture().isNull());
}

TEST_F(SeeingTest, AMeshDroppedOnASpecimenIsShownThere) {
    const QString file = folder->filePath("block.glb");
    ASSERT_TRUE(writeMesh(file.toStdString(), makeCube()));
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    drop(specimen(), {40, 40}, data);
    ASSERT_TRUE(waitFor([&] { return stored().specimens[0].mesh != "shape:sphere"; }, 8000)) << "read in the background";
    ASSERT_EQ(project().meshes.size(), 1u);
    EXPECT_EQ(stored().specimens[0].mesh, project().meshes[0]->id);
    std::ofstream(folder->filePath("junk.glb").toStdString()) << "no mesh";
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    data.setUrls({QUrl::fromLocalFile(folder->filePath("junk.glb"))});
    drop(specimen(), {40, 40}, data);
    EXPECT_TRUE(waitFor([&] { return said.contains("junk.glb") && said.contains("Export it again"); }, 8000)) << said.toStdString();
    EXPECT_EQ(project().meshes.size(), 1u);
}

TEST_F(SeeingTest, SeveralMapsDroppedOnASpecimenAreWornAsASet) {
    QMimeData data;
    QList<QUrl> urls;
    for (const auto& [name, color] : {std::pair{"wall_color.png", QColor(180, 60, 40)},
                                      {"wall_orm.png", QColor(255, 128, 0)},
                                      {"wall_normal.png", QColor(128, 128, 255)}}) {
        QImage image(8, 8, QImage::Format_RGB32);
        image.fill(color);
        ASSERT_TRUE(image.save(folder->filePath(name)));
        urls << QUrl::fromLocalFile(folder->filePath(name));
    }
    data.setUrls(urls);
    drop(specimen(), {40, 40}, data);
    const Master* set = project().masterOf(stored().specimens[0].wears[0]);
    ASSERT_TRUE(set);
    EXPECT_EQ(set->name, "wall");
    EXPECT_EQ(set->graph.channelWires.size(), 5u) << "base color, occlusion, roughness, metallic, normal";
    lineup().setView("base_color");
    settle();
    EXPECT_NEAR(middle().red(), 180, 1);
}

TEST_F(SeeingTest, ThePictureIsTheSameWithoutTheWindow) {
    edit([](Lineup& l) {
        l.light = "harbour-dusk";
        l.exposure = 0.5f;
        l.glare = 0.3f;
        l.tone = "filmic";
        l.orbit.yaw = 50;
        l.specimens[0].things = {{"signs", {0.2f, 0.1f, -1.8f}, 2, true}};
    });
    ASSERT_TRUE(session().apply(
        "rough", [&](const Project& p) { return edit::setChannelConstant(p, session().masterId(), "roughness", Value::number(0.2f)); }));
    rest();
    EXPECT_TRUE(specimen()->finished().refined) << "sixteen samples a pixel, as there";
    const QString file = folder->filePath("same.huestack"), out = folder->filePath("same.png");
    ASSERT_TRUE(window->saveTo(file));
    const QSize size = specimen()->pictureSize();
    const std::string command = hskProgram() + " render " + file.toStdString() + " --specimen 1 --size " +
                                std::to_string(size.width()) + "x" + std::to_string(size.height()) + " --out " + out.toStdString();
    ASSERT_EQ(std::system(command.c_str()), 0);
    const QImage without = QImage(out).convertToFormat(QImage::Format_RGB32),
                 with = specimen()->picture().convertToFormat(QImage::Format_RGB32);
    ASSERT_EQ(without.size(), with.size());
    int far = 0;
    for (int y = 0; y < with.height(); ++y)
        for (int x = 0; x < with.width(); ++x) {
            const QRgb a = with.pixel(x, y), b = without.pixel(x, y);
            far += std::max({std::abs(qRed(a) - qRed(b)), std::abs(qGreen(a) - qGreen(b)), std::abs(qBlue(a) - qBlue(b))}) > 1;
        }
    EXPECT_EQ(far, 0);
}

TEST_F(SeeingTest, AnIdleWindowDrawsNothing) {
    settle();
    ASSERT_TRUE(waitFor([&] { return specimen()->finished().fine; }, 8000));
    QTest::qWait(1600); // the seam is measured in this time
    const int frames = specimen()->framesShown();
    QTest::qWait(500);
    EXPECT_EQ(specimen()->framesShown(), frames);
}

} // namespace
} // namespace hue
