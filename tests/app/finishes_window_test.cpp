// Finishes on the board, on the rail and in the station Paint, by mouse and keys.
#include "app/stations/graph/whole_row.h"
#include "app/stations/paint/channel_panel.h"
#include "app/stations/paint/paint_canvas.h"
#include "app/stations/paint/paint_page.h"
#include "app/window/top_bar.h"
#include "core/mesh/paint_data.h"
#include "core/nodes/finish.h"
#include "tests/app/app_fixture.h"

#include <QMenu>
#include <QPushButton>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;

class FinishesWindow : public Window {
  protected:
    WholeRow& whole() { return *rail().whole(); }
    const Node& node(const Id& id) { return *graph().find(id); }
    void toWhole(const Id& from) {
        drag(&board(), pin(from, CardRow::Kind::Output, "out"), whole().mapToGlobal(QPoint(30, whole().pinHeight())));
        settle();
    }
    /// Takes the entry of an open menu that starts so.
    void choose(const char* menu, const QString& entry) {
        QMenu* open = nullptr;
        ASSERT_TRUE(waitFor([&] { return (open = window->findChild<QMenu*>(menu)) && open->isVisible(); }, 5000)) << menu;
        QList<QAction*> entries = open->actions();
        for (QAction* action : open->actions())
            if (action->menu()) entries += action->menu()->actions();
        for (QAction* action : entries)
            if (!action->menu() && action->text().startsWith(entry)) {
                action->trigger();
                open->close();
                settle();
                return;
            }
        FAIL() << "no entry " << entry.toStdString();
    }
    /// A second master "Tar", near black, with an instance "Tar/Rough" that is white.
    void addTar() {
        Master tar;
        tar.id = "tar", tar.name = "Tar";
        Parameter tint;
        tint.id = "tint", tint.name = "Tint", tint.codeName = "tint", tint.type = ParameterType::Color;
        tint.standard.value = Value::vec3(0.01f, 0.01f, 0.01f);
        tar.parameters.push_back(tint);
        Node card = makeNode("parameter");
        card.id = "card", card.settings["parameter"] = "tint";
        tar.graph.nodes["card"] = std::make_shared<Node>(card);
        tar.graph.channelWires["base_color"] = {"card", "out", ""};
        Instance rough;
        rough.id = "rough", rough.name = "Rough", rough.parent = "tar";
        rough.own["tint"].value = Value::vec3(0.9f, 0.9f, 0.9f);
        session().apply("a second master", [&](const Project& p) {
            return edit::chain(p, {[&](const Project& q) { return edit::addMaster(q, tar); },
                                   [&](const Project& q) { return edit::addInstance(q, rough); }});
        });
        settle();
    }
    void oneBall(const char* mesh = "shape:sphere") {
        session().apply("one ball", [&](const Project& p) {
            Lineup l = p.lineup;
            l.specimens = {Specimen{.mesh = mesh, .wears = {session().masterId()}}};
            return edit::setLineup(p, l);
        });
        settle();
    }
};

TEST_F(FinishesWindow, AFinishFeedsTheWholeRailUntilAWireBesideWins) {
    oneBall();
    const QColor grey = middle();
    const Id finish = type("finish", {60, 60});
    ASSERT_EQ(node(finish).kind, "finish");
    session().apply("red", [&](const Project& p) {
        return edit::setConstant(p, session().masterId(), finish, "base_color", Value::vec3(0.6f, 0.02f, 0.02f));
    });
    settle();
    toWhole(finish);
    ASSERT_TRUE(graph().channelWires.contains("finish"));
    EXPECT_GT(middle().red(), middle().green() + 40);
    EXPECT_FALSE(rail().row("roughness")->field()->isVisible()) << "its value counts for nothing now";
    EXPECT_TRUE(whole().accessibleName().contains("Finish"));
    // A channel that is wired beside it wins.
    const Id green = type("#10c020", {60, 320});
    wireToChannel(green, "out", "base_color");
    EXPECT_GT(middle().green(), middle().red() + 40);
    // Muted, the finish counts for nothing; the rail has its own values again.
    QTest::mouseClick(whole().muteButton(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(rail().row("roughness")->field()->isVisible());
    QTest::mouseClick(whole().muteButton(), Qt::LeftButton);
    // Delete on the row takes the wire; undo brings it back.
    whole().setFocus();
    key(&whole(), Qt::Key_Delete);
    EXPECT_FALSE(graph().channelWires.contains("finish"));
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(graph().channelWires.contains("finish"));
    session().undoStack()->undo();
    settle();
    for (int k = 0; k < 3; ++k) session().undoStack()->undo();
    settle();
    EXPECT_NEAR(middle().red(), grey.red(), 40);
}

TEST_F(FinishesWindow, LetGoAnywhereOnTheRailLeadsToTheWhole) {
    const Id finish = type("finish", {60, 60});
    wireToChannel(finish, "out", "roughness");
    EXPECT_TRUE(graph().channelWires.contains("finish"));
    EXPECT_FALSE(graph().channelWires.contains("roughness"));
    // Numbers are not taken there, and it is said.
    const Id number = type("0.4", {60, 320});
    toWhole(number);
    EXPECT_EQ(graph().channelWires.at("finish").node, finish);
}

TEST_F(FinishesWindow, AreMixedByWiringTwoAndTheCardSaysSo) {
    const Id a = type("finish", {40, 40}), b = type("finish", {40, 300}), mix = type("mix", {340, 60});
    wireTo(a, "out", mix, "bg");
    EXPECT_EQ(board().layout().cards.at(mix).row(CardRow::Kind::Input, "fg")->width, kFinishPort) << "the other side wants one as well";
    wireTo(b, "out", mix, "fg");
    EXPECT_EQ(node(mix).wires.size(), 2u);
    EXPECT_EQ(board().layout().cards.at(mix).row(CardRow::Kind::Output, "out")->width, kFinishPort);
    EXPECT_EQ(board().layout().cards.at(mix).row(CardRow::Kind::Input, "fg")->width, kFinishPort);
    // Where numbers go a channel of it is offered.
    const Id sum = type("multiply", {600, 60});
    drag(&board(), pin(mix, CardRow::Kind::Output, "out"), board().mapToGlobal(pin(sum, CardRow::Kind::Input, "in1")));
    choose("finishMenu", "Take its roughness");
    ASSERT_TRUE(node(sum).wires.contains("in1"));
    const Source taken = node(sum).wires.at("in1");
    EXPECT_EQ(node(taken.node).kind, "separate_finish");
    EXPECT_EQ(taken.port, "roughness");
    EXPECT_EQ(node(taken.node).wires.at("in").node, mix);
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(graph().find(taken.node)) << "card and wires are one step";
    // And the other way round.
    const Id color = type("#808020", {40, 480}), blend = type("blend by weights", {600, 260});
    drag(&board(), pin(color, CardRow::Kind::Output, "out"), board().mapToGlobal(pin(blend, CardRow::Kind::Input, "finish1")));
    choose("finishMenu", "Make a finish with it as base color");
    ASSERT_TRUE(node(blend).wires.contains("finish1"));
    EXPECT_EQ(node(node(blend).wires.at("finish1").node).wires.at("base_color").node, color);
}

TEST_F(FinishesWindow, OfAnotherMasterIsTypedByItsNameAndFollowsItsValues) {
    addTar();
    oneBall();
    const Id card = type("tar", {60, 60});
    ASSERT_EQ(node(card).kind, "finish_of");
    EXPECT_EQ(node(card).settings.at("of"), "tar");
    toWhole(card);
    rest();
    const int dark = middle().lightness();
    EXPECT_LT(dark, 90);
    // Another one is chosen on the card.
    const CardRow* row = board().layout().cards.at(card).row(CardRow::Kind::Setting, "of");
    ASSERT_TRUE(row);
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(row->rect.center()).toPoint());
    choose("settingMenu", "Rough");
    rest();
    EXPECT_EQ(node(card).settings.at("of"), "rough");
    const int light = middle().lightness();
    EXPECT_GT(light, dark + 60);
    // A value that changes there changes here.
    session().apply("darker", [&](const Project& p) { return edit::setOwn(p, "rough", "tint", {Value::vec3(0.01f, 0.01f, 0.01f), {}}); });
    rest();
    EXPECT_NEAR(middle().lightness(), dark, 6);
    // Its board is opened from the card, by a double click or by the key.
    const Id outer = session().masterId();
    QTest::mouseDClick(&board(), Qt::LeftButton, {}, board().toWidget(board().layout().cards.at(card).swatch.center()).toPoint());
    EXPECT_EQ(session().masterId(), "tar");
    session().showMaster(outer);
    settle();
    board().select({card});
    key(&board(), Qt::Key_Down, Qt::ControlModifier);
    EXPECT_EQ(session().masterId(), "tar");
    settle();
    // What leads back is not offered there.
    const Id other = type("finish of", {60, 200});
    const CardRow* choice = board().layout().cards.at(other).row(CardRow::Kind::Setting, "of");
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(choice->rect.center()).toPoint());
    QMenu* menu = nullptr;
    ASSERT_TRUE(waitFor([&] { return (menu = window->findChild<QMenu*>("settingMenu")) && menu->isVisible(); }, 5000));
    ASSERT_EQ(menu->actions().size(), 1);
    EXPECT_FALSE(menu->actions()[0]->isEnabled());
    menu->close();
}

TEST_F(FinishesWindow, WhatAMaskHidesIsSkippedByAChoiceOnTheCard) {
    const Id a = type("finish", {40, 40}), b = type("finish", {40, 300}), noise = type("worley", {40, 560}), mix = type("mix", {340, 60});
    const auto choice = [&] { return board().layout().cards.at(mix).row(CardRow::Kind::Setting, "unseen"); };
    EXPECT_FALSE(choice()) << "between numbers there is nothing to skip";
    wireTo(noise, "out", b, "roughness");
    wireTo(a, "out", mix, "bg");
    wireTo(b, "out", mix, "fg");
    const Id paint = type("painted channel", {300, 400});
    wireTo(paint, "out", mix, "mix");
    toWhole(mix);
    const Cost before = window->boardService().facts()->cost;
    EXPECT_FALSE(before.skips());
    ASSERT_TRUE(choice());
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(choice()->rect.center()).toPoint());
    choose("settingMenu", "skipped");
    settle();
    const Cost after = window->boardService().facts()->cost;
    EXPECT_EQ(after.operationsPerPixel(), before.operationsPerPixel() + 1);
    EXPECT_LT(after.leastOperationsPerPixel(), before.operationsPerPixel() - 100) << "a worley is spared";
    bool told = false;
    for (Meter* meter : window->findChildren<Meter*>())
        told |=
            meter->accessibleDescription() == QString("%1\u2013%2").arg(after.leastOperationsPerPixel()).arg(after.operationsPerPixel());
    EXPECT_TRUE(told) << "the meter shows both ends";
    session().undoStack()->undo();
    settle();
    EXPECT_EQ(window->boardService().facts()->cost.operationsPerPixel(), before.operationsPerPixel());
}

TEST_F(FinishesWindow, AMasterBecomesAFinishWithAnotherOverItByPaint) {
    // From an unpainted ball, with the mouse: a finish over it, then a stroke that shows it.
    addTar();
    oneBall("shape:sphere/3");
    session().apply("light", [&](const Project& p) {
        return edit::setChannelConstant(p, session().masterId(), "base_color", Value::vec3(0.8f, 0.8f, 0.8f));
    });
    session().apply("rough",
                    [&](const Project& p) { return edit::setChannelConstant(p, session().masterId(), "roughness", Value::number(1)); });
    rest();
    QTest::keyClick(window.get(), Qt::Key_4, Qt::ControlModifier);
    PaintPage& page = part<PaintPage>();
    PaintCanvas& canvas = page.canvas();
    const auto ready = [&] {
        ASSERT_TRUE(waitFor(
            [&] { return page.desk().surface() && !canvas.picture().isNull() && !canvas.updating() && session().runner().idle(); }, 60000));
        settle();
    };
    ready();
    auto* mixOver = window->findChild<QPushButton*>("paintMixOver");
    ASSERT_TRUE(mixOver && mixOver->isVisible()) << "nothing reads paint, and the station offers what would";
    const int steps = session().undoStack()->count();
    QTest::mouseClick(mixOver, Qt::LeftButton);
    choose("mixOverMenu", "With its defaults");
    ready();
    EXPECT_EQ(session().undoStack()->count(), steps + 1) << "one step of undo";
    EXPECT_FALSE(mixOver->isVisible());
    EXPECT_EQ(page.desk().channelName(page.desk().channel()), "tar");
    const auto at = [&](const QPoint& p) {
        const QImage& picture = canvas.picture();
        return picture.pixelColor(p.x() * picture.width() / canvas.width(), p.y() * picture.height() / canvas.height());
    };
    const QPoint m = canvas.rect().center(), above = m - QPoint(0, 110);
    const int before = at(m).lightness(), aside = at(above).lightness();
    EXPECT_GT(before, 120) << "unpainted it looks as it did";
    QTest::mouseMove(&canvas, m - QPoint(50, 0));
    QTest::mousePress(&canvas, Qt::LeftButton, {}, m - QPoint(50, 0));
    for (const int x : {-30, 0, 30, 50}) QTest::mouseMove(&canvas, m + QPoint(x, 0));
    QTest::mouseRelease(&canvas, Qt::LeftButton, {}, m + QPoint(50, 0));
    ready();
    EXPECT_LT(at(m).lightness(), before - 60) << "the tar shows where it was painted";
    EXPECT_NEAR(at(above).lightness(), aside, 8);
    EXPECT_LT(middle().lightness(), before - 40) << "the strip follows";
    // Two steps back, and all is as it was.
    session().undoStack()->undo();
    session().undoStack()->undo();
    ready();
    EXPECT_FALSE(graph().channelWires.contains("finish"));
    EXPECT_TRUE(graph().nodes.empty());
    EXPECT_FLOAT_EQ(graph().channelConstants.at("base_color")[0], 0.8f);
}

TEST_F(FinishesWindow, StartingPointsOfFinishesCompileAndReadPaint) {
    for (const char* start : {"two-finishes", "four-finishes"}) {
        window->startNew(start);
        rest();
        EXPECT_TRUE(graph().channelWires.contains("finish")) << start;
        EXPECT_TRUE(window->boardService().facts()->broken.empty()) << start;
        int painted = 0;
        for (const auto& [id, card] : graph().nodes) painted += card->kind == "painted";
        EXPECT_EQ(painted, start[0] == 't' ? 1 : 3) << start;
        // No card lies on another.
        const auto boxes = boxesOf(board().layout());
        for (const auto& [a, box] : boxes)
            for (const auto& [b, other] : boxes)
                EXPECT_FALSE(a < b && box.meets(other)) << start << ": " << cardTitle(project(), *session().master(), a) << " and "
                                                        << cardTitle(project(), *session().master(), b);
    }
}

} // namespace
} // namespace hue
