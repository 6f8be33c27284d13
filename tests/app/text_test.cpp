// The board as text beside the board: typed with keys, followed by either side.
#include "app/stations/graph/text_panel.h"
#include "tests/app/app_fixture.h"

#include <QClipboard>
#include <QLabel>
#include <QPlainTextEdit>
#include <QTextBlock>

namespace hue::test {
namespace {

class TextBesideTheBoard : public Window {
  protected:
    TextPanel& panel() { return part<TextPanel>(); }
    QPlainTextEdit* text() { return panel().text(); }
    std::string now() { return text()->toPlainText().toStdString(); }
    bool says(const std::string& part) {
        return waitFor([&] { return now().find(part) != std::string::npos; }, 5000);
    }
    void open() {
        board().setFocus();
        key(&board(), Qt::Key_F12, Qt::ControlModifier);
        ASSERT_TRUE(panel().isVisible());
        ASSERT_TRUE(waitFor([&] { return text()->hasFocus(); }, 5000));
        rest();
    }
    void typeAtEnd(const char* lines) {
        text()->moveCursor(QTextCursor::End);
        for (const char* c = lines; *c; ++c) {
            if (*c == '\n') key(text(), Qt::Key_Return);
            else QTest::keyClick(text(), *c);
        }
    }
    size_t cards(const std::string& kind) {
        size_t n = 0;
        for (const auto& [id, node] : graph().nodes) n += node->kind == kind;
        return n;
    }
    void cursorTo(const char* word) {
        QTextCursor cursor(text()->document());
        cursor.setPosition(int(now().find(word)));
        text()->setTextCursor(cursor);
    }
};

TEST_F(TextBesideTheBoard, LinesThatAreTypedBecomeCardsAsOneStepOfUndo) {
    const Id grain = type("noise 2d", {160, 120});
    wireToChannel(grain, "out", "roughness");
    open();
    ASSERT_TRUE(says("noise_2d = noise_2d()"));
    ASSERT_TRUE(says("roughness = noise_2d"));
    typeAtEnd("// matt\n");
    typeAtEnd("soft = smoothstep(0.2, 0.8, noise_2d) * 0.5\nmetallic = soft");
    ASSERT_TRUE(waitFor([&] { return graph().channelWires.contains("metallic"); }, 5000));
    EXPECT_EQ(cards("formula"), 1u);
    EXPECT_EQ(graph().nodes.at(graph().channelWires.at("metallic").node)->wires.at("a").node, grain);
    EXPECT_EQ(panel().wrongLines(), std::vector<int>{});
    // Ctrl+Z in the text is the project's.
    key(text(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(cards("formula"), 0u);
    ASSERT_TRUE(waitFor([&] { return now().find("soft") == std::string::npos; }, 5000)) << now();
    key(text(), Qt::Key_Y, Qt::ControlModifier);
    EXPECT_EQ(cards("formula"), 1u);
    ASSERT_TRUE(says("// matt")) << "the remark comes back as well";
}

TEST_F(TextBesideTheBoard, AMistakeIsMarkedAndLeavesTheBoardAlone) {
    const Id grain = type("noise 2d", {160, 120});
    wireToChannel(grain, "out", "roughness");
    open();
    ASSERT_TRUE(says("roughness = noise_2d"));
    const Graph before = graph();
    typeAtEnd("x = nois_2d(");
    ASSERT_TRUE(waitFor([&] { return !panel().wrongLines().empty(); }, 5000));
    EXPECT_TRUE(panel().about().contains("line 4")) << panel().about().toStdString();
    EXPECT_EQ(graph().nodes, before.nodes);
    // Work on the board meanwhile takes nothing of what was typed.
    session().apply("x",
                    [&](const Project& p) { return edit::setConstant(p, session().masterId(), grain, "pivot", Value::number(0.25f)); });
    rest();
    EXPECT_NE(now().find("nois_2d("), std::string::npos);
    key(text(), Qt::Key_Escape);
    ASSERT_TRUE(waitFor([&] { return now().find("nois_2d(") == std::string::npos; }, 5000));
    ASSERT_TRUE(says("pivot: 0.25")) << "and the board's change is there now";
    EXPECT_TRUE(panel().wrongLines().empty());
}

TEST_F(TextBesideTheBoard, TheTextFollowsTheBoardAndKeepsItsRemarks) {
    const Id grain = type("noise 2d", {160, 120});
    open();
    ASSERT_TRUE(says("noise_2d = noise_2d()"));
    typeAtEnd("// the ground\n");
    ASSERT_TRUE(waitFor([&] { return !graph().lines.text.empty(); }, 5000)) << "what is written stays with the board";
    const Id half = type("0.75", {420, 120});
    ASSERT_TRUE(says("= 0.75"));
    session().apply("x", [&](const Project& p) { return edit::renameNode(p, session().masterId(), grain, "Stone grain"); });
    ASSERT_TRUE(says("stone_grain = noise_2d()"));
    EXPECT_NE(now().find("// the ground"), std::string::npos);
    // Saved and opened again, the remarks are there.
    const QString file = folder->filePath("text.huestack");
    ASSERT_TRUE(window->saveTo(file));
    ASSERT_TRUE(window->openFile(file));
    ASSERT_TRUE(says("// the ground"));
    EXPECT_NE(now().find("stone_grain = noise_2d()"), std::string::npos);
    board().select({half});
    board().removeSelection();
    ASSERT_TRUE(waitFor([&] { return now().find("0.75") == std::string::npos; }, 5000));
}

TEST_F(TextBesideTheBoard, TheCursorSelectsTheCardAndTheSelectionShowsItsLine) {
    const Id a = type("noise 2d", {160, 120}), b = type("worley", {420, 260});
    open();
    ASSERT_TRUE(says("worley_noise"));
    cursorTo("worley_noise = ");
    EXPECT_EQ(board().selection(), std::set<Id>{b});
    cursorTo("noise_2d = ");
    EXPECT_EQ(board().selection(), std::set<Id>{a});
    EXPECT_TRUE(text()->hasFocus()) << "one goes on writing";
    board().setFocus();
    board().select({b});
    EXPECT_EQ(text()->textCursor().block().text(), "worley_noise = worley_noise()");
}

TEST_F(TextBesideTheBoard, CardsArePastedAsLinesAndLinesAsCards) {
    const Id a = type("0.125", {160, 120}), b = type("sine", {420, 120});
    wireTo(a, "out", b, "in");
    board().select({a, b});
    board().copySelection();
    open();
    text()->moveCursor(QTextCursor::End);
    key(text(), Qt::Key_V, Qt::ControlModifier);
    ASSERT_TRUE(waitFor([&] { return cards("sine") == 2; }, 5000)) << now();
    // Lines from anywhere, on the board.
    QApplication::clipboard()->setText("glow = worley_noise(scale: 3)\nhalf_glow = glow * 0.5\n");
    board().setFocus();
    key(&board(), Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(cards("worley_noise"), 1u);
    EXPECT_EQ(board().selection().size(), 2u) << "what was pasted is selected";
    ASSERT_TRUE(says("half_glow = glow * 0.5"));
    QApplication::clipboard()->setText("glow = wurley(scale: 3)\n");
    const size_t all = graph().nodes.size();
    board().paste();
    EXPECT_EQ(graph().nodes.size(), all);
}

} // namespace
} // namespace hue::test
