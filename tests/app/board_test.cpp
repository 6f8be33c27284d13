// Building, mending and reading a graph on the board, by mouse and keys.
#include "app/stations/graph/compare_panel.h"
#include "app/stations/graph/find_bar.h"
#include "app/stations/graph/overview.h"
#include "app/stations/graph/source_panel.h"
#include "core/document/bays.h"
#include "core/nodes/catalogue.h"
#include "core/project/cards_text.h"
#include "core/project/store.h"
#include "tests/app/app_fixture.h"

#include <QAccessible>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QSettings>
#include <QTextBlock>

namespace hue::test {
namespace {

class BoardWindow : public Window {
  protected:
    void SetUp() override {
        // As on a machine where nothing was ever added.
        QSettings().remove("uses");
        Window::SetUp();
    }
    QMenu* menu(const char* name) {
        QMenu* found = nullptr;
        EXPECT_TRUE(waitFor(
            [&] {
                for (QMenu* m : board().findChildren<QMenu*>(name))
                    if (m->isVisible()) found = m;
                return found != nullptr;
            },
            5000))
            << name;
        return found;
    }
    void choose(const char* name, const QString& beginning) {
        QMenu* m = menu(name);
        ASSERT_TRUE(m);
        for (QAction* a : m->actions())
            if (a->text().startsWith(beginning)) {
                QTest::mouseClick(m, Qt::LeftButton, {}, m->actionGeometry(a).center());
                return settle();
            }
        FAIL() << "no " << beginning.toStdString() << " in " << name;
    }
    const Node& node(const Id& id) { return *graph().find(id); }
    QPoint middle(const Id& id) { return board().toWidget(board().layout().cards.at(id).rect.center()).toPoint(); }
    /// Where a wire is seen: the middle of its longest run.
    QPoint onWire(const WireEnd& end) {
        for (const WireLayout& wire : board().drawnWires()) {
            if (!(wire.end == end)) continue;
            QLineF longest;
            for (size_t k = 0; k + 1 < wire.way.size(); ++k) {
                const QLineF run(wire.way[k].x, wire.way[k].y, wire.way[k + 1].x, wire.way[k + 1].y);
                if (run.length() > longest.length()) longest = run;
            }
            return board().toWidget(longest.center()).toPoint();
        }
        ADD_FAILURE() << "no wire to " << end.port;
        return {};
    }
    void typeInEditor(const QString& text) {
        auto* editor = board().findChild<QLineEdit*>("boardEditor");
        ASSERT_TRUE(editor && editor->isVisible());
        editor->selectAll();
        QTest::keyClicks(editor, text);
        key(editor, Qt::Key_Return);
        settle();
    }
};

TEST_F(BoardWindow, CardsAreCopiedAsTextAndPastedIntoAnotherProject) {
    const Id noise = type("noise 2d", {160, 200}), product = type("multiply", {420, 200});
    wireTo(noise, "out", product, "in1");
    board().select({noise, product});
    key(&board(), Qt::Key_C, Qt::ControlModifier);
    const QString text = QApplication::clipboard()->text();
    EXPECT_TRUE(text.contains("\"noise_2d\"")) << "one can read what was copied";
    EXPECT_TRUE(parseCards(text.toStdString()));
    window->startNew("empty");
    settle();
    ASSERT_TRUE(graph().nodes.empty());
    board().setFocus();
    QCursor::setPos(board().mapToGlobal(QPoint(300, 240)));
    key(&board(), Qt::Key_V, Qt::ControlModifier);
    settle();
    ASSERT_EQ(graph().nodes.size(), 2u);
    EXPECT_EQ(board().selection().size(), 2u) << "what was pasted is selected";
    const auto multiply =
        std::find_if(graph().nodes.begin(), graph().nodes.end(), [](const auto& n) { return n.second->kind == "multiply"; });
    EXPECT_EQ(graph().find(multiply->second->wires.at("in1").node)->kind, "noise_2d");
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(graph().nodes.empty()) << "one step of undo";
    QApplication::clipboard()->setText("a shopping list");
    QString said;
    QObject::connect(&session(), &Session::said, &board(), [&](const QString& s) { said = s; });
    key(&board(), Qt::Key_V, Qt::ControlModifier);
    EXPECT_TRUE(said.contains("no cards")) << said.toStdString();
    EXPECT_TRUE(graph().nodes.empty());
}

TEST_F(BoardWindow, AnotherCardTakesTheSelectedOnesPlace) {
    const Id noise = type("noise 2d", {160, 200}), product = type("multiply", {420, 200});
    wireTo(noise, "out", product, "in1");
    wireToChannel(product, "out", "roughness");
    board().select({product});
    key(&board(), Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(board().addLine()->isVisible());
    QTest::keyClicks(board().addLine()->line(), "add");
    key(board().addLine()->line(), Qt::Key_Return);
    settle();
    EXPECT_EQ(node(product).kind, "add");
    EXPECT_EQ(node(product).wires.at("in1").node, noise);
    EXPECT_EQ(graph().channelWires.at("roughness").node, product);
    // What is typed next is a card of its own again.
    const Id sine = type("sine", {420, 380});
    EXPECT_NE(sine, product);
    EXPECT_EQ(node(product).kind, "add");
    board().select({product});
    key(&board(), Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(node(product).wires.at("in2").node, noise) << "the inputs changed places";
    EXPECT_FALSE(node(product).wires.contains("in1"));
}

TEST_F(BoardWindow, AllWiresOfAnOutputAreDraggedWithShift) {
    const Id noise = type("noise 2d", {120, 120}), cells = type("cell noise", {120, 320}), product = type("multiply", {420, 160});
    wireTo(noise, "out", product, "in1");
    wireTo(noise, "out", product, "in2");
    wireToChannel(noise, "out", "roughness");
    const QPoint from = pin(noise, CardRow::Kind::Output, "out");
    QTest::mousePress(&board(), Qt::LeftButton, Qt::ShiftModifier, from);
    QTest::mouseMove(&board(), from + QPoint(20, 20));
    QTest::mouseMove(&board(), middle(cells));
    QTest::mouseRelease(&board(), Qt::LeftButton, Qt::ShiftModifier, middle(cells));
    settle();
    EXPECT_EQ(node(product).wires.at("in1").node, cells);
    EXPECT_EQ(node(product).wires.at("in2").node, cells);
    EXPECT_EQ(graph().channelWires.at("roughness").node, cells);
    // And by keyboard, back again: the nearest is proposed.
    board().select({cells});
    key(&board(), Qt::Key_L, Qt::ControlModifier | Qt::ShiftModifier);
    choose("leadMenu", "Noise 2D");
    EXPECT_EQ(node(product).wires.at("in1").node, noise);
    EXPECT_EQ(graph().channelWires.at("roughness").node, noise);
}

TEST_F(BoardWindow, ATakeIsTypedOnTheSelectedWire) {
    const Id color = type("#804020", {120, 200}), product = type("multiply", {420, 200});
    wireTo(color, "out", product, "in1");
    QTest::mouseClick(&board(), Qt::LeftButton, {}, onWire({product, "in1"}));
    ASSERT_TRUE(board().selectedWire());
    QTest::keyClicks(&board(), ".");
    typeInEditor(".g");
    EXPECT_EQ(node(product).wires.at("in1").take, "g");
    QTest::mouseClick(&board(), Qt::LeftButton, {}, onWire({product, "in1"}));
    key(&board(), Qt::Key_Return);
    typeInEditor(".q");
    EXPECT_EQ(node(product).wires.at("in1").take, "g") << "what is no take is refused";
}

TEST_F(BoardWindow, AnUnderpassIsDrawnAtItsEndsAndLeadsToItsSource) {
    const Id noise = type("noise 2d", {120, 160}), product = type("multiply", {520, 160});
    wireTo(noise, "out", product, "in1");
    board().select({noise});
    key(&board(), Qt::Key_U, Qt::ControlModifier);
    ASSERT_EQ(node(product).wires.at("in1").underpass, "Noise 2D");
    EXPECT_EQ(board().drawnWires().at(0).way.size(), 2u);
    // Its label is the wire: selected, renamed, followed.
    const WireLayout wire = board().drawnWires().at(0);
    const QPoint label = board().toWidget(QPointF(wire.way.back().x - 24, wire.way.back().y)).toPoint();
    QTest::mouseClick(&board(), Qt::LeftButton, {}, label);
    ASSERT_TRUE(board().selectedWire());
    key(&board(), Qt::Key_F2);
    typeInEditor("dirt");
    EXPECT_EQ(node(product).wires.at("in1").underpass, "dirt");
    QTest::mouseDClick(&board(), Qt::LeftButton, {}, label);
    EXPECT_EQ(board().selection(), std::set<Id>{noise});
    key(&board(), Qt::Key_U, Qt::ControlModifier);
    EXPECT_EQ(node(product).wires.at("in1").underpass, "");
}

TEST_F(BoardWindow, BaysNestFoldMoveAndTakeCardsIn) {
    const Id noise = type("noise 2d", {120, 120}), sine = type("sine", {400, 120}), other = type("cosine", {400, 380});
    wireTo(noise, "out", sine, "in");
    wireToChannel(sine, "out", "roughness");
    board().select({noise, sine});
    key(&board(), Qt::Key_B, Qt::ControlModifier);
    board().select({sine});
    key(&board(), Qt::Key_B, Qt::ControlModifier);
    ASSERT_EQ(graph().bays.size(), 2u);
    const Id inner = bayOf(graph(), sine)->id, outer = bayOf(graph(), noise)->id;
    EXPECT_EQ(findBay(graph(), inner)->inside, outer);
    EXPECT_TRUE(board().layout().bay(outer)->rect.contains(board().layout().bay(inner)->rect)) << "the outer one holds the inner";
    // Moved by its name, with all that it holds.
    const Point before = node(sine).position, otherBefore = node(other).position;
    const QRectF head = board().layout().bay(outer)->head;
    const QPoint at = board().toWidget(head.center()).toPoint();
    drag(&board(), at, board().mapToGlobal(at + QPoint(60, 48)));
    EXPECT_FLOAT_EQ(node(sine).position.x - before.x, 60);
    EXPECT_FLOAT_EQ(node(sine).position.y - before.y, 48);
    EXPECT_EQ(node(other).position, otherBefore);
    // Folded by its mark: one box, to which the wires lead.
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(board().layout().bay(outer)->mark().center()).toPoint());
    settle();
    EXPECT_FALSE(board().layout().cards.contains(noise));
    ASSERT_EQ(board().layout().bays.size(), 1u);
    const BayLayout* box = board().layout().bay(outer);
    ASSERT_TRUE(box && box->folded);
    ASSERT_EQ(box->pins.size(), 1u) << "the sine goes out; what runs within is not seen";
    EXPECT_EQ(board().drawnWires().size(), 1u);
    // Its box stands for its cards: copied, pasted, deleted.
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(box->rect.center()).toPoint());
    EXPECT_EQ(board().chosenCards().size(), 2u);
    key(&board(), Qt::Key_C, Qt::ControlModifier);
    QCursor::setPos(board().mapToGlobal(QPoint(500, 330)));
    key(&board(), Qt::Key_V, Qt::ControlModifier);
    settle();
    EXPECT_EQ(graph().nodes.size(), 5u);
    EXPECT_EQ(board().layout().bays.size(), 2u) << "the copy is folded as well";
    EXPECT_TRUE(board().selection().empty()) << "none of its cards is seen";
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(board().layout().bay(outer)->rect.center()).toPoint());
    key(&board(), Qt::Key_Delete);
    settle();
    EXPECT_EQ(graph().nodes.size(), 1u);
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    settle();
    ASSERT_EQ(graph().nodes.size(), 3u);
    // Going to a card unfolds what hides it.
    board().showCard(sine);
    EXPECT_TRUE(board().layout().cards.contains(sine));
    // A card that is let go in a bay is in it.
    const QPointF into = board().layout().cards.at(noise).rect.bottomLeft() + QPointF(90, 6);
    drag(&board(), board().toWidget(board().layout().cards.at(other).title.center()).toPoint(),
         board().mapToGlobal(board().toWidget(into).toPoint()));
    ASSERT_TRUE(bayOf(graph(), other));
    EXPECT_EQ(bayOf(graph(), other)->id, outer);
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(bayOf(graph(), other)) << "move and joining are one step";
}

TEST_F(BoardWindow, AWireIsComputedPerVertexAndTheLedgerFollows) {
    const Id noise = type("noise 2d", {160, 200});
    wireToChannel(noise, "out", "roughness");
    settle();
    const auto cost = [&] { return window->boardService().facts()->cost; };
    const int before = cost().operationsPerPixel();
    ASSERT_GT(before, 40);
    const auto perVertex = [&] { return graph().channelWires.at("roughness").perVertex; };
    const QPoint at = onWire({{}, "roughness"});
    QTest::mouseClick(&board(), Qt::LeftButton, {}, at);
    const QImage pixels = board().grab().toImage();
    key(&board(), Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    settle();
    EXPECT_TRUE(perVertex());
    EXPECT_EQ(cost().operationsPerPixel(), 2) << "what is carried over a triangle is paid for";
    EXPECT_GE(cost().operations[size_t(Rate::Vertex)], before - 4);
    EXPECT_NE(board().grab().toImage(), pixels) << "one sees it on the wire";
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_FALSE(perVertex());
    EXPECT_EQ(cost().operationsPerPixel(), before);
    // With a card selected, all its wires.
    const Id product = type("multiply", {420, 330});
    wireTo(noise, "out", product, "in1");
    board().select({noise});
    key(&board(), Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(perVertex());
    EXPECT_TRUE(node(product).wires.at("in1").perVertex);
    key(&board(), Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_FALSE(perVertex());
    EXPECT_FALSE(node(product).wires.at("in1").perVertex);
    // With nothing selected it says what to do.
    QString said;
    QObject::connect(&session(), &Session::said, &board(), [&](const QString& s) { said = s; });
    QTest::mouseClick(&board(), Qt::LeftButton, {}, {300, 480});
    key(&board(), Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(said.contains("Select a wire")) << said.toStdString();
}

TEST_F(BoardWindow, ANoteIsWrittenAndReadAgain) {
    QCursor::setPos(board().mapToGlobal(QPoint(300, 300)));
    board().setFocus();
    key(&board(), Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
    typeInEditor("Rust starts at the rivets");
    ASSERT_EQ(graph().nodes.size(), 1u);
    const Id note = graph().nodes.begin()->first;
    EXPECT_EQ(node(note).settings.at("text"), "Rust starts at the rivets");
    EXPECT_TRUE(window->boardService().facts()->broken.empty());
    const qreal one = board().layout().cards.at(note).rect.height();
    QTest::mouseDClick(&board(), Qt::LeftButton, {}, middle(note));
    typeInEditor("Rust starts at the rivets and runs down from there, longer on the weather side, and never above the windows");
    EXPECT_GT(board().layout().cards.at(note).rect.height(), one + 20) << "a note is as tall as its words";
}

TEST_F(BoardWindow, FindStepsThroughWhatItFinds) {
    const Id noise = type("noise 2d", {120, 120}), cells = type("cell noise", {120, 320}), sine = type("sine", {420, 160});
    key(&board(), Qt::Key_F, Qt::ControlModifier);
    FindBar* bar = board().findBar();
    ASSERT_TRUE(bar->isVisible());
    QTest::keyClicks(bar->line(), "noise");
    EXPECT_EQ(bar->hits(), (std::vector<Id>{noise, cells}));
    key(bar->line(), Qt::Key_Return);
    EXPECT_EQ(board().selection(), std::set<Id>{noise});
    EXPECT_EQ(bar->told(), "1 of 2");
    key(bar->line(), Qt::Key_Return);
    EXPECT_EQ(board().selection(), std::set<Id>{cells});
    key(bar->line(), Qt::Key_Return);
    EXPECT_EQ(board().selection(), std::set<Id>{noise}) << "around to the first";
    key(bar->line(), Qt::Key_Return, Qt::ShiftModifier);
    EXPECT_EQ(board().selection(), std::set<Id>{cells});
    bar->line()->selectAll();
    QTest::keyClicks(bar->line(), "zebra");
    EXPECT_EQ(bar->told(), "nothing");
    key(bar->line(), Qt::Key_Escape);
    EXPECT_FALSE(bar->isVisible());
    EXPECT_TRUE(board().hasFocus());
    EXPECT_TRUE(graph().find(sine));
}

TEST_F(BoardWindow, WhatFeedsACardIsSelectedByAKey) {
    const Id noise = type("noise 2d", {80, 120}), sine = type("sine", {320, 120}), cosine = type("cosine", {560, 120}),
             loose = type("floor", {320, 400});
    wireTo(noise, "out", sine, "in");
    wireTo(sine, "out", cosine, "in");
    board().select({sine});
    key(&board(), Qt::Key_BracketLeft, Qt::ControlModifier);
    EXPECT_EQ(board().selection(), (std::set<Id>{noise, sine}));
    board().select({sine});
    key(&board(), Qt::Key_BracketRight, Qt::ControlModifier);
    EXPECT_EQ(board().selection(), (std::set<Id>{sine, cosine}));
    // Dimmed cards lose their ink.
    board().select({sine});
    const auto inkOf = [&](const Id& id) {
        const QImage shot =
            board().grab(QRect(board().toWidget(board().layout().cards.at(id).rect.topLeft()).toPoint(), QSize(140, 60))).toImage();
        int dark = 0;
        for (int y = 0; y < shot.height(); ++y)
            for (int x = 0; x < shot.width(); ++x) dark += qGray(shot.pixel(x, y)) < 90;
        return dark;
    };
    const int before = inkOf(loose), its = inkOf(noise);
    ASSERT_GT(before, 30);
    key(&board(), Qt::Key_L, Qt::ControlModifier);
    EXPECT_LT(inkOf(loose), before / 4);
    EXPECT_GT(inkOf(noise), its * 3 / 4) << "what feeds it stays";
}

TEST_F(BoardWindow, TheCostOfACardIsInkedWhenAsked) {
    const Id fractal = type("fractal", {120, 120}), sum = type("add", {420, 120});
    wireTo(fractal, "out", sum, "in1");
    wireToChannel(sum, "out", "roughness");
    board().select({});
    const auto ground = [&](const Id& id) {
        const QRectF r = board().layout().cards.at(id).rect;
        // Between the foot's words and the right edge.
        const QPoint at = board().toWidget(r.bottomRight() - QPointF(6, 5)).toPoint();
        return qGray(board().grab(QRect(at, QSize(1, 1))).toImage().pixel(0, 0));
    };
    const int plain = ground(fractal);
    EXPECT_EQ(plain, ground(sum));
    key(&board(), Qt::Key_H, Qt::ControlModifier);
    EXPECT_LT(ground(fractal), plain - 60) << "the costly one is dark";
    EXPECT_GT(ground(sum), ground(fractal) + 40) << "the cheap one is not";
}

TEST_F(BoardWindow, OneValueIsSetOnAllSelectedCardsOfAKind) {
    const Id a = type("noise 2d", {120, 80}), b = type("noise 2d", {120, 260}), other = type("worley noise", {420, 80});
    board().select({a, b, other});
    const QRectF row = board().layout().cards.at(a).row(CardRow::Kind::Input, "scale")->rect;
    QTest::mouseDClick(&board(), Qt::LeftButton, {}, board().toWidget(row.center() + QPointF(30, 0)).toPoint());
    typeInEditor("7");
    EXPECT_EQ(node(a).constants.at("scale")[0], 7);
    EXPECT_EQ(node(b).constants.at("scale")[0], 7);
    EXPECT_FALSE(node(other).constants.contains("scale")) << "another kind of card";
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(node(b).constants.contains("scale"));
    EXPECT_FALSE(node(a).constants.contains("scale")) << "one step";
}

TEST_F(BoardWindow, ExposingAsksWhichValueAndTakesSeveralCards) {
    const Id noise = type("worley noise", {120, 80});
    board().select({noise});
    key(&board(), Qt::Key_E, Qt::ControlModifier);
    choose("exposeMenu", "jitter");
    ASSERT_EQ(session().master()->parameters.size(), 1u);
    EXPECT_EQ(session().master()->parameters[0].name, "Worley noise jitter");
    const Id one = type("0.3", {420, 80}), two = type("0.6", {420, 260});
    board().select({one, two});
    key(&board(), Qt::Key_E, Qt::ControlModifier);
    EXPECT_EQ(session().master()->parameters.size(), 3u);
    EXPECT_EQ(node(one).kind, "parameter");
    EXPECT_EQ(node(two).kind, "parameter");
}

TEST_F(BoardWindow, AChannelIsExposedFromItsRow) {
    ChannelRow* row = rail().row("roughness");
    row->setFocus();
    key(row, Qt::Key_E, Qt::ControlModifier);
    settle();
    ASSERT_EQ(session().master()->parameters.size(), 1u);
    EXPECT_EQ(session().master()->parameters[0].name, "Roughness");
    EXPECT_EQ(node(graph().channelWires.at("roughness").node).kind, "parameter");
    // By the pointer too; and a wired one is not offered.
    QContextMenuEvent asked(QContextMenuEvent::Mouse, QPoint(60, 14), rail().row("metallic")->mapToGlobal(QPoint(60, 14)));
    QApplication::sendEvent(rail().row("metallic"), &asked);
    QMenu* menu = nullptr;
    ASSERT_TRUE(waitFor([&] { return (menu = rail().row("metallic")->findChild<QMenu*>("channelMenu")) && menu->isVisible(); }, 5000));
    QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(menu->actions().at(1)).center());
    settle();
    ASSERT_EQ(session().master()->parameters.size(), 2u);
    EXPECT_EQ(session().master()->parameters[1].name, "Metallic");
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(session().master()->parameters.size(), 1u);
}

TEST_F(BoardWindow, WhatIsOftenTakenComesFirst) {
    const auto first = [&](const QString& typed) {
        board().setFocus();
        QTest::keyClicks(&board(), typed.left(1));
        QTest::keyClicks(board().addLine()->line(), typed.mid(1));
        const std::string title = board().addLine()->model()->at(0).title;
        key(board().addLine()->line(), Qt::Key_Escape);
        return title;
    };
    ASSERT_NE(first("no"), "Normalize");
    for (int k = 0; k < 4; ++k) type("normalize", {200, 40 + 90 * k});
    EXPECT_EQ(first("no"), "Normalize") << "both begin with what was typed";
    EXPECT_EQ(first("noise 2d"), "Noise 2D") << "what is called so is meant";
}

TEST_F(BoardWindow, WiringAlphaOffersMaskAndBlendAtOnce) {
    const Id noise = type("noise 2d", {160, 200});
    wireToChannel(noise, "out", "alpha");
    choose("alphaMenu", "Mask");
    EXPECT_EQ(session().master()->surface.alphaMode, AlphaMode::Mask);
    // Typed, with the wire in hand: the channel is found by the word of the trade.
    const Id cells = type("cell noise", {160, 400});
    const QPoint out = pin(cells, CardRow::Kind::Output, "out");
    QTest::mouseClick(&board(), Qt::LeftButton, {}, out);
    QTest::keyClicks(&board(), "o");
    QTest::keyClicks(board().addLine()->line(), "pacity");
    ASSERT_GT(board().addLine()->model()->rowCount(), 0);
    EXPECT_EQ(board().addLine()->model()->at(0).title, "Lead to Alpha");
    key(board().addLine()->line(), Qt::Key_Return);
    settle();
    EXPECT_EQ(graph().channelWires.at("alpha").node, cells);
    EXPECT_EQ(session().master()->surface.alphaMode, AlphaMode::Mask) << "nothing is asked that was decided";
}

TEST_F(BoardWindow, FarOutCardsAreSwatchesAndAnOverviewLeadsBack) {
    const Id noise = type("noise 2d", {160, 200}), far = type("sine", {600, 200});
    session().apply("move", [&](const Project& p) { return edit::moveNodes(p, session().masterId(), {{far, {4000, 2400}}}); });
    settle();
    ASSERT_TRUE(board().overview()->isVisible()) << "something is out of view";
    // A click where the far card is in the overview brings it to the middle.
    QTest::mouseClick(board().overview(), Qt::LeftButton, {}, QPoint(board().overview()->width() - 8, board().overview()->height() - 8));
    const QPointF at = board().toWidget(board().layout().cards.at(far).rect.center());
    EXPECT_TRUE(QRectF(board().rect()).contains(at));
    board().select({});
    key(&board(), Qt::Key_F9);
    board().select({noise, far});
    key(&board(), Qt::Key_F9);
    EXPECT_LT(board().zoom(), Board::kFar);
    EXPECT_FALSE(board().overview()->isVisible()) << "all is in view";
    // The swatch fills the card: a noise is neither ink nor paper all over.
    const QPointF a = board().toWidget(board().layout().cards.at(noise).rect.topLeft()),
                  b = board().toWidget(board().layout().cards.at(noise).rect.bottomRight());
    const QImage shot = board().grab(QRectF(a, b).toRect()).toImage();
    std::set<int> greys;
    for (int y = 2; y < shot.height() - 10; ++y)
        for (int x = 2; x < shot.width() - 2; ++x) greys.insert(qGray(shot.pixel(x, y)) / 8);
    EXPECT_GT(greys.size(), 6u);
}

TEST_F(BoardWindow, WhatWasFittedStaysInViewBesideAPanel) {
    const Id noise = type("noise 2d", {160, 200}), far = type("sine", {600, 200});
    session().apply("move", [&](const Project& p) { return edit::moveNodes(p, session().masterId(), {{far, {4000, 2400}}}); });
    settle();
    board().select({noise});
    key(&board(), Qt::Key_F9);
    const qreal zoom = board().zoom();
    const QPointF at = board().toWidget(board().layout().cards.at(noise).rect.topLeft());
    key(&board(), Qt::Key_F12); // the source opens beside the board
    QCoreApplication::processEvents();
    EXPECT_EQ(board().zoom(), zoom);
    EXPECT_EQ(board().toWidget(board().layout().cards.at(noise).rect.topLeft()), at);
}

TEST_F(BoardWindow, ACardLightsItsLinesAndALineItsCard) {
    const Id noise = type("noise 2d", {80, 120}), sine = type("sine", {320, 120});
    wireTo(noise, "out", sine, "in");
    wireToChannel(sine, "out", "roughness");
    board().select({sine});
    key(&board(), Qt::Key_F12);
    auto& source = part<SourcePanel>();
    ASSERT_TRUE(waitFor([&] { return source.upToDate() && !source.lines().empty(); }, 20000));
    ASSERT_FALSE(source.litLines().empty());
    for (const int k : source.litLines()) EXPECT_EQ(source.lines()[size_t(k)].card, sine);
    EXPECT_NE(source.lines()[size_t(source.litLines().back())].text.find("sin("), std::string::npos)
        << source.lines()[size_t(source.litLines().back())].text;
    // A click on a line of the noise selects it.
    const auto its = std::find_if(source.lines().begin(), source.lines().end(), [&](const SourceLine& l) { return l.card == noise; });
    ASSERT_NE(its, source.lines().end());
    QTextCursor at(source.text()->document()->findBlockByNumber(int(its - source.lines().begin())));
    source.text()->setTextCursor(at);
    source.text()->centerCursor();
    QTest::mouseClick(source.text()->viewport(), Qt::LeftButton, {}, source.text()->cursorRect(at).center() + QPoint(8, 0));
    EXPECT_EQ(board().selection(), std::set<Id>{noise});
    // The same in another language, after an edit as well.
    source.languageBox()->setCurrentIndex(2);
    ASSERT_TRUE(waitFor([&] { return source.upToDate(); }, 20000));
    EXPECT_TRUE(source.text()->toPlainText().contains("SV_Target"));
    source.stageBox()->setCurrentIndex(1);
    ASSERT_TRUE(waitFor([&] { return source.upToDate(); }, 20000));
    EXPECT_TRUE(source.lines().empty()) << "nothing moves the vertices";
    key(&board(), Qt::Key_F12);
    EXPECT_FALSE(source.isVisible());
}

TEST_F(BoardWindow, AMapThatIsDroppedOnANumberIsOfferedWhatReadsIt) {
    const Id map = type("wear = map", {120, 120}), product = type("multiply", {520, 120});
    drag(&board(), pin(map, CardRow::Kind::Output, "out"), board().mapToGlobal(pin(product, CardRow::Kind::Input, "in1")));
    choose("conversionMenu", "Read the map");
    ASSERT_TRUE(node(product).wires.contains("in1"));
    const Id image = node(product).wires.at("in1").node;
    EXPECT_EQ(node(image).kind, "image");
    EXPECT_EQ(node(image).wires.at("map").node, map);
    key(&board(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(node(product).wires.contains("in1"));
    EXPECT_FALSE(graph().find(image)) << "card and wires are one step";
}

TEST_F(BoardWindow, IsComparedWithEarlierStatesTheFileAndOtherBoards) {
    const Id noise = type("noise", {120, 120}), mix = type("mix", {340, 120});
    wireTo(noise, "out", mix, "mix");
    key(&board(), Qt::Key_F12, Qt::ControlModifier | Qt::ShiftModifier);
    auto& panel = part<ComparePanel>();
    ASSERT_TRUE(panel.isVisible());
    // Against the state before the last step: the wire.
    ASSERT_EQ(panel.differences().size(), 1u);
    EXPECT_EQ(panel.differences()[0].card, mix);
    EXPECT_TRUE(panel.list()->item(0)->text().contains("wire into mix from"));
    // Before everything: both cards came.
    panel.against()->setCurrentIndex(session().undoStack()->index() - 1);
    Q_EMIT panel.against()->activated(panel.against()->currentIndex());
    EXPECT_EQ(panel.differences().size(), 2u);
    // Against what is saved: nothing, until something changes; then it follows.
    QString problem;
    ASSERT_TRUE(session().save(folder->filePath("p.huestack"), &problem)) << problem.toStdString();
    key(&board(), Qt::Key_F12, Qt::ControlModifier | Qt::ShiftModifier);
    key(&board(), Qt::Key_F12, Qt::ControlModifier | Qt::ShiftModifier);
    panel.against()->setCurrentIndex(panel.against()->findData("file"));
    Q_EMIT panel.against()->activated(panel.against()->currentIndex());
    EXPECT_TRUE(panel.differences().empty());
    session().apply("mute", [&](const Project& p) { return edit::muteNodes(p, session().masterId(), {noise}, true); });
    ASSERT_EQ(panel.differences().size(), 1u);
    EXPECT_EQ(panel.differences()[0].what, std::vector<std::string>{"muted"});
}

TEST_F(BoardWindow, IsComparedWithAnotherFileThatIsDropped) {
    const Id noise = type("noise", {120, 120}), mix = type("mix", {340, 120});
    wireTo(noise, "out", mix, "mix");
    // A colleague's state of the same project, and what is no project.
    const QString theirs = folder->filePath("theirs.huestack"), broken = folder->filePath("broken.huestack");
    ASSERT_TRUE(saveProject(*edit::removeNodes(project(), session().masterId(), {noise}), theirs.toStdString()));
    QFile(broken).open(QIODevice::WriteOnly);
    key(&board(), Qt::Key_F12, Qt::ControlModifier | Qt::ShiftModifier);
    auto& panel = part<ComparePanel>();
    QMimeData files;
    files.setUrls({QUrl::fromLocalFile(theirs)});
    QDragEnterEvent enter({20, 20}, Qt::CopyAction, &files, Qt::LeftButton, {});
    QApplication::sendEvent(&panel, &enter);
    ASSERT_TRUE(enter.isAccepted());
    QDropEvent drop(QPointF(20, 20), Qt::CopyAction, &files, Qt::LeftButton, {});
    QApplication::sendEvent(&panel, &drop);
    ASSERT_TRUE(waitFor([&] { return panel.against()->currentText().endsWith("in theirs"); }, 10000));
    ASSERT_EQ(panel.differences().size(), 2u) << "the noise came, and the wire from it";
    // It stays chosen while the board changes.
    session().apply("mute", [&](const Project& p) { return edit::muteNodes(p, session().masterId(), {mix}, true); });
    EXPECT_TRUE(panel.against()->currentText().endsWith("in theirs"));
    EXPECT_TRUE(panel.list()->findItems("muted", Qt::MatchContains).size() == 1);
    panel.compareWithFile(broken);
    const auto says = [&](const QString& what) {
        for (const QLabel* l : panel.findChildren<QLabel*>())
            if (l->text().contains(what)) return true;
        return false;
    };
    EXPECT_TRUE(waitFor([&] { return says("broken.huestack") && !says("Reading"); }, 10000)) << "why it cannot be read";
    EXPECT_TRUE(panel.against()->currentText().endsWith("in theirs")) << "and what was chosen stays";
}

TEST_F(BoardWindow, IsReadOutWithItsCardsPortsAndWires) {
    const Id noise = type("noise", {120, 120}), mix = type("mix", {340, 120});
    wireTo(noise, "out", mix, "mix");
    wireToChannel(mix, "out", "base_color");
    rest();
    QAccessibleInterface* spoken = QAccessible::queryAccessibleInterface(&board());
    ASSERT_TRUE(spoken);
    EXPECT_TRUE(spoken->text(QAccessible::Name).contains("2 cards")) << spoken->text(QAccessible::Name).toStdString();
    ASSERT_EQ(spoken->childCount(), 3) << "two cards and the wire between them";
    std::map<QString, QAccessibleInterface*> names;
    for (int k = 0; k < spoken->childCount(); ++k) {
        names[spoken->child(k)->text(QAccessible::Name).section(',', 0, 0)] = spoken->child(k);
        EXPECT_EQ(spoken->indexOfChild(spoken->child(k)), k);
        EXPECT_EQ(spoken->child(k)->parent()->object(), &board());
    }
    ASSERT_TRUE(names.contains("Mix"));
    EXPECT_TRUE(names["Mix"]->text(QAccessible::Name).contains("operations"));
    EXPECT_TRUE(names.contains("Wire from " + QString::fromStdString(cardTitle(project(), *session().master(), noise)) + " to Mix"));
    // Its ports, with what they read.
    QStringList ports;
    for (int k = 0; k < names["Mix"]->childCount(); ++k) ports << names["Mix"]->child(k)->text(QAccessible::Name);
    EXPECT_TRUE(ports.filter("Input mix, wired from").size() == 1) << ports.join("; ").toStdString();
    EXPECT_TRUE(ports.filter("Input bg, ").size() == 1) << ports.join("; ").toStdString();
    // Where it is on the screen, and whether it is chosen.
    const QRect rect = names["Mix"]->rect();
    EXPECT_TRUE(rect.contains(board().mapToGlobal(middle(mix))));
    EXPECT_EQ(spoken->childAt(rect.center().x(), rect.center().y()), names["Mix"]);
    board().select({mix});
    EXPECT_TRUE(names["Mix"]->state().selected);
    session().undoStack()->undo();
    session().undoStack()->undo();
    session().undoStack()->undo();
    rest();
    EXPECT_FALSE(names["Mix"]->isValid()) << "what is gone says so";
}

} // namespace
} // namespace hue::test
