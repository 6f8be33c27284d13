// Shared parameters, presets and map sets in the window.
#include "app/stations/graph/parameter_dialog.h"
#include "app/window/shared_dialog.h"
#include "tests/app/app_fixture.h"

#include <QComboBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;

class SharedParametersTest : public Window {
  protected:
    SharedDialog& open() {
        key(window.get(), Qt::Key_S, Qt::ControlModifier | Qt::AltModifier);
        return *window->findChild<SharedDialog*>();
    }
    template <class T> T& in(QWidget& of, const char* name) { return *of.findChild<T*>(name); }
    void write(QLineEdit& line, const QString& words) {
        line.setFocus();
        line.selectAll();
        QTest::keyClicks(&line, words);
        key(&line, Qt::Key_Return);
    }
    QMenu& menuOf(const char* button) {
        QMenu& menu = *window->findChild<QToolButton*>(button)->menu();
        Q_EMIT menu.aboutToShow();
        return menu;
    }
    float value(const Id& worn, const Id& parameter) { return resolve(project(), worn).values.at(parameter).value.value[0]; }
};

TEST_F(SharedParametersTest, AreMadeFollowedAndChangedInOnePlace) {
    type("wet = 0.5, 0 to 1", {80, 60});
    const Id master = session().masterId(), wet = session().master()->parameters[0].id;
    SharedDialog& dialog = open();
    EXPECT_TRUE(in<QLabel>(dialog, "sharedFollowers").text().contains("Make one")) << "says what to do first";
    QTest::mouseClick(&in<QPushButton>(dialog, "sharedNumber"), Qt::LeftButton);
    ASSERT_EQ(project().shared.size(), 1u);
    write(in<QLineEdit>(dialog, "sharedName"), "Wetness");
    EXPECT_EQ(project().shared[0].name, "Wetness");
    in<ValueField>(dialog, "sharedValue").take(Value::number(0.25f));
    EXPECT_FLOAT_EQ(project().shared[0].value[0], 0.25f);
    // The parameter takes it as its default.
    editParameter(session(), wet, window.get());
    auto* parameter = window->findChild<ParameterDialog*>();
    ASSERT_TRUE(parameter);
    auto& follows = in<QComboBox>(*parameter, "parameterFollows");
    follows.setCurrentIndex(follows.findText("shared: Wetness"));
    QTest::mouseClick(&in<QPushButton>(*parameter, "parameterChange"), Qt::LeftButton);
    EXPECT_FLOAT_EQ(value(master, wet), 0.25f);
    EXPECT_TRUE(in<QLabel>(dialog, "sharedFollowers").text().contains(": Wet"));
    // On the sheet of the master it is the shared value that changes; undone it is as before.
    sheet().row(wet)->field()->take(Value::number(0.75f));
    EXPECT_FLOAT_EQ(project().shared[0].value[0], 0.75f);
    EXPECT_FLOAT_EQ(session().master()->parameters[0].standard.value[0], 0.5f);
    session().undoStack()->undo();
    EXPECT_FLOAT_EQ(value(master, wet), 0.25f);
    // Removed, its value stays.
    in<QListWidget>(dialog, "sharedList").setCurrentRow(0);
    QTest::mouseClick(&in<QPushButton>(dialog, "sharedRemove"), Qt::LeftButton);
    EXPECT_TRUE(project().shared.empty());
    EXPECT_FLOAT_EQ(value(master, wet), 0.25f);
    dialog.close();
}

TEST_F(SharedParametersTest, MovePicturesWithTime) {
    type("shade = 0.5, 0 to 1", {80, 60});
    const Id master = session().masterId(), shade = session().master()->parameters[0].id;
    ASSERT_TRUE(session().apply("moves", [&](const Project& p) -> Result<Project> {
        SharedParameter s;
        s.id = "s", s.name = "Day", s.value = Value::number(0), s.until = Value::number(1), s.period = 4;
        s.moves = SharedParameter::Moves::Swells;
        Result<Project> next = edit::addShared(p, s);
        if (next) next = edit::followShared(*next, master, shade, "s");
        if (next) next = edit::connectChannel(*next, master, {next->board(master)->graph.nodes.begin()->first, "out", ""}, "base_color");
        return next;
    }));
    view("base_color");
    session().setTime(0);
    rest();
    const int night = middle().green();
    session().setTime(2);
    rest();
    EXPECT_GT(middle().green(), night + 100);
}

TEST_F(SharedParametersTest, PresetsAreKeptAndUsedFromTheSheet) {
    type("wear = 0.5, 0 to 1", {80, 60});
    const Id master = session().masterId(), wear = session().master()->parameters[0].id;
    ASSERT_TRUE(session().apply("instances", [&](const Project& p) -> Result<Project> {
        Result<Project> next = p;
        for (const auto& [id, x] : {std::pair{"ochre", 0.9f}, {"teal", 0.1f}}) {
            Instance i;
            i.id = i.name = id, i.parent = master, i.own[wear] = {Value::number(x), {}};
            if (next) next = edit::addInstance(*next, i);
        }
        return next;
    }));
    session().setTarget("ochre");
    QTimer::singleShot(300, window.get(), [&] {
        if (auto* ask = window->findChild<QInputDialog*>()) ask->setTextValue("Old"), ask->accept();
    });
    menuOf("presetsButton").actions()[0]->trigger();
    ASSERT_EQ(session().master()->presets.size(), 1u);
    session().setTarget("teal");
    QMenu& menu = menuOf("presetsButton");
    ASSERT_EQ(menu.actions()[0]->text(), "Old");
    menu.actions()[0]->trigger();
    EXPECT_FLOAT_EQ(value("teal", wear), 0.9f);
    session().undoStack()->undo();
    EXPECT_FLOAT_EQ(value("teal", wear), 0.1f);
}

} // namespace
} // namespace hue
