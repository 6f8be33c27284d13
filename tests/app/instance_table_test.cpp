// The table of instances by keys and mouse: many cells at once, the clipboard, parents, tables for spreadsheets.
#include "app/stations/instances/parent_dialog.h"
#include "app/stations/instances/variations_dialog.h"
#include "tests/app/instance_table_fixture.h"

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QFile>
#include <QGuiApplication>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QSpinBox>

namespace hue {
namespace {

using namespace test;

TEST_F(InstanceTableTest, ArithmeticChangesAllChosenCellsAsOneStep) {
    click(cell("line", 0));
    click(cell("fleet", 0), Qt::ShiftModifier);
    ASSERT_EQ(table().chosenCells().size(), 3u) << "Line, Ochre and Fleet";
    const int before = steps();
    typeValue("*1.5");
    EXPECT_EQ(steps(), before + 1);
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(value(id, wear), 0.75f) << id;
    EXPECT_TRUE(table().hasFocus()) << "so that the arrows go on";
    EXPECT_EQ(table().chosenCells().size(), 3u);
    typeValue("+-0.5");
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(value(id, wear), 0.25f) << id;
    // What is no value is said, and stays to be mended.
    QString said;
    QObject::connect(&session(), &Session::said, &table(), [&](const QString& sentence) { said = sentence; });
    typeValue("a lot");
    EXPECT_TRUE(said.contains("a number")) << said.toStdString();
    EXPECT_EQ(window->findChild<QLineEdit*>("instanceWords")->text(), "a lot");
    EXPECT_EQ(steps(), before + 2);
    // Delete gives all of them back.
    table().setFocus();
    key(&table(), Qt::Key_Delete);
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(value(id, wear), 0.5f) << id;
    EXPECT_EQ(steps(), before + 3);
    session().undoStack()->undo();
    EXPECT_FLOAT_EQ(value("fleet", wear), 0.25f);
}

TEST_F(InstanceTableTest, TheClipboardHoldsWhatASpreadsheetReadsAndWrites) {
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, "line", wear, {Value::number(0.1f), {}}); }));
    click(cell("line", 0));
    click(cell("ochre", 1), Qt::ShiftModifier);
    key(window.get(), Qt::Key_C, Qt::ControlModifier);
    EXPECT_EQ(QGuiApplication::clipboard()->text(), "0.1\t0.25\n0.1\t0.25\n");
    // Over one cell a table reaches as far as it goes.
    QGuiApplication::clipboard()->setText("0,3\t0.4\r\n0.6\t0.7\r\n");
    click(cell("ochre", 0));
    const int before = steps();
    key(window.get(), Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(steps(), before + 1);
    EXPECT_FLOAT_EQ(value("ochre", wear), 0.3f);
    EXPECT_FLOAT_EQ(value("ochre", grime), 0.4f);
    EXPECT_FLOAT_EQ(value("fleet", wear), 0.6f);
    EXPECT_FLOAT_EQ(value("fleet", grime), 0.7f);
    EXPECT_FLOAT_EQ(value("line", wear), 0.1f);
    // One value fills what is chosen.
    QGuiApplication::clipboard()->setText("0.9");
    click(cell("line", 1));
    click(cell("fleet", 1), Qt::ShiftModifier);
    key(window.get(), Qt::Key_V, Qt::ControlModifier);
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(value(id, grime), 0.9f) << id;
    const int now = steps();
    QGuiApplication::clipboard()->setText("much");
    key(window.get(), Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(steps(), now);
}

TEST_F(InstanceTableTest, FillDownRepeatsTheHighestChosenValue) {
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, "line", wear, {Value::number(0.8f), {}}); }));
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, "ochre", wear, {Value::number(0.1f), {}}); }));
    click(cell("line", 0));
    click(cell("fleet", 0), Qt::ShiftModifier);
    key(window.get(), Qt::Key_D, Qt::ControlModifier);
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(value(id, wear), 0.8f) << id;
}

TEST_F(InstanceTableTest, AFilterKeepsRowsAndWhatTheyDeriveFrom) {
    const auto shown = [&](const Id& id) {
        const QModelIndex row = instances().model()->indexOf(id);
        return !table().isRowHidden(row.row(), row.parent());
    };
    key(window.get(), Qt::Key_F, Qt::ControlModifier);
    auto& line = *window->findChild<QLineEdit*>("instanceFilter");
    ASSERT_TRUE(line.hasFocus());
    QTest::keyClicks(&line, "ochr");
    EXPECT_TRUE(shown("ochre") && shown("line") && shown(master));
    EXPECT_FALSE(shown("fleet"));
    line.setText("own");
    EXPECT_FALSE(shown("ochre") || shown("fleet"));
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, "fleet", wear, {Value::number(0.8f), {}}); }));
    line.setText("");
    line.setText("own");
    EXPECT_TRUE(shown("fleet"));
    // It holds when rows come and go.
    session().apply("new", [&](const Project& p) { return edit::deriveInstance(p, "line", "later"); });
    EXPECT_FALSE(shown("later"));
    line.clear();
    EXPECT_TRUE(shown("later") && shown("ochre"));
}

TEST_F(InstanceTableTest, AnotherParentIsTakenAfterItWasSaidWhatChanges) {
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, "line", wear, {Value::number(0.8f), {}}); }));
    click(cell("ochre", 0));
    QTimer::singleShot(0, [&] {
        auto* dialog = qobject_cast<ParentDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(dialog);
        auto& parents = *dialog->findChild<QComboBox*>("parents");
        EXPECT_EQ(parents.currentData().toString(), "line");
        EXPECT_EQ(parents.findData("ochre"), -1) << "not itself";
        parents.setCurrentIndex(parents.findData("fleet"));
        const QString said = dialog->findChild<QLabel*>("parentSaid")->text();
        EXPECT_TRUE(said.contains("Inherited anew, with another value: Wear")) << said.toStdString();
        EXPECT_FALSE(said.contains("Grime"));
        dialog->accept();
    });
    QMenu* more = window->findChild<QPushButton*>("instanceMore")->menu();
    Q_EMIT more->aboutToShow();
    for (QAction* action : more->actions())
        if (action->text().startsWith("Another parent")) {
            action->trigger();
            break;
        }
    EXPECT_EQ(project().instance("ochre")->parent, "fleet");
    EXPECT_FLOAT_EQ(value("ochre", wear), 0.5f);
    session().undoStack()->undo();
    EXPECT_EQ(project().instance("ochre")->parent, "line");
}

TEST_F(InstanceTableTest, ValuesGoUpAndDown) {
    const auto more = [&](const QString& entry) {
        QMenu* menu = window->findChild<QPushButton*>("instanceMore")->menu();
        Q_EMIT menu->aboutToShow();
        for (QAction* action : menu->actions())
            if (action->text() == entry) return action->trigger();
        FAIL() << entry.toStdString();
    };
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, "ochre", wear, {Value::number(0.8f), {}}); }));
    click(cell("ochre", 0));
    more("Give the value to the parent");
    EXPECT_TRUE(project().instance("ochre")->own.empty());
    EXPECT_FLOAT_EQ(value("line", wear), 0.8f);
    click(cell(master, 0));
    more("Let all below inherit it");
    EXPECT_FLOAT_EQ(value("ochre", wear), 0.5f);
    EXPECT_TRUE(project().instance("line")->own.empty());
}

TEST_F(InstanceTableTest, VariationsAreMadeWithinRangesAsOneStep) {
    click(cell("line", 0));
    const int before = steps();
    QTimer::singleShot(0, [&] {
        auto* dialog = qobject_cast<VariationsDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(dialog);
        const auto& said = *dialog->findChild<QLabel*>("varySaid");
        EXPECT_TRUE(said.text().contains("at least one")) << "nothing varies yet";
        auto& low = *dialog->findChild<QLineEdit*>("low_wear");
        low.selectAll();
        QTest::keyClicks(&low, "0.2");
        EXPECT_TRUE(dialog->findChild<QCheckBox*>("varies_wear")->isChecked()) << "who types a range means it";
        dialog->findChild<QLineEdit*>("high_wear")->setText("much");
        EXPECT_TRUE(said.text().contains("a number")) << said.text().toStdString();
        dialog->findChild<QLineEdit*>("high_wear")->setText("0.6");
        dialog->findChild<QSpinBox*>("varyCount")->setValue(3);
        dialog->findChild<QCheckBox*>("varyGradual")->setChecked(true);
        dialog->accept();
    });
    QMenu* more = window->findChild<QPushButton*>("instanceMore")->menu();
    Q_EMIT more->aboutToShow();
    for (QAction* action : more->actions())
        if (action->text().startsWith("Variations")) {
            action->trigger();
            break;
        }
    EXPECT_EQ(steps(), before + 1);
    ASSERT_EQ(project().instances.size(), 6u);
    for (size_t k = 0; k < 3; ++k) {
        const Instance& made = *project().instances[3 + k];
        EXPECT_EQ(made.parent, "line");
        EXPECT_EQ(made.name, "Line " + std::to_string(k + 1));
        EXPECT_FLOAT_EQ(made.own.at(wear).value[0], 0.2f + 0.2f * float(k));
        EXPECT_FALSE(made.own.contains(grime));
    }
    EXPECT_EQ(session().target(), project().instances[3]->id) << "the first is chosen";
    session().undoStack()->undo();
    EXPECT_EQ(project().instances.size(), 3u);
}

TEST_F(InstanceTableTest, VariationsAreSeenFirstAndTheGoodOnesMade) {
    // Wear is to be seen: as how metallic it is.
    session().apply("metallic", [&](const Project& p) {
        const Node card = parameterCard(*p.master(master)->parameter(wear));
        const Result<Project> with = edit::addNode(p, master, card);
        return with ? edit::connectChannel(*with, master, {card.id, "out", {}}, "metallic") : with;
    });
    click(cell("line", 0));
    QTimer::singleShot(0, [&] {
        auto* dialog = qobject_cast<VariationsDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(dialog);
        QListWidget& pictures = *dialog->pictures();
        dialog->findChild<QCheckBox*>("varyGradual")->setChecked(true);
        dialog->findChild<QLineEdit*>("low_wear")->setText("0");
        dialog->findChild<QLineEdit*>("high_wear")->setText("0.8");
        dialog->findChild<QCheckBox*>("varies_wear")->setChecked(true);
        dialog->findChild<QSpinBox*>("varyCount")->setValue(5);
        ASSERT_EQ(pictures.count(), 5);
        const auto drawn = [&](int k) { return !pictures.item(k)->icon().isNull() && !pictures.item(k)->icon().pixmap(96).isNull(); };
        EXPECT_TRUE(waitFor([&] { return drawn(4) && pictures.item(4)->text().contains("5"); }, 30000)) << "without anybody asking";
        EXPECT_NE(pictures.item(0)->icon().pixmap(96).toImage(), pictures.item(4)->icon().pixmap(96).toImage()) << "they differ";
        // The first and the third are not wanted; by the keyboard.
        pictures.setFocus();
        for (const int k : {0, 2}) {
            pictures.setCurrentRow(k);
            key(&pictures, Qt::Key_Space);
        }
        EXPECT_EQ(dialog->findChild<QLabel*>("varySaid")->text(), "3 instances");
        dialog->accept();
    });
    QMenu* more = window->findChild<QPushButton*>("instanceMore")->menu();
    Q_EMIT more->aboutToShow();
    for (QAction* action : more->actions())
        if (action->text().startsWith("Variations")) {
            action->trigger();
            break;
        }
    ASSERT_EQ(project().instances.size(), 6u);
    const float wanted[] = {0.2f, 0.6f, 0.8f};
    for (size_t k = 0; k < 3; ++k) EXPECT_FLOAT_EQ(project().instances[3 + k]->own.at(wear).value[0], wanted[k]);
}

TEST_F(InstanceTableTest, ACellTakesArithmeticThatIsTypedOverIt) {
    click(cell("line", 0));
    QTest::keyClicks(&table(), "*");
    auto* editor = table().findChild<QLineEdit*>();
    ASSERT_TRUE(editor);
    editor->setText("*1.6");
    key(editor, Qt::Key_Return);
    ASSERT_TRUE(waitFor([&] { return value("line", wear) > 0.79f; }, 3000));
    EXPECT_FLOAT_EQ(value("line", wear), 0.8f);
}

} // namespace
} // namespace hue
