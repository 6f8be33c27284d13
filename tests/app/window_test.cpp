// Single facts of the window.
#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "core/base/files.h"
#include "core/image_files/picture_file.h"
#include "core/project/store.h"
#include "tests/app/app_fixture.h"
#include <QLabel>

#include <QAbstractButton>
#include <QClipboard>
#include <QDragEnterEvent>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QTreeView>
#include <fstream>

namespace hue {
namespace {

using namespace test;
using BoardTest = Window;
using LineupTest = Window;
using FileTest = Window;
using SheetTest = Window;
using InstanceTest = Window;

/// Presses a button of the next message box, by its text.
void answer(const QString& button) {
    QTimer::singleShot(150, [button] {
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        if (!box) return ADD_FAILURE() << "no question was asked";
        for (QAbstractButton* b : box->buttons())
            if (b->text().remove('&') == button) return b->click();
        ADD_FAILURE() << "no button " << button.toStdString();
        box->reject();
    });
}

TEST_F(BoardTest, EveryEditCanBeUndone) {
    const Id a = type("0.5", {80, 60}), b = type("sine", {300, 60});
    wireTo(a, "out", b, "in");
    board().select({a});
    board().removeSelection();
    EXPECT_EQ(graph().nodes.size(), 1u);
    const std::string now = projectText(project());
    while (session().undoStack()->canUndo()) session().undoStack()->undo();
    EXPECT_TRUE(graph().nodes.empty());
    while (session().undoStack()->canRedo()) session().undoStack()->redo();
    EXPECT_EQ(projectText(project()), now);
}

TEST_F(BoardTest, ALoopIsRefusedAndTheStatusBarSaysWhy) {
    const Id a = type("sine", {80, 60}), b = type("sine", {330, 60});
    wireTo(a, "out", b, "in");
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    wireTo(b, "out", a, "in");
    EXPECT_TRUE(graph().find(a)->wires.empty());
    EXPECT_TRUE(said.contains("loop")) << said.toStdString();
}

TEST_F(BoardTest, AColorIntoANumberAsksForATake) {
    const Id c = type("#FF8000", {80, 60});
    QTimer::singleShot(200, [] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        ASSERT_TRUE(menu);
        EXPECT_EQ(menu->actions().size(), 4);
        menu->actions()[0]->trigger();
        menu->close();
    });
    wireToChannel(c, "out", "roughness");
    ASSERT_TRUE(waitFor([&] { return graph().channelWires.contains("roughness"); }, 3000));
    EXPECT_EQ(graph().channelWires.at("roughness").take, "r");
}

TEST_F(BoardTest, PullingTheEndOfAWireTakesItOff) {
    const Id a = type("0.5", {80, 60}), b = type("sine", {330, 60});
    wireTo(a, "out", b, "in");
    ASSERT_EQ(graph().find(b)->wires.size(), 1u);
    drag(&board(), pin(b, CardRow::Kind::Input, "in"), board().mapToGlobal(QPoint(240, 300)));
    EXPECT_TRUE(graph().find(b)->wires.empty());
    EXPECT_TRUE(board().addLine()->isVisible()) << "let go on the empty board, it offers what fits";
    key(board().addLine()->line(), Qt::Key_Escape);
    EXPECT_FALSE(board().addLine()->isVisible());
}

TEST_F(BoardTest, CardsMoveTogetherAndBaysFitThem) {
    const Id a = type("0.5", {80, 60}), b = type("sine", {330, 60});
    board().select({a, b});
    board().setFocus();
    key(&board(), Qt::Key_B, Qt::ControlModifier);
    ASSERT_EQ(board().layout().bays.size(), 1u);
    board().select({b});
    const QPoint grip = board().toWidget(board().layout().cards.at(b).title.center()).toPoint();
    drag(&board(), grip, board().mapToGlobal(grip + QPoint(60, 80)));
    EXPECT_GT(graph().find(b)->position.y, graph().find(a)->position.y + 40);
    EXPECT_TRUE(board().layout().bays[0].rect.contains(board().layout().cards.at(b).rect));
}

TEST_F(BoardTest, KeysDuplicateMuteCopyAndDelete) {
    const Id a = type("sine", {80, 60});
    board().select({a});
    board().setFocus();
    key(&board(), Qt::Key_D, Qt::ControlModifier);
    EXPECT_EQ(graph().nodes.size(), 2u);
    key(&board(), Qt::Key_F10);
    EXPECT_TRUE(graph().find(*board().selection().begin())->muted);
    key(&board(), Qt::Key_C, Qt::ControlModifier);
    key(&board(), Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(graph().nodes.size(), 3u);
    key(&board(), Qt::Key_A, Qt::ControlModifier);
    key(&board(), Qt::Key_Delete);
    EXPECT_TRUE(graph().nodes.empty());
}

TEST_F(BoardTest, AValueIsTypedOnItsCard) {
    const Id a = type("invert", {80, 60});
    board().select({a});
    board().setFocus();
    key(&board(), Qt::Key_Return);
    auto* editor = board().findChild<QLineEdit*>("boardEditor");
    ASSERT_TRUE(editor->isVisible());
    QTest::keyClicks(editor, "0.25");
    key(editor, Qt::Key_Return);
    EXPECT_FLOAT_EQ(graph().find(a)->constants.at("in")[0], 0.25f);
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    board().setFocus();
    key(&board(), Qt::Key_Return);
    QTest::keyClicks(editor, "wet");
    key(editor, Qt::Key_Return);
    EXPECT_TRUE(said.contains("wet")) << said.toStdString();
    EXPECT_FLOAT_EQ(graph().find(a)->constants.at("in")[0], 0.25f);
}

TEST_F(BoardTest, ASwatchShowsTheValueOfItsCard) {
    const Id a = type("#00FF00", {80, 60});
    const auto& swatches = window->boardService().facts()->swatches;
    EXPECT_EQ(swatches.at(a + ".out").pixelColor(20, 20), QColor(0, 255, 0));
    const Id noise = type("cell noise", {330, 60});
    EXPECT_GT(window->boardService().facts()->ports.at({noise, "out"}).rate, Rate::Frame);
}

TEST_F(BoardTest, TidyLaysColumnsWithoutOverlap) {
    Id last = type("0.5", {300, 200});
    for (int i = 0; i < 4; ++i) {
        const Id next = type("sine", {300 - 10 * i, 200});
        ASSERT_TRUE(session().apply("wire", [&](const Project& p) {
            return edit::connect(p, session().masterId(), {last, "out", ""}, next, "in");
        }));
        last = next;
    }
    board().select({});
    board().setFocus();
    key(&board(), Qt::Key_F4);
    const auto& cards = board().layout().cards;
    for (const auto& [a, one] : cards)
        for (const auto& [b, two] : cards) EXPECT_FALSE(a < b && one.rect.intersects(two.rect));
}

TEST_F(BoardTest, TidyOfOneCardIsThatOfTheBoard) {
    const Id a = type("0.5", {420, 60}), b = type("sine", {120, 240});
    wireTo(a, "out", b, "in");
    board().select({b});
    key(&board(), Qt::Key_F4);
    settle();
    EXPECT_LT(graph().find(a)->position.x, graph().find(b)->position.x) << "what feeds it lies to its left";
}

TEST_F(SheetTest, AHintStandsWhereNothingIsExposedAndTypingExposes) {
    auto hint = [&] { return sheet().findChild<QLabel*>("nothingExposed"); };
    ASSERT_TRUE(hint() && hint()->isVisible());
    EXPECT_TRUE(hint()->text().contains("Ctrl+E"));
    const Id card = type("grout width = 6 mm, 0 to 20", {80, 60});
    EXPECT_TRUE(waitFor([&] { return !hint(); }, 2000)) << "its work is done";
    ASSERT_EQ(session().master()->parameters.size(), 1u);
    const Parameter& p = session().master()->parameters[0];
    EXPECT_EQ(p.name, "Grout width");
    EXPECT_EQ(graph().find(card)->settings.at("parameter"), p.id);
    EXPECT_TRUE(sheet().row(p.id));
}

TEST_F(SheetTest, AnInactiveChannelSaysWhyAndWakesAtAClick) {
    ChannelRow* alpha = rail().row("alpha");
    ASSERT_TRUE(alpha->switchButton()->isVisible());
    QTest::mouseClick(alpha->switchButton(), Qt::LeftButton);
    EXPECT_EQ(session().master()->surface.alphaMode, AlphaMode::Blend);
    EXPECT_FALSE(alpha->switchButton()->isVisible());
}

TEST_F(LineupTest, ABrokenGraphKeepsTheLastGoodPicture) {
    const Id c = type("#00FF00", {80, 60});
    wireToChannel(c, "out", "base_color");
    view("base_color");
    const QColor before = middle();
    EXPECT_EQ(before, QColor(0, 255, 0));
    const Id uv = type("texcoord", {80, 220});
    ASSERT_TRUE(session().apply("break", [&](const Project& p) {
        return edit::connectChannel(p, session().masterId(), {uv, "out", ""}, "base_color");
    }));
    settle();
    EXPECT_EQ(middle(), before);
    EXPECT_FALSE(window->lineup().specimen(0)->problem().isEmpty());
    session().undoStack()->undo();
    settle();
    EXPECT_TRUE(window->lineup().specimen(0)->problem().isEmpty());
}

TEST_F(LineupTest, DraggingTurnsAllSpecimensAndIsNoUnsavedChange) {
    window->lineup().addSpecimen();
    settle();
    ASSERT_EQ(window->lineup().count(), 2u);
    const float yaw = project().lineup.orbit.yaw;
    const int edits = session().undoStack()->count();
    SpecimenView* s = window->lineup().specimen(0);
    drag(s, {100, 100}, s->mapToGlobal(QPoint(160, 100)));
    EXPECT_NE(project().lineup.orbit.yaw, yaw);
    EXPECT_EQ(session().undoStack()->count(), edits);
}

TEST_F(LineupTest, ALightIsAStepOfUndoAndTheOrbitIsNot) {
    ASSERT_TRUE(session().apply("light", [&](const Project& p) {
        Lineup l = p.lineup;
        l.light = "sodium-shed";
        return edit::setLineup(p, l);
    }));
    SpecimenView* s = window->lineup().specimen(0);
    drag(s, {100, 100}, s->mapToGlobal(QPoint(160, 100)));
    const float yaw = project().lineup.orbit.yaw;
    session().undoStack()->undo();
    EXPECT_EQ(project().lineup.light, "grey-box");
    EXPECT_EQ(project().lineup.orbit.yaw, yaw) << "undo does not turn the camera back";
    session().undoStack()->redo();
    EXPECT_EQ(project().lineup.light, "sodium-shed");
}

TEST_F(LineupTest, AnInstanceDroppedOnASpecimenIsWorn) {
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id instance = session().target();
    session().setTarget(session().masterId());
    window->lineup().addSpecimen();
    settle();
    QMimeData data;
    data.setData(kWornMime, QByteArray::fromStdString(instance));
    SpecimenView* s = window->lineup().specimen(1);
    ASSERT_NE(project().lineup.specimens[1].wears[0], instance);
    drop(s, {50, 50}, data);
    EXPECT_EQ(project().lineup.specimens[1].wears[0], instance);
}

TEST_F(LineupTest, PlayMovesTimeAndOnlyWhatMovesIsDrawn) {
    // One stands still, the other shines by the time.
    Master glow = *session().master();
    glow.id = "glow", glow.name = "Glow";
    Node clock = makeNode("time", {});
    glow.graph.nodes[clock.id] = std::make_shared<Node>(clock);
    glow.graph.channelWires["roughness"] = {clock.id, "out", {}};
    ASSERT_TRUE(session().apply("moving", [&](const Project& p) -> Result<Project> {
        Result<Project> next = edit::addMaster(p, glow);
        if (next) {
            Lineup l = next->lineup;
            l.specimens.push_back(l.specimens[0]);
            l.specimens[1].wears = {"glow"};
            next = edit::setLineup(*next, l);
        }
        return next;
    }));
    settle();
    ASSERT_TRUE(waitFor([&] { return window->lineup().specimen(1)->finished().fine; }, 20000));
    QTest::qWait(600);
    const int still = window->lineup().specimen(0)->framesShown(), moving = window->lineup().specimen(1)->framesShown();
    key(window.get(), Qt::Key_F5);
    QTest::qWait(250);
    EXPECT_GT(session().time(), 0.05);
    EXPECT_LE(window->lineup().specimen(0)->framesShown(), still + 1) << "a still surface is not drawn again";
    EXPECT_TRUE(waitFor([&] { return window->lineup().specimen(1)->framesShown() > moving + 2; }, 5000)) << "what moves is";
    key(window.get(), Qt::Key_F5);
    EXPECT_FALSE(session().playing());
}

TEST_F(InstanceTest, TheTableShowsTheTreeAndEditsInPlace) {
    type("amount = 0.5, 0 to 1", {80, 60});
    const Id parameter = session().master()->parameters[0].id;
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id parent = session().target();
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id child = session().target();
    EXPECT_EQ(project().instance(child)->parent, parent);
    key(window.get(), Qt::Key_3, Qt::ControlModifier);
    InstanceModel* model = instances().model();
    const QModelIndex row = model->indexOf(parent);
    EXPECT_EQ(model->rowCount(row), 1);
    const QModelIndex cell = model->index(row.row(), InstanceModel::FirstParameter, row.parent());
    instances().table()->setCurrentIndex(cell);
    QTest::keyClick(instances().table(), Qt::Key_F2);
    auto* editor = instances().table()->findChild<QLineEdit*>();
    ASSERT_TRUE(editor);
    editor->selectAll();
    QTest::keyClicks(editor, "0.8");
    QTest::keyClick(editor, Qt::Key_Return);
    ASSERT_TRUE(waitFor([&] { return project().instance(parent)->own.contains(parameter); }, 3000))
        << "the table takes the value when it is back in its loop";
    EXPECT_FLOAT_EQ(project().instance(parent)->own.at(parameter).value[0], 0.8f);
    const QModelIndex inherited = model->index(0, InstanceModel::FirstParameter, model->indexOf(parent));
    EXPECT_EQ(inherited.data().toString(), "0.8");
    EXPECT_FALSE(inherited.data(InstanceModel::OwnRole).toBool());
}

TEST_F(FileTest, ClosingWithUnsavedChangesAsks) {
    type("0.5", {80, 60});
    answer("Go back");
    window->close();
    EXPECT_TRUE(window->isVisible());
    answer("Do not save");
    window->close();
    EXPECT_FALSE(window->isVisible());
}

TEST_F(FileTest, ACrashLosesNothing) {
    const QString file = folder->filePath("p.huestack");
    ASSERT_TRUE(window->saveTo(file));
    type("0.5", {80, 60});
    ASSERT_TRUE(waitFor([&] { return QFile::exists(file + ".journal"); }, 5000));
    // The window goes without being closed, as in a crash.
    window.reset();
    window = std::make_unique<MainWindow>();
    window->show();
    answer("Bring back");
    ASSERT_TRUE(window->openFile(file));
    EXPECT_EQ(graph().nodes.size(), 1u);
    EXPECT_TRUE(session().dirty());
}

TEST_F(FileTest, UnsavedChangesThatNobodyDecidesAboutAreOfferedAgain) {
    const QString file = folder->filePath("p.huestack");
    ASSERT_TRUE(window->saveTo(file));
    type("0.5", {80, 60});
    ASSERT_TRUE(waitFor([&] { return QFile::exists(file + ".journal"); }, 5000));
    const auto again = [&] {
        window.reset();
        window = std::make_unique<MainWindow>();
        window->show();
    };
    again();
    bool asked = false;
    QTimer::singleShot(150, [&] {
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        ASSERT_TRUE(box);
        asked = true;
        QTest::keyClick(box, Qt::Key_Escape);
    });
    ASSERT_TRUE(window->openFile(file));
    EXPECT_TRUE(asked);
    EXPECT_TRUE(graph().nodes.empty());
    EXPECT_TRUE(QFile::exists(file + ".journal")) << "Escape decides nothing";
    again();
    window->setAsksBeforeClosing(false);
    ASSERT_TRUE(window->openFile(file)) << "where nobody can answer, nothing is asked";
    EXPECT_TRUE(QFile::exists(file + ".journal"));
    again();
    answer("Forget them");
    ASSERT_TRUE(window->openFile(file));
    EXPECT_FALSE(QFile::exists(file + ".journal"));
}

TEST_F(FileTest, AProjectBegunAnewIsNotOfferedWhatWasJustLaidAside) {
    const auto edit = [&](float roughness) {
        return session().apply("set", [&](const Project& p) {
            return edit::setChannelConstant(p, session().masterId(), "roughness", Value::number(roughness));
        });
    };
    ASSERT_TRUE(edit(0.25f));
    ASSERT_TRUE(waitFor([&] { return session().keepsJournal(); }, 5000));
    window->startNew("empty"); // would ask, and nobody answers
    EXPECT_FALSE(session().recovered());
    ASSERT_TRUE(edit(0.75f));
    EXPECT_TRUE(waitFor([&] { return session().keepsJournal(); }, 5000)) << "the new one is kept like any other";
}

TEST_F(FileTest, ADamagedProjectIsRefusedAndTheOpenOneStays) {
    const QString file = folder->filePath("cut.huestack");
    std::ofstream(file.toStdString()) << "{\"kind\": \"huestack project\", \"form";
    const Snapshot before = session().snapshot();
    QString shown;
    QTimer::singleShot(150, [&] {
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        ASSERT_TRUE(box);
        shown = box->text();
        box->accept();
    });
    EXPECT_FALSE(window->openFile(file));
    EXPECT_TRUE(shown.contains("cut.huestack")) << shown.toStdString();
    EXPECT_EQ(session().snapshot(), before);
}

TEST_F(FileTest, ADroppedMapFileBecomesAnImageCard) {
    const QString file = folder->filePath("wall_normal.png");
    Picture flat{4, 4, 3, std::vector<float>(48, 0.5f)};
    ASSERT_TRUE(writePicture(file.toStdString(), flat, PictureEncoding::Linear));
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    drop(&board(), {100, 100}, data);
    ASSERT_EQ(project().maps.size(), 1u);
    EXPECT_EQ(project().maps[0]->kind, MapKind::Normal) << "by the word in its name";
    ASSERT_EQ(graph().nodes.size(), 1u);
    EXPECT_EQ(graph().nodes.begin()->second->kind, "image");
    EXPECT_EQ(project().maps[0]->hash, contentHash(file.toStdString())) << "known by its content";
    session().undoStack()->undo();
    EXPECT_TRUE(project().maps.empty() && graph().nodes.empty()) << "map and card are one step";
    session().undoStack()->redo();
    QMimeData text;
    const QString junk = folder->filePath("junk.png");
    std::ofstream(junk.toStdString()) << "no picture";
    text.setUrls({QUrl::fromLocalFile(junk)});
    drop(&board(), {100, 100}, text);
    EXPECT_EQ(project().maps.size(), 1u);
}

TEST(Themes, KeepTextReadableAndHueOut) {
    auto luminance = [](const QColor& c) {
        return 0.2126 * double(srgbToLinear(float(c.redF()))) + 0.7152 * double(srgbToLinear(float(c.greenF()))) +
               0.0722 * double(srgbToLinear(float(c.blueF())));
    };
    for (const char* name : {"Graphite", "Plaster"}) {
        setTheme(name);
        const Theme& t = theme();
        for (const QColor& c : {t.window, t.panel, t.board, t.card, t.ink, t.ink2, t.hairline, t.surround})
            EXPECT_TRUE(c.red() == c.green() && c.green() == c.blue());
        for (const QColor& ground : {t.window, t.panel, t.card}) {
            // WCAG 2.1 contrast.
            const double a = luminance(t.ink) + 0.05, b = luminance(ground) + 0.05;
            EXPECT_GE(std::max(a, b) / std::min(a, b), 7) << name;
        }
    }
}

} // namespace
} // namespace hue
