// Build choices and kinds of parameters on the sheet, by mouse and keys.
#include "app/stations/graph/builds_dialog.h"
#include "app/stations/graph/parameter_dialog.h"
#include "tests/app/app_fixture.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QToolButton>
#include <QTreeWidget>

namespace hue {
namespace {

using namespace test;

class BuildChoices : public Window {
  protected:
    ParameterRow& row(size_t k) { return *sheet().row(session().master()->parameters[k].id); }
    const Parameter& parameter(size_t k) { return session().master()->parameters[k]; }
    float value(size_t k) { return resolve(project(), session().tuned()).values.at(parameter(k).id).value.value[0]; }
    ParameterDialog* dialog(size_t k) {
        QTest::mouseDClick(&row(k), Qt::LeftButton, {}, {20, 8});
        auto* d = window->findChild<ParameterDialog*>();
        EXPECT_TRUE(d);
        return d;
    }
    template <class T> T* in(QWidget* d, const char* name) {
        T* field = d->findChild<T*>(name);
        EXPECT_TRUE(field) << name;
        return field;
    }
    void change(QDialog* d) {
        QTest::mouseClick(in<QPushButton>(d, "parameterChange"), Qt::LeftButton);
        waitFor([&] { return !window->findChild<ParameterDialog*>() || !window->findChild<ParameterDialog*>()->isVisible(); }, 20000);
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    }
};

TEST_F(BuildChoices, AreSetByTheirPartsByKeysAndByName) {
    type("livery = plain / stripes / checks, build", {80, 60});
    type("moss = off", {80, 200});
    ASSERT_EQ(session().master()->parameters.size(), 2u);
    EXPECT_TRUE(parameter(0).isBuildChoice());
    EXPECT_FALSE(parameter(1).build);
    ValueField& livery = *row(0).field();
    EXPECT_EQ(livery.figure(), "plain");
    // The third part of the bar is the third option.
    QTest::mouseClick(&livery, Qt::LeftButton, {}, {livery.width() * 5 / 6, livery.height() - 5});
    EXPECT_EQ(value(0), 2);
    EXPECT_EQ(livery.figure(), "checks");
    livery.setFocus();
    key(&livery, Qt::Key_Left);
    EXPECT_EQ(value(0), 1);
    key(&livery, Qt::Key_Left), key(&livery, Qt::Key_Left);
    EXPECT_EQ(value(0), 0) << "the ends are ends";
    key(&livery, Qt::Key_Space), key(&livery, Qt::Key_Space), key(&livery, Qt::Key_Space);
    EXPECT_EQ(value(0), 0) << "and space goes around";
    // Enter lists the names.
    key(&livery, Qt::Key_Return);
    auto* menu = livery.findChild<QMenu*>();
    ASSERT_TRUE(menu);
    ASSERT_EQ(menu->actions().size(), 3);
    EXPECT_TRUE(menu->actions()[0]->isChecked());
    menu->actions()[1]->trigger();
    menu->close();
    EXPECT_EQ(value(0), 1);
    ValueField& moss = *row(1).field();
    EXPECT_EQ(moss.figure(), "off");
    moss.setFocus();
    key(&moss, Qt::Key_Space);
    EXPECT_EQ(value(1), 1);
    EXPECT_EQ(moss.figure(), "on");
}

TEST_F(BuildChoices, AreCountedListedAndLeadToWhoUsesThem) {
    auto& button = *window->findChild<QToolButton*>("buildsButton");
    EXPECT_FALSE(button.isVisible()) << "a master without choices has one build";
    type("livery = plain / stripes / checks, build", {80, 60});
    EXPECT_TRUE(button.isVisible());
    const Id master = session().masterId(), livery = parameter(0).id;
    ASSERT_TRUE(session().apply("instances", [&](const Project& p) -> Result<Project> {
        Result<Project> next = p;
        for (const auto& [id, option] : {std::pair<const char*, float>{"line", 0}, {"ochre", 2}, {"teal", 2}}) {
            Instance i;
            i.id = i.name = id, i.parent = master;
            if (option > 0) i.own[livery] = {Value::number(option), {}};
            if (next) next = edit::addInstance(*next, i);
        }
        return next;
    }));
    EXPECT_TRUE(waitFor([&] { return button.text() == "2 of 3 builds"; }, 20000)) << button.text().toStdString();
    QTest::mouseClick(&button, Qt::LeftButton);
    auto* dialog = window->findChild<BuildsDialog*>();
    ASSERT_TRUE(dialog);
    auto& list = *dialog->findChild<QTreeWidget*>("builds");
    ASSERT_TRUE(waitFor([&] { return list.topLevelItemCount() == 2; }, 20000));
    EXPECT_EQ(list.topLevelItem(1)->text(0), "Livery checks");
    EXPECT_EQ(list.topLevelItem(1)->text(4), "ochre, teal");
    list.setCurrentItem(list.topLevelItem(1));
    list.setFocus();
    key(&list, Qt::Key_Return);
    EXPECT_EQ(session().target(), "ochre");
    // It follows what is edited.
    session().apply("plain", [&](const Project& p) { return edit::clearOwn(p, "ochre", livery); });
    ASSERT_TRUE(waitFor([&] { return list.topLevelItemCount() == 2 && list.topLevelItem(1)->text(4) == "teal"; }, 20000));
    dialog->close();
}

TEST_F(BuildChoices, LeaveParametersIdleAndSayIt) {
    type("moss = off, build", {80, 60});
    type("moss height = 0.4, 0 to 1", {80, 200});
    const Id master = session().masterId();
    const std::string choice = session().master()->graph.nodes.begin()->first;
    ASSERT_TRUE(session().apply("graph", [&](const Project& p) -> Result<Project> {
        Node choose = makeNode("choose", {400, 100});
        choose.id = "choose";
        Result<Project> next = edit::addNode(p, master, choose);
        for (const auto& [id, node] : p.board(master)->graph.nodes) {
            const auto reads = node->settings.find("parameter");
            if (!next || reads == node->settings.end()) continue;
            const bool moss = reads->second == parameter(0).id;
            next = edit::connect(*next, master, {id, "out", ""}, "choose", moss ? "which" : "in2");
        }
        return next ? edit::connectChannel(*next, master, {"choose", "out", ""}, "roughness") : next;
    }));
    ASSERT_TRUE(waitFor([&] { return row(1).isIdle(); }, 20000));
    EXPECT_TRUE(row(1).toolTip().contains("Idle"));
    EXPECT_FALSE(row(0).isIdle());
    row(0).field()->setFocus();
    key(row(0).field(), Qt::Key_Right);
    ASSERT_TRUE(waitFor([&] { return !row(1).isIdle(); }, 20000));
    // The table of instances strikes the value through as well.
    key(row(0).field(), Qt::Key_Left);
    key(window.get(), Qt::Key_3, Qt::ControlModifier);
    InstanceModel& model = *instances().model();
    const auto cell = [&](int column) { return model.indexOf(master).siblingAtColumn(InstanceModel::FirstParameter + column); };
    ASSERT_TRUE(waitFor([&] { return cell(1).data(InstanceModel::IdleRole).toBool(); }, 20000));
    EXPECT_FALSE(cell(0).data(InstanceModel::IdleRole).toBool());
}

TEST_F(BuildChoices, BecomeLiveAndBackWithTheCostSaidFirst) {
    type("moss = off, build", {80, 60});
    ParameterDialog* d = dialog(0);
    auto& cost = *in<QLabel>(d, "parameterCost");
    ASSERT_TRUE(waitFor([&] { return cost.text().contains("builds; live"); }, 20000)) << cost.text().toStdString();
    in<QCheckBox>(d, "parameterBuild")->setChecked(false);
    change(d);
    EXPECT_FALSE(parameter(0).build);
    EXPECT_EQ(parameter(0).type, ParameterType::OnOff);
    d = dialog(0);
    in<QCheckBox>(d, "parameterBuild")->setChecked(true);
    change(d);
    EXPECT_TRUE(parameter(0).isBuildChoice());
    session().undoStack()->undo();
    EXPECT_FALSE(parameter(0).build);
}

TEST_F(BuildChoices, ParametersChangeTheirKindAndSayWhatMoves) {
    type("wear = 0.45, 0 to 4", {80, 60});
    const Id master = session().masterId(), wear = parameter(0).id;
    ASSERT_TRUE(session().apply("instance", [&](const Project& p) {
        Instance i;
        i.id = "ochre", i.name = "Ochre", i.parent = master, i.own[wear] = {Value::number(1.6f), {}};
        return edit::addInstance(p, i);
    }));
    const auto whole = [&](const char* answer) {
        ParameterDialog* d = dialog(0);
        auto& kind = *in<QComboBox>(d, "parameterKind");
        kind.setCurrentIndex(kind.findText("Whole number"));
        QString asked;
        QTimer::singleShot(300, window.get(), [&] {
            auto* ask = d->findChild<QMessageBox*>("parameterMoved");
            if (!ask) return;
            asked = ask->text();
            for (QAbstractButton* b : ask->buttons())
                if (b->text() == answer) b->click();
        });
        QTest::mouseClick(in<QPushButton>(d, "parameterChange"), Qt::LeftButton);
        EXPECT_TRUE(asked.contains("Ochre: 1.6 becomes 2")) << asked.toStdString();
        if (d->isVisible()) d->reject();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    };
    whole("Go back");
    EXPECT_EQ(parameter(0).type, ParameterType::Number);
    whole("Change them");
    EXPECT_EQ(parameter(0).type, ParameterType::Integer);
    EXPECT_EQ(project().instance("ochre")->own.at(wear).value[0], 2);
    // Its slider stops at whole numbers.
    ValueField& field = *row(0).field();
    field.setFocus();
    key(&field, Qt::Key_Right);
    EXPECT_EQ(value(0), std::round(value(0)));
    session().undoStack()->undo(), session().undoStack()->undo();
    EXPECT_FLOAT_EQ(project().instance("ochre")->own.at(wear).value[0], 1.6f);
}

TEST_F(BuildChoices, AnotherParameterHidesARow) {
    type("moss = off", {80, 60});
    type("moss height = 0.4, 0 to 1", {80, 200});
    ParameterDialog* d = dialog(1);
    auto& shown = *in<QComboBox>(d, "parameterShown");
    shown.setCurrentIndex(shown.findText("when Moss is on"));
    in<QLineEdit>(d, "parameterStep")->setText("0.25");
    change(d);
    EXPECT_FALSE(row(1).isVisible());
    row(0).field()->setFocus();
    key(row(0).field(), Qt::Key_Space);
    EXPECT_TRUE(row(1).isVisible());
    row(1).field()->setFocus();
    key(row(1).field(), Qt::Key_Right);
    EXPECT_FLOAT_EQ(value(1), 0.75f) << "from 0.4 one step on, to where the steps are";
}

TEST_F(BuildChoices, ASliderThatMayBreakTheGraphIsMarked) {
    type("split = 0.5, 0 to 1", {80, 60});
    const Id master = session().masterId();
    ASSERT_TRUE(session().apply("graph", [&](const Project& p) -> Result<Project> {
        Node divide = makeNode("divide", {400, 100});
        divide.id = "divide";
        Result<Project> next = edit::addNode(p, master, divide);
        next = next ? edit::connect(*next, master, {p.board(master)->graph.nodes.begin()->first, "out", ""}, "divide", "in2") : next;
        return next ? edit::connectChannel(*next, master, {"divide", "out", ""}, "roughness") : next;
    }));
    ASSERT_TRUE(waitFor([&] { return row(0).toolTip().contains("so by 0 as well"); }, 20000)) << row(0).toolTip().toStdString();
    ParameterDialog* d = dialog(0);
    in<QLineEdit>(d, "parameterSlider")->setText("0.1 1");
    in<QLineEdit>(d, "parameterLimits")->setText("0.1 1");
    change(d);
    EXPECT_TRUE(waitFor([&] { return !row(0).toolTip().contains("so by 0 as well"); }, 20000));
}

} // namespace
} // namespace hue
