// Map sets as parameters: typed on the board, chosen on the sheet, taken of by the menu of a map, and placed as cards of their maps.
#include "app/stations/graph/parameter_sheet.h"
#include "tests/app/app_fixture.h"
#include "tests/app/instance_table_fixture.h"

#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;

class MapSetsWindow : public Window {
  protected:
    void SetUp() override {
        Window::SetUp();
        session().apply("maps", [&](const Project& p) {
            Result<Project> next = p;
            for (const char* set : {"Cobbles", "Slabs"})
                for (const auto& [role, kind] : {std::pair{"base color", MapKind::Color}, {"normal", MapKind::Normal}}) {
                    MapFile m;
                    m.id = m.name = std::string(set) + " " + role;
                    m.path = m.id + ".png", m.set = set, m.role = role, m.kind = kind;
                    if (next) next = edit::addMap(*next, m);
                }
            return next;
        });
        type("stones = color map", {80, 60});
        type("normal = normal map", {80, 200});
        settle();
    }
    ParameterRow& row(const std::string& name) {
        for (const Parameter& p : session().master()->parameters)
            if (p.name == name) return *sheet().row(p.id);
        ADD_FAILURE() << "no parameter " << name;
        return *sheet().row(session().master()->parameters[0].id);
    }
    std::string shown(const std::string& name) { return resolve(project(), session().tuned()).values.at(row(name).parameter()).value.map; }
    QAction* entry(QWidget& of, const QString& name) {
        for (QMenu* menu : of.findChildren<QMenu*>())
            for (QAction* a : menu->actions())
                if (a->text() == name && !a->menu()) return a;
        return nullptr;
    }
    void menuOf(ParameterRow& row) {
        QContextMenuEvent event(QContextMenuEvent::Keyboard, {20, 8}, row.mapToGlobal(QPoint(20, 8)));
        QApplication::sendEvent(&row, &event);
    }
    QPushButton& button(ParameterRow& row) { return *row.findChild<QPushButton*>(); }
};

TEST_F(MapSetsWindow, ASetIsTypedTakenOfAndChosen) {
    const size_t cards = graph().nodes.size();
    QTest::mouseClick(&board(), Qt::LeftButton, {}, {80, 320});
    board().setFocus();
    QTest::keyClicks(&board(), "g");
    QTest::keyClicks(board().addLine()->line(), "round = map set");
    key(board().addLine()->line(), Qt::Key_Return);
    settle();
    EXPECT_EQ(graph().nodes.size(), cards) << "a set has no card";
    EXPECT_EQ(session().master()->parameters.back().type, ParameterType::MapSet);
    EXPECT_TRUE(row("Ground").toolTip().contains("No map is taken of it yet"));
    for (const char* map : {"Stones", "Normal"}) {
        menuOf(row(map));
        QAction* of = entry(row(map), "Ground");
        ASSERT_TRUE(of) << map;
        of->trigger();
        QCoreApplication::processEvents();
    }
    EXPECT_TRUE(row("Ground").toolTip().contains("Stones, Normal")) << row("Ground").toolTip().toStdString();
    // Chosen with the keyboard: the button, and the entry of its menu.
    QPushButton& choose = button(row("Ground"));
    EXPECT_EQ(choose.text(), "no set");
    choose.setFocus();
    QTest::keyClick(&choose, Qt::Key_Space);
    QAction* slabs = entry(row("Ground"), "Slabs");
    ASSERT_TRUE(slabs);
    slabs->trigger();
    EXPECT_EQ(button(row("Ground")).text(), "Slabs");
    EXPECT_EQ(shown("Stones"), "Slabs base color");
    EXPECT_EQ(shown("Normal"), "Slabs normal");
    EXPECT_EQ(button(row("Stones")).text(), "Slabs base color") << "the row of the map says what it is";
    EXPECT_TRUE(row("Stones").toolTip().contains("of the set Slabs, by Ground"));
    session().undoStack()->undo();
    EXPECT_EQ(shown("Stones"), "");
}

TEST_F(MapSetsWindow, OneParameterComesForAllMapsThatHaveNone) {
    auto* button = sheet().findChild<QAbstractButton*>("mapSetButton");
    ASSERT_TRUE(button && button->isVisibleTo(&sheet()));
    QMenu* menu = button->findChild<QMenu*>();
    if (!menu) menu = qobject_cast<QPushButton*>(button) ? qobject_cast<QPushButton*>(button)->menu() : nullptr;
    ASSERT_TRUE(menu);
    Q_EMIT menu->aboutToShow();
    QAction* one = nullptr;
    for (QAction* a : menu->actions())
        if (a->text() == "Choose the set by one parameter") one = a;
    ASSERT_TRUE(one);
    const int steps = session().undoStack()->count();
    one->trigger();
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
    const auto& all = session().master()->parameters;
    EXPECT_EQ(all[0].name, "Map set") << "above the first of its maps";
    for (size_t k = 1; k < 3; ++k) EXPECT_EQ(all[k].ofSet, all[0].id);
}

TEST_F(MapSetsWindow, AnInstanceInheritsMapsOfItsSetUntilItHasItsOwn) {
    session().apply("a set", [&](const Project& p) -> Result<Project> {
        Parameter set;
        set.id = "set", set.name = "Ground", set.type = ParameterType::MapSet;
        const auto& all = session().master()->parameters;
        const Result<Project> with = edit::addParameter(p, session().masterId(), set);
        return with ? edit::takeOfSet(*with, session().masterId(), {all[0].id, all[1].id}, "set") : with;
    });
    session().apply("an instance", [&](const Project& p) { return edit::deriveInstance(p, session().masterId(), "i"); });
    session().setTarget("i");
    QCoreApplication::processEvents();
    session().setTunedValue("a set", "set", {{}, "Cobbles"});
    QCoreApplication::processEvents();
    EXPECT_TRUE(row("Ground").returnButton()->isVisibleTo(&row("Ground")));
    EXPECT_FALSE(row("Stones").returnButton()->isVisibleTo(&row("Stones"))) << "the map is the set's, not an own one";
    session().setTunedValue("a map", row("Stones").parameter(), {{}, "Slabs base color"});
    QCoreApplication::processEvents();
    ASSERT_TRUE(row("Stones").returnButton()->isVisibleTo(&row("Stones")));
    QTest::mouseClick(row("Stones").returnButton(), Qt::LeftButton);
    EXPECT_EQ(shown("Stones"), "Cobbles base color");
}

} // namespace
} // namespace hue
