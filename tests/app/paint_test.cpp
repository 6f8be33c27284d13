// The station Paint, by mouse and keys.
#include "app/stations/paint/brush_panel.h"
#include "app/stations/paint/channel_panel.h"
#include "core/mesh/paint_data.h"
#include "core/nodes/catalogue.h"
#include "core/paint/fill_rules.h"
#include "core/project/store.h"
#include "tests/app/paint_fixture.h"

#include <QAction>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QLabel>
#include <QListWidget>
#include <QPointingDevice>
#include <QPushButton>
#include <QTabletEvent>

namespace hue {
namespace {

using namespace test;

/// A ball whose base color is black, and white where "chalk" is painted.
class PaintStation : public PaintWindow {
  protected:
    void SetUp() override {
        Window::SetUp();
        const Id card = type("painted channel", {200, 120});
        session().apply("name it", [&](const Project& p) { return edit::renameNode(p, session().masterId(), card, "chalk"); });
        session().apply("wire it", [&](const Project& p) {
            return edit::connectChannel(p, session().masterId(), {card, "out", ""}, "base_color");
        });
        session().apply("one ball", [&](const Project& p) {
            Lineup l = p.lineup;
            l.specimens = {Specimen{.mesh = "shape:sphere/3", .wears = {session().masterId()}}};
            l.orbit = {};
            return edit::setLineup(p, l);
        });
        enter();
    }
    PaintDesk& desk() { return page().desk(); }
    /// The share of a channel, 0 to 1.
    float mean(int channel = 0) {
        return project().paintworks.empty() ? 0 : shareOf(project().paintworks[0]->paint->channel(channel)).mean;
    }
};

TEST_F(PaintStation, AStrokeShowsWhereTheHandWasAndIsOneStepOfUndo) {
    const QPoint m = middleOf(), left = m - QPoint(60, 0), right = m + QPoint(60, 0), above = m - QPoint(0, 120);
    const QColor before = at(m), aside = at(above);
    const int steps = session().undoStack()->count();
    stroke({left, m, right});
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
    ASSERT_EQ(project().paintworks.size(), 1u) << "the first stroke begins a paintwork";
    EXPECT_EQ(project().lineup.specimens[0].paintwork, project().paintworks[0]->id);
    for (const QPoint& p : {left, m, right}) EXPECT_GT(at(p).lightness(), before.lightness() + 60) << p.x();
    EXPECT_NEAR(at(above).lightness(), aside.lightness(), 6);
    EXPECT_GT(middle().lightness(), before.lightness() + 60) << "the strip above follows";
    // It lies on the mesh where the eye saw the pointer.
    const auto hit = desk().surface()->rays().hit(canvas().sight(left));
    ASSERT_TRUE(hit);
    const uint32_t corner = desk().surface()->mesh()->indices[3 * hit->triangle];
    EXPECT_GT(project().paintworks[0]->paint->value(0, corner), 0.9f);

    session().undoStack()->undo();
    ready();
    EXPECT_TRUE(project().paintworks.empty());
    EXPECT_NEAR(at(m).lightness(), before.lightness(), 6);
    session().undoStack()->redo();
    ready();
    EXPECT_GT(at(m).lightness(), before.lightness() + 60);
    // A second stroke is a second step, on the same paintwork.
    stroke({above, above + QPoint(20, 0)});
    EXPECT_EQ(session().undoStack()->count(), steps + 2);
    EXPECT_EQ(project().paintworks.size(), 1u);
}

TEST_F(PaintStation, ControlTakesAwayAndShiftPaintsStraightFromTheLastStroke) {
    const QPoint m = middleOf();
    stroke({m - QPoint(70, 0), m + QPoint(70, 0)});
    const float full = mean();
    stroke({m, m + QPoint(1, 0)}, Qt::ControlModifier);
    EXPECT_LT(mean(), full);
    EXPECT_GT(mean(), 0);
    const QPoint high = m - QPoint(0, 90);
    const int between = at(m + QPoint(35, -45)).lightness();
    stroke({m + QPoint(70, 0)});
    QTest::mousePress(&canvas(), Qt::LeftButton, Qt::ShiftModifier, high);
    QTest::mouseRelease(&canvas(), Qt::LeftButton, Qt::ShiftModifier, high);
    ready();
    EXPECT_GT(at(m + QPoint(35, -45)).lightness(), between + 60) << "half way between both";
}

TEST_F(PaintStation, TheRightButtonTurnsAndTheWheelWithControlSizes) {
    const float yaw = project().lineup.orbit.yaw, size = desk().brush().radius;
    const QPoint m = middleOf();
    QTest::mousePress(&canvas(), Qt::RightButton, {}, m);
    QMouseEvent move(QEvent::MouseMove, m + QPoint(40, 0), canvas().mapToGlobal(m + QPoint(40, 0)), Qt::NoButton, Qt::RightButton, {});
    QApplication::sendEvent(&canvas(), &move);
    QTest::mouseRelease(&canvas(), Qt::RightButton, {}, m + QPoint(40, 0));
    EXPECT_NE(project().lineup.orbit.yaw, yaw);
    EXPECT_TRUE(project().paintworks.empty());
    QWheelEvent wheel(m, canvas().mapToGlobal(m), {}, {0, 120}, {}, Qt::ControlModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&canvas(), &wheel);
    EXPECT_GT(desk().brush().radius, size);
    key(&canvas(), Qt::Key_Comma);
    key(&canvas(), Qt::Key_Comma);
    EXPECT_LT(desk().brush().radius, size);
}

TEST_F(PaintStation, KeysChooseChannelBrushAndWhatIsSeenAndPaintATouch) {
    key(&canvas(), Qt::Key_3);
    EXPECT_EQ(desk().channel(), 2);
    EXPECT_EQ(named<QListWidget>("paintChannels").currentRow(), 2);
    key(&canvas(), Qt::Key_1);
    key(&canvas(), Qt::Key_S);
    EXPECT_EQ(desk().brush().does, Brush::Does::Set);
    EXPECT_TRUE(named<QToolButton>("brushSet").isChecked());
    key(&canvas(), Qt::Key_A);
    key(&canvas(), Qt::Key_V);
    EXPECT_EQ(desk().shown(), PaintShown::Alone);
    ready();
    EXPECT_LT(at(middleOf()).lightness(), 8) << "black where nothing is painted";
    key(&canvas(), Qt::Key_Space);
    ready();
    EXPECT_GT(at(middleOf()).lightness(), 240) << "and white where all is";
    EXPECT_GT(mean(), 0);
    // The masters' own colors play no part: the channel is as grey as its value.
    Brush b = desk().brush();
    b.does = Brush::Does::Set, b.target = 0.5f;
    desk().setBrush(b);
    key(&canvas(), Qt::Key_Space);
    ready();
    EXPECT_NEAR(at(middleOf()).lightness(), 128, 4);
}

// The second four are listed for who needs them.
TEST_F(PaintStation, KeysReachTheSecondFourChannelsWhichAreListedWhereTheyAreUsed) {
    auto& list = named<QListWidget>("paintChannels");
    const auto listed = [&] {
        int rows = 0;
        for (int row = 0; row < list.count(); ++row) rows += !list.isRowHidden(row);
        return rows;
    };
    EXPECT_EQ(listed(), 4);
    key(&canvas(), Qt::Key_7);
    EXPECT_EQ(desk().channel(), 6);
    EXPECT_EQ(listed(), 5) << "the chosen one";
    key(&canvas(), Qt::Key_V);
    key(&canvas(), Qt::Key_Space);
    ready();
    EXPECT_GT(at(middleOf()).lightness(), 240);
    ASSERT_EQ(project().paintworks.size(), 1u);
    EXPECT_TRUE(project().paintworks[0]->paint->isPainted(6));
    key(&canvas(), Qt::Key_1);
    EXPECT_EQ(listed(), 5) << "and the painted one";
    EXPECT_LT(list.height(), 6 * 40);
    session().undoStack()->undo();
    EXPECT_EQ(listed(), 4);
}

// A pen paints as hard as it is pressed, or as wide.
TEST_F(PaintStation, APensPressureIsTheWeightOrTheSizeOfTheStroke) {
    static const QPointingDevice pen("pen", 7, QInputDevice::DeviceType::Stylus, QPointingDevice::PointerType::Pen,
                                     QInputDevice::Capability::Position | QInputDevice::Capability::Pressure, 1, 2);
    const auto send = [&](QEvent::Type type, const QPointF& at, double pressure) {
        const bool down = type != QEvent::TabletRelease;
        QTabletEvent e(type, &pen, at, canvas().mapToGlobal(at), pressure, 0, 0, 0, 0, 0, {},
                       type == QEvent::TabletMove ? Qt::NoButton : Qt::LeftButton, down ? Qt::LeftButton : Qt::NoButton);
        QApplication::sendEvent(&canvas(), &e);
    };
    const QPointF m = middleOf();
    const auto touch = [&](double pressure) {
        send(QEvent::TabletPress, m, pressure);
        send(QEvent::TabletRelease, m, 0);
        ready();
    };
    struct Left {
        float most = 0;
        int reached = 0;
    };
    const auto left = [&] {
        Left out;
        for (const float x : project().paintworks[0]->paint->channel(0)) out.most = std::max(out.most, x), out.reached += x > 0;
        return out;
    };
    desk().setPressure(PaintDesk::Pressure::Weight);
    touch(0.25);
    const Left light = left();
    EXPECT_NEAR(light.most, 0.25f, 0.02f);
    const int steps = session().undoStack()->count();
    touch(1);
    const Left heavy = left();
    EXPECT_EQ(session().undoStack()->count(), steps + 1) << "from down to up is one step";
    EXPECT_NEAR(heavy.most, 1, 0.02f);
    session().undoStack()->undo();
    session().undoStack()->undo();
    desk().setPressure(PaintDesk::Pressure::Size);
    touch(1);
    const Left wide = left();
    session().undoStack()->undo();
    touch(0.5);
    EXPECT_NEAR(left().most, 1, 0.02f);
    EXPECT_LT(left().reached, wide.reached * 0.4) << "half the radius is a quarter of the surface";
    session().undoStack()->undo();
    // While it goes along it may be pressed harder.
    desk().setPressure(PaintDesk::Pressure::Weight);
    const QPointF from = m - QPointF(70, 0), to = m + QPointF(70, 0);
    send(QEvent::TabletPress, from, 0.1);
    for (int k = 1; k <= 14; ++k) send(QEvent::TabletMove, from + (to - from) * k / 14, 0.1 + 0.9 * k / 14);
    send(QEvent::TabletRelease, to, 0);
    ready();
    EXPECT_GT(at(to).lightness(), at(from).lightness() + 60);
    // The mouse takes over again.
    session().undoStack()->undo();
    stroke({middleOf()});
    EXPECT_NEAR(left().most, 1, 0.02f);
}

// What a channel shows is known before a stroke: by the color and the name of the finish that it brings.
TEST_F(PaintStation, ChannelsShowTheFinishThatTheyBring) {
    const Id board = session().masterId();
    Id card;
    session().apply("mix", [&](const Project& p) -> Result<Project> {
        Node rust = makeNode("finish"), mix = makeNode("mix");
        rust.id = "rust", rust.title = "Flaking rust", mix.id = "both";
        rust.constants["base_color"] = Value::vec3(0.5f, 0.05f, 0.02f);
        for (const ReadChannel& r : channelsRead(p, *p.master(board))) card = r.card;
        return edit::chain(p, {[&](const Project& q) { return edit::addNode(q, board, rust); },
                               [&](const Project& q) { return edit::addNode(q, board, mix); },
                               [&](const Project& q) {
                                   return edit::connect(q, board, {"rust", "out", ""}, "both", "fg");
                               },
                               [&](const Project& q) {
                                   return edit::connect(q, board, {card, "out", ""}, "both", "mix");
                               }});
    });
    ready();
    const auto row = [&](int role) { return named<QListWidget>("paintChannels").item(0)->data(role); };
    ASSERT_TRUE(waitFor([&] { return !row(Qt::DecorationRole).value<QImage>().isNull(); }, 8000));
    const QImage swatch = row(Qt::DecorationRole).value<QImage>();
    const QColor shown = swatch.pixelColor(swatch.rect().center());
    EXPECT_NEAR(shown.red(), std::lround(255 * linearToSrgb(0.5f)), 1);
    EXPECT_NEAR(shown.green(), std::lround(255 * linearToSrgb(0.05f)), 1);
    EXPECT_TRUE(row(Qt::AccessibleTextRole).toString().contains("Flaking rust"));
    // It is drawn in the row.
    auto& list = named<QListWidget>("paintChannels");
    const QImage drawn = list.viewport()->grab(list.visualItemRect(list.item(0))).toImage();
    int red = 0;
    for (int x = 0; x < drawn.width(); ++x) red += drawn.pixelColor(x, drawn.height() / 2) == shown;
    EXPECT_GT(red, 10);
    // It follows the finish, and goes with the wire.
    session().apply("green", [&](const Project& p) { return edit::setConstant(p, board, "rust", "base_color", Value::vec3(0, 0.5f, 0)); });
    EXPECT_TRUE(waitFor([&] { return row(Qt::DecorationRole).value<QImage>().pixelColor(14, 14).red() == 0; }, 8000));
    session().apply("cut", [&](const Project& p) { return edit::disconnect(p, board, "both", "fg"); });
    EXPECT_TRUE(waitFor([&] { return row(Qt::DecorationRole).value<QImage>().isNull(); }, 8000));
}

// Paint of a large mesh is put on the disk in the background, and the save that waits for it is short.
TEST_F(PaintStation, ASaveOfLargePaintDoesNotHoldUpTheHand) {
    const QString file = folder->filePath("large.huestack");
    session().apply("large", [&](const Project& p) {
        Project next = p;
        const auto bare = std::make_shared<PaintData>(std::make_shared<const Mesh>(makePlane(350)));
        EXPECT_GT(bare->vertices(), 100'000u);
        return edit::addPaintwork(next, {"big", "Large", "shape:plane/5", {}, {}, bare});
    });
    QString problem;
    ASSERT_TRUE(session().save(file, &problem)) << problem.toStdString();
    const auto paintedWith = [&](float value) {
        return session().apply("paint", [&](const Project& p) {
            const PaintDataPtr& before = p.paintwork("big")->paint;
            return edit::setPaint(p, "big", std::make_shared<PaintData>(before->with(0, std::vector<float>(before->vertices(), value))));
        });
    };
    ASSERT_TRUE(paintedWith(0.6f));
    QAction* save = nullptr;
    for (QAction* action : window->findChildren<QAction*>())
        if (action->shortcut() == QKeySequence(QKeySequence::Save)) save = action;
    ASSERT_TRUE(save);
    save->trigger();
    EXPECT_TRUE(session().dirty()) << "not before the paint is on the disk";
    ASSERT_TRUE(waitFor([&] { return !session().dirty(); }, 20000));
    const auto onDisk = [&] {
        const Result<Loaded> back = loadProject(file.toStdString());
        return back ? shareOf(back->project.paintwork("big")->paint->channel(0)).mean : -1;
    };
    EXPECT_NEAR(onDisk(), 0.6f, 0.01f);
    EXPECT_EQ(QDir(folder->path()).entryList({"*.journal*"}, QDir::Files | QDir::Hidden), QStringList()) << "nothing is left beside it";
    // What is painted while it waits is saved with the rest.
    ASSERT_TRUE(paintedWith(0.3f));
    save->trigger();
    ASSERT_TRUE(paintedWith(0.8f));
    ASSERT_TRUE(waitFor([&] { return !session().dirty(); }, 20000));
    EXPECT_NEAR(onDisk(), 0.8f, 0.01f);
}

TEST_F(PaintStation, ARuleThatIsTypedFillsTheChannel) {
    auto& rule = named<QLineEdit>("paintRule");
    key(&canvas(), Qt::Key_R);
    EXPECT_TRUE(rule.hasFocus());
    QTest::keyClicks(&rule, "height 0..0");
    key(&rule, Qt::Key_Return);
    ready();
    ASSERT_EQ(project().paintworks.size(), 1u);
    const Mesh& mesh = *desk().surface()->mesh();
    for (size_t v = 0; v < mesh.vertices.size(); ++v)
        ASSERT_EQ(project().paintworks[0]->paint->value(0, v), mesh.vertices[v].position[1] >= 0 ? 1.f : 0.f);
    EXPECT_NEAR(named<QListWidget>("paintChannels").item(0)->data(Qt::UserRole + 1).toDouble(), double(mean()), 1e-6);
    const int steps = session().undoStack()->count();
    rule.clear();
    QTest::keyClicks(&rule, "hight 0..1");
    key(&rule, Qt::Key_Return);
    ready();
    EXPECT_EQ(session().undoStack()->count(), steps) << "what is not understood changes nothing";
    // By the name of a card on the board.
    rule.clear();
    QTest::keyClicks(&rule, "wire chalk");
    key(&rule, Qt::Key_Return);
    ready();
    session().undoStack()->undo();
    session().undoStack()->undo();
    EXPECT_TRUE(project().paintworks.empty());
}

TEST_F(PaintStation, ARuleThatIsKeptFollowsBelowTheStrokes) {
    Id level;
    session().apply("a level", [&](const Project& p) -> Result<Project> {
        Node card = makeNode("constant", {0, 300});
        card.title = "Level", card.constants["value"] = Value::number(0.2f);
        level = card.id;
        return edit::addNode(p, session().masterId(), card);
    });
    const auto setLevel = [&](float x) {
        session().apply("turn it",
                        [&](const Project& p) { return edit::setConstant(p, session().masterId(), level, "value", Value::number(x)); });
        rest();
    };
    const auto values = [&] { return project().paintworks[0]->paint->channel(0); };
    auto& rule = named<QLineEdit>("paintRule");
    auto& list = named<QListWidget>("paintLive");
    EXPECT_FALSE(list.isVisible());
    key(&canvas(), Qt::Key_R);
    QTest::keyClicks(&rule, "wire Level");
    QTest::mouseClick(&named<QPushButton>("paintKeepLive"), Qt::LeftButton);
    rest();
    ASSERT_EQ(project().paintworks.size(), 1u);
    ASSERT_EQ(list.count(), 1);
    EXPECT_TRUE(list.isVisible());
    EXPECT_EQ(list.item(0)->text(), "wire Level");
    for (const float v : values()) ASSERT_NEAR(v, 0.2f, 1.f / 255);
    // A touch of the brush makes some of it white, and stays when the rest follows.
    key(&canvas(), Qt::Key_A);
    for (int k = 0; k < 4; ++k) key(&canvas(), Qt::Key_Space);
    ready();
    /// The most and the least.
    const auto apart = [&] {
        const std::vector<float> all = values();
        return std::pair(*std::max_element(all.begin(), all.end()), *std::min_element(all.begin(), all.end()));
    };
    EXPECT_GT(apart().first, 0.95f);
    EXPECT_NEAR(apart().second, 0.2f, 1.f / 255);
    const int steps = session().undoStack()->count();
    setLevel(0.6f);
    EXPECT_EQ(session().undoStack()->count(), steps + 1) << "that it follows is no step of its own";
    EXPECT_GT(apart().first, 0.95f);
    EXPECT_NEAR(apart().second, 0.6f, 1.f / 255);
    session().undoStack()->undo();
    rest();
    EXPECT_NEAR(apart().second, 0.2f, 1.f / 255);
    // Changed in the list, and what is not understood is not taken.
    const auto kept = [&] { return desk().live(); };
    list.item(0)->setText("constant 0.4");
    ASSERT_TRUE(waitFor([&] { return kept() == std::vector<std::string>{"constant 0.4"}; }, 20000));
    EXPECT_NEAR(apart().second, 0.4f, 1.f / 255);
    list.item(0)->setText("konstant 0.4");
    ASSERT_TRUE(waitFor([&] { return list.item(0)->text() == "constant 0.4"; }, 20000));
    EXPECT_EQ(kept(), std::vector<std::string>{"constant 0.4"});
    list.setFocus();
    list.setCurrentRow(0);
    key(&list, Qt::Key_Delete);
    ASSERT_TRUE(waitFor([&] { return kept().empty(); }, 20000));
    EXPECT_TRUE(project().paintworks[0]->live.empty());
    EXPECT_FALSE(list.isVisible());
    EXPECT_NEAR(apart().second, 0.4f, 1.f / 255) << "what is seen stays";
}

TEST_F(PaintStation, SaysWhereNothingReadsPaintAndPlacesTheCard) {
    session().apply("nothing reads", [&](const Project& p) {
        std::vector<Id> all;
        for (const auto& [id, node] : p.master(session().masterId())->graph.nodes) all.push_back(id);
        return edit::removeNodes(p, session().masterId(), all);
    });
    ready();
    EXPECT_TRUE(named<QLabel>("paintHint").isVisible());
    stroke({middleOf(), middleOf() + QPoint(20, 0)});
    EXPECT_TRUE(project().paintworks.empty()) << "nothing is painted silently";
    QTest::mouseClick(&named<QPushButton>("paintPlaceCard"), Qt::LeftButton);
    settle();
    EXPECT_EQ(window->stationKey(), "graph");
    int cards = 0;
    for (const auto& [id, node] : graph().nodes) cards += node->kind == "painted";
    EXPECT_EQ(cards, 1);
}

TEST_F(PaintStation, TheBrushIsSetByItsFieldsAndItsProfile) {
    ProfileField& profile = part<BrushPanel>().profile();
    QTest::mousePress(&profile, Qt::LeftButton, {}, {7 + (profile.width() - 14) / 4, profile.height() / 2});
    EXPECT_NEAR(desk().brush().softEdge, 0.75f, 0.03f);
    EXPECT_NEAR(desk().brush().weight, 0.5f, 0.03f);
    QTest::mouseRelease(&profile, Qt::LeftButton);
    named<ValueField>("brushTarget").take(Value::number(0.25f));
    EXPECT_EQ(desk().brush().target, 0.25f);
    named<ValueField>("brushSize").take(Value::number(0.3f));
    EXPECT_EQ(desk().brush().radius, 0.3f);
    QTest::mouseClick(&named<QToolButton>("brushSizeUnit"), Qt::LeftButton);
    EXPECT_TRUE(desk().sizedByView());
    named<ValueField>("brushSize").take(Value::number(20));
    EXPECT_NEAR(desk().viewShare(), 0.2f, 1e-6f);
    // A fifth of the view, wherever the camera stands.
    QTest::mouseMove(&canvas(), middleOf());
    ready();
    const size_t near = canvas().reached();
    QTest::keyClick(&canvas(), Qt::Key_Home);
    Lineup far = project().lineup;
    far.orbit.standOff = 2;
    session().setLineup(far);
    ready();
    QTest::mouseMove(&canvas(), middleOf() + QPoint(1, 1));
    EXPECT_GT(canvas().reached(), near) << "from further away the same share of the view is more of the mesh";
    named<QCheckBox>("brushFacing").setChecked(false);
    EXPECT_FALSE(desk().brush().facing);
    auto& mirror = named<QComboBox>("brushMirror");
    mirror.setCurrentIndex(1);
    EXPECT_EQ(desk().brush().mirror, 0);
}

TEST_F(PaintStation, PaintIsSavedWithTheProjectAndComesBack) {
    stroke({middleOf() - QPoint(40, 0), middleOf() + QPoint(40, 0)});
    const float painted = mean();
    const QString file = folder->filePath("p.huestack");
    ASSERT_TRUE(window->saveTo(file));
    EXPECT_TRUE(QFileInfo::exists(folder->filePath("paint/paintwork.glb")));
    session().undoStack()->undo();
    EXPECT_TRUE(project().paintworks.empty()) << "also after saving";
    session().undoStack()->redo();
    window->setAsksBeforeClosing(false);
    ASSERT_TRUE(window->openFile(file));
    ready();
    EXPECT_NEAR(mean(), painted, 1e-4f);
    EXPECT_GT(at(middleOf()).lightness(), 100);
    // Paintworks of the mesh can be taken off and put on again.
    auto& choice = named<QComboBox>("paintwork");
    EXPECT_EQ(choice.count(), 2);
    choice.setCurrentIndex(0);
    EXPECT_EQ(project().lineup.specimens[0].paintwork, "");
    choice.setCurrentIndex(1);
    EXPECT_EQ(project().lineup.specimens[0].paintwork, project().paintworks[0]->id);
}

TEST_F(PaintStation, TheStripSinksAndComesBackAndNothingHangsOnAProjectThatIsClosed) {
    const int low = window->lineup().height();
    QTest::keyClick(window.get(), Qt::Key_2, Qt::ControlModifier);
    settle();
    EXPECT_GT(window->lineup().height(), low + 100);
    // Edits elsewhere wake nothing here.
    int woken = 0;
    const auto counting = QObject::connect(&desk(), &PaintDesk::changed, [&] { ++woken; });
    type("noise 2d", {300, 60});
    QObject::disconnect(counting);
    EXPECT_EQ(woken, 0);
    QTest::keyClick(window.get(), Qt::Key_4, Qt::ControlModifier);
    settle();
    EXPECT_EQ(window->lineup().height(), low);
    QTest::mousePress(&canvas(), Qt::LeftButton, {}, middleOf());
    window->startNew("empty");
    QTest::mouseMove(&canvas(), middleOf() + QPoint(30, 0));
    QTest::mouseRelease(&canvas(), Qt::LeftButton, {}, middleOf());
    ready();
    EXPECT_TRUE(project().paintworks.empty());
    named<QCheckBox>("paintVertices").setChecked(true);
    named<QCheckBox>("paintEdges").setChecked(true);
    canvas().repaint();
}

} // namespace
} // namespace hue
