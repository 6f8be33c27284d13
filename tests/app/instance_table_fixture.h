#pragma once
// The table of instances over a small family.
#include "tests/app/app_fixture.h"

#include <QLineEdit>

namespace hue::test {

/// A master with two numbers, Line and Fleet below it, Ochre below Line.
class InstanceTableTest : public Window {
  protected:
    void SetUp() override {
        Window::SetUp();
        type("wear = 0.5, 0 to 1", {80, 60});
        type("grime = 0.25, 0 to 1", {80, 200});
        master = session().masterId();
        wear = session().master()->parameters[0].id, grime = session().master()->parameters[1].id;
        session().apply("instances", [&](const Project& p) -> Result<Project> {
            Result<Project> next = p;
            const auto add = [&](const Id& id, const std::string& name, const Id& parent) {
                Instance i;
                i.id = id, i.name = name, i.parent = parent;
                if (next) next = edit::addInstance(*next, i);
            };
            add("line", "Line", master), add("ochre", "Ochre", "line"), add("fleet", "Fleet", master);
            return next;
        });
        key(window.get(), Qt::Key_3, Qt::ControlModifier);
        table().setFocus();
    }
    InstanceTable& table() { return *instances().table(); }
    QModelIndex cell(const Id& worn, int parameter) {
        const QModelIndex row = instances().model()->indexOf(worn);
        return row.sibling(row.row(), InstanceModel::FirstParameter + parameter);
    }
    void click(const QModelIndex& at, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(table().viewport(), Qt::LeftButton, keys, table().visualRect(at).center());
    }
    float value(const Id& worn, const Id& parameter) { return resolve(project(), worn).values.at(parameter).value.value[0]; }
    int steps() { return session().undoStack()->count(); }
    void typeValue(const QString& words) {
        key(window.get(), Qt::Key_E, Qt::ControlModifier);
        auto& line = *window->findChild<QLineEdit*>("instanceWords");
        ASSERT_TRUE(line.hasFocus());
        QTest::keyClicks(&line, words);
        key(&line, Qt::Key_Return);
    }
    Id master, wear, grime;
};

} // namespace hue::test
