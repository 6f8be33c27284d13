// How the table of instances is looked at: order, columns, names that stay, locks and tags, and who is affected by what is not saved.
#include "app/stations/instances/affected_panel.h"
#include "app/stations/instances/frozen_names.h"
#include "tests/app/instance_table_fixture.h"

#include <QHeaderView>
#include <QInputDialog>
#include <QMenu>
#include <QPushButton>
#include <QScrollBar>
#include <QTreeWidget>

namespace hue {
namespace {

using namespace test;

class InstanceViewTest : public InstanceTableTest {
  protected:
    InstanceModel& model() { return *instances().model(); }
    QStringList names() {
        QStringList out;
        for (QModelIndex row = table().indexAt({2, 2}); row.isValid(); row = table().indexBelow(row))
            out << row.siblingAtColumn(0).data().toString();
        return out;
    }
    void own(const Id& worn, const Id& parameter, float x) {
        ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, worn, parameter, {Value::number(x), {}}); }));
    }
    void choose(const QString& entry) {
        auto& more = *window->findChild<QPushButton*>("instanceMore");
        Q_EMIT more.menu()->aboutToShow();
        for (QAction* action : more.menu()->findChildren<QAction*>())
            if (action->text() == entry) return action->trigger();
        ADD_FAILURE() << "no entry " << entry.toStdString();
    }
};

TEST_F(InstanceViewTest, BrothersAndSistersStandInTheOrderOfAColumn) {
    own("line", wear, 0.9f), own("fleet", wear, 0.1f);
    const QString top = model().index(0, 0).data().toString();
    ASSERT_EQ(names(), (QStringList{top, "Line", "Ochre", "Fleet"}));
    table().setFocus();
    table().setCurrentIndex(cell("line", 0));
    key(&table(), Qt::Key_O, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(names(), (QStringList{top, "Fleet", "Line", "Ochre"})) << "children stay with their parents";
    EXPECT_EQ(model().idAt(table().currentIndex()), "line") << "the cursor stays on its row";
    EXPECT_EQ(table().currentIndex().column(), InstanceModel::FirstParameter);
    // A value that changes moves its row.
    own("fleet", wear, 0.95f);
    EXPECT_EQ(names(), (QStringList{top, "Line", "Ochre", "Fleet"}));
    own("fleet", wear, 0.1f);
    key(&table(), Qt::Key_O, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(names(), (QStringList{top, "Line", "Ochre", "Fleet"})) << "downwards";
    key(&table(), Qt::Key_O, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(model().sortColumn(), -1) << "as they were made";
    // By a click on the heading of the names too.
    auto& frozen = *table().findChild<FrozenNames*>();
    QTest::mouseClick(frozen.header()->viewport(), Qt::LeftButton, {}, {40, 8});
    EXPECT_EQ(names(), (QStringList{top, "Fleet", "Line", "Ochre"}));
}

TEST_F(InstanceViewTest, NamesStayWhereTheyAreWhileColumnsScroll) {
    for (int k = 0; k < 14; ++k)
        session().apply("parameter", [&](const Project& p) {
            Parameter more;
            more.name = "More " + std::to_string(k);
            return edit::addParameter(p, master, more);
        });
    auto& frozen = *table().findChild<FrozenNames*>();
    EXPECT_TRUE(frozen.isVisible());
    EXPECT_EQ(frozen.width(), table().columnWidth(0));
    table().setCurrentIndex(cell("ochre", 15));
    ASSERT_GT(table().horizontalScrollBar()->value(), 0);
    EXPECT_LT(table().visualRect(model().indexOf("ochre")).left(), 0) << "beneath, the column is gone";
    EXPECT_EQ(frozen.visualRect(model().indexOf("ochre")).top(), table().visualRect(model().indexOf("ochre")).top());
    EXPECT_GE(frozen.visualRect(model().indexOf("ochre")).left(), 0);
    // Going left, the cursor is never beneath them.
    for (int k = 0; k < 12; ++k) key(&table(), Qt::Key_Left);
    EXPECT_GE(table().visualRect(table().currentIndex()).left(), frozen.width());
    // Renaming happens where the name is seen.
    table().setCurrentIndex(model().indexOf("fleet"));
    key(&table(), Qt::Key_F2);
    auto* editor = frozen.findChild<QLineEdit*>();
    ASSERT_TRUE(editor);
    // A picture that comes meanwhile does not take away what is typed.
    editor->selectAll();
    QTest::keyClicks(editor, "Depot fleet");
    model().setPicture("fleet", QImage(30, 30, QImage::Format_RGB32));
    EXPECT_EQ(editor->text(), "Depot fleet");
    key(editor, Qt::Key_Return);
    EXPECT_TRUE(waitFor([&] { return project().instance("fleet")->name == "Depot fleet"; }, 5000));
    // Folded here, folded there.
    frozen.collapse(model().indexOf("line"));
    EXPECT_FALSE(table().isExpanded(model().indexOf("line")));
    table().expand(model().indexOf("line"));
    EXPECT_TRUE(frozen.isExpanded(model().indexOf("line")));
}

TEST_F(InstanceViewTest, ColumnsAreHiddenOrOnlyThoseThatDiffer) {
    own("ochre", grime, 0.6f);
    ASSERT_EQ(model().columnCount(), InstanceModel::FirstParameter + 2);
    table().setCurrentIndex(cell("line", 0));
    EXPECT_EQ(model().headerData(InstanceModel::FirstParameter, Qt::Horizontal, Qt::DisplayRole).toString(), "Wear");
    choose("Only what differs");
    ASSERT_EQ(model().columnCount(), InstanceModel::FirstParameter + 1);
    EXPECT_EQ(model().parameterAt(cell("line", 0))->id, grime);
    EXPECT_EQ(model().headerData(InstanceModel::FirstParameter, Qt::Horizontal, Qt::DisplayRole).toString(), "Grime");
    // What is written goes to the column that is seen.
    click(cell("fleet", 0));
    typeValue("0.75");
    EXPECT_FLOAT_EQ(value("fleet", grime), 0.75f);
    EXPECT_FLOAT_EQ(value("fleet", wear), 0.5f);
    choose("All");
    ASSERT_EQ(model().columnCount(), InstanceModel::FirstParameter + 2);
    choose("Wear");
    ASSERT_EQ(model().columnCount(), InstanceModel::FirstParameter + 1);
    EXPECT_EQ(model().parameterAt(cell("line", 0))->id, grime);
    choose("Wear");
    EXPECT_EQ(model().parameterAt(cell("line", 0))->id, wear);
}

TEST_F(InstanceViewTest, AValueIsDraggedThroughRows) {
    own("line", wear, 0.8f);
    click(cell("line", 0));
    const QRect handle = table().handle();
    ASSERT_FALSE(handle.isNull());
    const int before = steps();
    QTest::mousePress(table().viewport(), Qt::LeftButton, {}, handle.center());
    QTest::mouseMove(table().viewport(), table().visualRect(cell("ochre", 0)).center());
    QTest::mouseMove(table().viewport(), table().visualRect(cell("fleet", 0)).center());
    EXPECT_EQ(table().chosenCells().size(), 3u);
    QTest::mouseRelease(table().viewport(), Qt::LeftButton, {}, table().visualRect(cell("fleet", 0)).center());
    EXPECT_EQ(steps(), before + 1);
    EXPECT_FLOAT_EQ(value("fleet", wear), 0.8f);
    EXPECT_TRUE(project().instance("ochre")->own.contains(wear));
    session().undoStack()->undo();
    // Upwards as well.
    own("fleet", grime, 0.9f);
    click(cell("fleet", 1));
    QTest::mousePress(table().viewport(), Qt::LeftButton, {}, table().handle().center());
    QTest::mouseMove(table().viewport(), table().visualRect(cell("line", 1)).center());
    QTest::mouseRelease(table().viewport(), Qt::LeftButton, {}, table().visualRect(cell("line", 1)).center());
    EXPECT_FLOAT_EQ(value("line", grime), 0.9f);
    EXPECT_FLOAT_EQ(value("ochre", grime), 0.9f);
}

TEST_F(InstanceViewTest, LocksAndTagsAreSetFoundAndHeld) {
    click(cell("ochre", 0));
    key(&table(), Qt::Key_L, Qt::ControlModifier);
    EXPECT_TRUE(project().instance("ochre")->locked);
    EXPECT_TRUE(model().indexOf("ochre").data(InstanceModel::LockedRole).toBool());
    QString said;
    QObject::connect(&session(), &Session::said, &table(), [&](const QString& sentence) { said = sentence; });
    typeValue("0.1");
    EXPECT_TRUE(said.contains("locked")) << said.toStdString();
    EXPECT_FLOAT_EQ(value("ochre", wear), 0.5f);
    // With one that is not, both are locked; then both are not.
    click(cell("line", 0));
    click(cell("ochre", 0), Qt::ShiftModifier);
    table().setFocus();
    key(&table(), Qt::Key_L, Qt::ControlModifier);
    EXPECT_TRUE(project().instance("line")->locked);
    table().setFilter("locked");
    EXPECT_FALSE(names().contains("Fleet"));
    table().setFilter({});
    key(&table(), Qt::Key_L, Qt::ControlModifier);
    EXPECT_FALSE(project().instance("ochre")->locked);

    QTimer::singleShot(300, window.get(), [&] {
        if (auto* ask = window->findChild<QInputDialog*>()) ask->setTextValue("depot, old, "), ask->accept();
    });
    key(&table(), Qt::Key_T, Qt::ControlModifier);
    EXPECT_EQ(project().instance("ochre")->tags, (std::vector<std::string>{"depot", "old"}));
    EXPECT_EQ(project().instance("line")->tags.size(), 2u) << "of all that are chosen";
    table().setFilter("old");
    EXPECT_TRUE(names().contains("Ochre"));
    EXPECT_FALSE(names().contains("Fleet"));
    table().setFilter("out of range");
    EXPECT_FALSE(names().contains("Fleet"));
    session().apply("range", [&](const Project& p) {
        Parameter narrow = *p.board(master)->parameter(wear);
        narrow.softMax = 0.6f;
        return edit::changeParameter(p, master, narrow);
    });
    own("fleet", wear, 0.7f);
    table().setFilter("out of range");
    EXPECT_TRUE(names().contains("Fleet"));
    EXPECT_FALSE(names().contains("Ochre"));
}

TEST_F(InstanceViewTest, ChosenRowsStandSideBySideInTheLineupAndGoTogether) {
    click(cell("line", 0));
    click(cell("fleet", 0), Qt::ShiftModifier);
    table().setFocus();
    key(&table(), Qt::Key_L, Qt::ControlModifier | Qt::ShiftModifier);
    const auto& specimens = project().lineup.specimens;
    ASSERT_EQ(specimens.size(), 3u);
    EXPECT_EQ(specimens[0].wears, std::vector<Id>{"line"});
    EXPECT_EQ(specimens[2].wears, std::vector<Id>{"fleet"});
    session().undoStack()->undo();
    EXPECT_NE(project().lineup.specimens.size(), 3u);
    // Removed together, as one step.
    click(cell("line", 0));
    click(cell("ochre", 0), Qt::ShiftModifier);
    const int before = session().undoStack()->index();
    for (auto* b : instances().findChildren<QPushButton*>())
        if (b->text() == "Remove") b->click();
    EXPECT_EQ(session().undoStack()->index(), before + 1);
    EXPECT_FALSE(project().instance("line"));
    EXPECT_FALSE(project().instance("ochre"));
    EXPECT_TRUE(project().instance("fleet"));
}

TEST_F(InstanceViewTest, WhoIsAffectedStandsInTheOrderOfHowMuch) {
    auto& button = *window->findChild<QPushButton*>("affectedButton");
    auto& panel = *window->findChild<AffectedPanel*>();
    session().apply("color", [&](const Project& p) -> Result<Project> {
        for (const auto& [id, node] : p.board(master)->graph.nodes)
            if (const auto reads = node->settings.find("parameter"); reads != node->settings.end() && reads->second == wear)
                return edit::connectChannel(p, master, {id, "out", ""}, "base_color");
        return p;
    });
    own("fleet", wear, 0.2f);
    QString problem;
    ASSERT_TRUE(session().save(folder->filePath("fleet.huestack"), &problem)) << problem.toStdString();
    EXPECT_EQ(button.text(), "Affected");
    key(window.get(), Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(panel.isVisible());
    auto& list = *panel.findChild<QTreeWidget*>("affected");
    EXPECT_EQ(list.topLevelItemCount(), 0);
    own("fleet", wear, 0.25f);
    own("line", wear, 0.95f);
    ASSERT_TRUE(waitFor([&] { return list.topLevelItemCount() == 3 && panel.settled(); }, 60000));
    EXPECT_EQ(button.text(), "Affected: 3");
    QStringList order;
    for (int k = 0; k < 3; ++k) order << list.topLevelItem(k)->text(2).section('\n', 0, 0);
    EXPECT_EQ(order[2], "Fleet") << "it changed least: " << order.join(", ").toStdString();
    EXPECT_GT(list.topLevelItem(0)->text(3).toDouble(), list.topLevelItem(2)->text(3).toDouble());
    EXPECT_GT(list.topLevelItem(2)->text(3).toDouble(), 0.05);
    EXPECT_FALSE(list.topLevelItem(0)->icon(0).isNull());
    // What is seen nowhere is told as that.
    own("fleet", wear, 0.2f);
    own("fleet", grime, 0.9f);
    ASSERT_TRUE(waitFor([&] { return list.topLevelItemCount() == 3 && panel.settled(); }, 60000));
    EXPECT_EQ(list.topLevelItem(2)->text(3), "same");
    // Enter leads to the row; a save ends it.
    list.setCurrentItem(list.topLevelItem(2));
    list.setFocus();
    key(&list, Qt::Key_Return);
    EXPECT_EQ(model().idAt(table().currentIndex()), "fleet");
    ASSERT_TRUE(session().save(folder->filePath("fleet.huestack"), &problem));
    ASSERT_TRUE(waitFor([&] { return list.topLevelItemCount() == 0; }, 20000));
    EXPECT_EQ(button.text(), "Affected");
}

} // namespace
} // namespace hue
