// A formula card on the board: typed, edited beside the card, with its mistakes.
#include "app/stations/graph/formula_editor.h"
#include "tests/app/app_fixture.h"

#include <QLabel>
#include <QPlainTextEdit>

namespace hue::test {
namespace {

class FormulaOnTheBoard : public Window {
  protected:
    FormulaEditor& editor() { return part<FormulaEditor>(); }
    QPlainTextEdit* text() { return editor().findChild<QPlainTextEdit*>("formulaText"); }
    QString said() { return editor().findChild<QLabel*>("formulaProblem")->text(); }
    std::string formula(const Id& card) { return graph().nodes.at(card)->settings.at("formula"); }
    void openOn(const Id& card) {
        board().select({card});
        board().setFocus();
        key(&board(), Qt::Key_Return);
        ASSERT_TRUE(editor().isVisible());
        ASSERT_TRUE(waitFor([&] { return text()->hasFocus(); }, 5000));
    }
};

TEST_F(FormulaOnTheBoard, IsTypedAndHasThePortsThatItReads) {
    const Id card = type("=a*0.5+b", {420, 160});
    const CardLayout& layout = board().layout().cards.at(card);
    EXPECT_TRUE(layout.row(CardRow::Kind::Input, "a"));
    EXPECT_TRUE(layout.row(CardRow::Kind::Input, "b"));
    EXPECT_FALSE(layout.row(CardRow::Kind::Input, "c"));
    EXPECT_EQ(cardTitle(session().project(), *session().master(), *graph().nodes.at(card)), "a*0.5+b");
    wireToChannel(card, "out", "roughness");
    const Id half = type("0.8", {160, 160});
    wireTo(half, "out", card, "a");
    EXPECT_EQ(graph().nodes.at(card)->wires.at("a").node, half);
}

TEST_F(FormulaOnTheBoard, IsEditedInLinesAsOneStepOfUndo) {
    const Id card = type("=a", {420, 160});
    openOn(card);
    QTest::keyClicks(text(), "let x = c * 2");
    key(text(), Qt::Key_Return);
    QTest::qWait(250); // what is typed is taken meanwhile
    QTest::keyClicks(text(), "x + d");
    ASSERT_TRUE(waitFor([&] { return formula(card) == "let x = c * 2\nx + d"; }, 5000)) << "the picture follows while one types";
    EXPECT_TRUE(board().layout().cards.at(card).row(CardRow::Kind::Input, "d"));
    EXPECT_TRUE(editor().isVisible());
    key(text(), Qt::Key_Return, Qt::ControlModifier);
    EXPECT_FALSE(editor().isVisible());
    EXPECT_TRUE(board().hasFocus());
    session().undoStack()->undo();
    EXPECT_EQ(formula(card), "a") << "one step";
}

TEST_F(FormulaOnTheBoard, SaysAMistakeAndKeepsTheLastGoodPicture) {
    const Id card = type("=0.5", {420, 160});
    openOn(card);
    QTest::keyClicks(text(), "0.5 * (");
    EXPECT_TRUE(said().contains("line 1, column 8")) << said().toStdString();
    QTest::qWait(300);
    EXPECT_EQ(formula(card), "0.5") << "what cannot be read is not taken";
    key(text(), Qt::Key_Escape);
    EXPECT_FALSE(editor().isVisible());
    EXPECT_EQ(formula(card), "0.5");

    // What only shows when it is compiled is said as well.
    wireToChannel(card, "out", "roughness");
    openOn(card);
    QTest::keyClicks(text(), "colour * 2");
    ASSERT_TRUE(waitFor([&] { return said().contains("nothing is called colour"); }, 10000)) << said().toStdString();
    key(text(), Qt::Key_Escape);
    EXPECT_EQ(formula(card), "0.5") << "Escape brings back what was there";
}

TEST_F(FormulaOnTheBoard, KeepsWhatWasTypedWhenAnotherPlaceIsClicked) {
    const Id card = type("=a", {420, 160});
    openOn(card);
    QTest::keyClicks(text(), "a * (b");
    QTest::mouseClick(&board(), Qt::LeftButton, {}, {700, 60});
    board().setFocus(Qt::MouseFocusReason);
    ASSERT_TRUE(waitFor([&] { return !editor().isVisible(); }, 5000));
    EXPECT_EQ(formula(card), "a * (b") << "nothing is lost; the card says what is wrong";
    settle();
}

} // namespace
} // namespace hue::test
