// Who wears a new instance, and who gets what is tuned.
#include "core/edits/wearing.h"
#include "tests/app/app_fixture.h"

#include <QComboBox>
#include <QMenu>
#include <QSettings>

namespace hue {
namespace {

using namespace test;

/// Line is worn by the first two of three specimens.
class WearingTest : public Window {
  protected:
    void SetUp() override {
        Window::SetUp();
        type("wear = 0.5, 0 to 1", {80, 60});
        master = session().masterId(), wear = session().master()->parameters[0].id;
        session().apply("line", [&](const Project& p) -> Result<Project> {
            Instance i;
            i.id = "line", i.name = "Line", i.parent = master;
            Result<Project> next = edit::addInstance(p, i);
            if (next) next->lineup.specimens = {{"shape:sphere", {"line"}}, {"shape:cube", {"line"}}, {"shape:plane", {master}}};
            return next;
        });
        settle();
    }
    void TearDown() override {
        QSettings().remove("wearing/ownCopies");
        Window::TearDown();
    }
    using Specimens = std::vector<size_t>;
    Specimens wearing(const Id& worn) { return specimensWearing(project(), worn); }
    QComboBox& changes() { return *window->findChild<QComboBox*>("sheetChanges"); }
    ValueField& field() { return *sheet().row(wear)->field(); }
    Id master, wear;
};

TEST_F(WearingTest, TheSpecimenThatIsTunedWearsTheNewInstance) {
    session().setTarget("line", 1);
    board().setFocus();
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id made = session().target();
    ASSERT_NE(made, "line");
    EXPECT_EQ(wearing(made), Specimens{1});
    EXPECT_EQ(wearing("line"), Specimens{0});
    session().undoStack()->undo();
    EXPECT_EQ(wearing("line"), (Specimens{0, 1})) << "one step";
    // The only one that wears the parent needs no choosing.
    session().setTarget(master);
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    EXPECT_EQ(wearing(session().target()), Specimens{2});
}

TEST_F(WearingTest, WhoWearsItIsAskedWhereSeveralDo) {
    for (const auto& [entry, specimens] :
         {std::pair<QString, Specimens>{"Specimen 2 (cube)", {1}}, {"All 2", {0, 1}}, {"Nobody yet", {}}}) {
        session().setTarget("line");
        board().setFocus();
        key(window.get(), Qt::Key_I, Qt::ControlModifier);
        auto* menu = window->findChild<QMenu*>("whoWears");
        ASSERT_TRUE(menu) << entry.toStdString();
        EXPECT_EQ(session().target(), "line") << "nothing is made yet";
        for (QAction* action : menu->actions())
            if (action->text() == entry) action->trigger();
        menu->close();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        ASSERT_NE(session().target(), "line") << entry.toStdString();
        EXPECT_EQ(wearing(session().target()), specimens);
        session().undoStack()->undo();
    }
}

TEST_F(WearingTest, WhatSeveralWearChangesForAllOrForOneAsIsRemembered) {
    session().setTarget(master);
    EXPECT_FALSE(changes().isVisible());
    session().setTarget("line", 1);
    ASSERT_TRUE(changes().isVisible());
    EXPECT_EQ(changes().currentText(), "change all 2 that wear it");
    field().take(Value::number(0.75f));
    EXPECT_FLOAT_EQ(project().instance("line")->own.at(wear).value[0], 0.75f);
    const size_t before = project().instances.size();
    const int steps = session().undoStack()->count();
    changes().setCurrentIndex(1);
    Q_EMIT changes().activated(1);
    EXPECT_EQ(changes().currentText(), "make a copy for specimen 2");
    // A drag makes one copy, and is one step.
    field().setFocus();
    key(&field(), Qt::Key_Right);
    key(&field(), Qt::Key_Right);
    EXPECT_EQ(project().instances.size(), before + 1);
    const Id copy = session().target();
    ASSERT_NE(copy, "line");
    EXPECT_EQ(wearing(copy), Specimens{1});
    EXPECT_FLOAT_EQ(project().instance(copy)->own.at(wear).value[0], 0.77f);
    EXPECT_FLOAT_EQ(project().instance("line")->own.at(wear).value[0], 0.75f);
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
    EXPECT_FALSE(changes().isVisible()) << "one alone wears the copy";
    // The choice is there the next time, and after a start.
    session().undoStack()->undo();
    session().setTarget("line", 0);
    EXPECT_EQ(changes().currentText(), "make a copy for specimen 1");
    EXPECT_TRUE(QSettings().value("wearing/ownCopies").toBool());
}

} // namespace
} // namespace hue
