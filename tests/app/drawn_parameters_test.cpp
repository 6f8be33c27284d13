// Curves, gradients, glowing and covering colors, finishes, and many parameters at once: on the sheet, by mouse and keys.
#include "app/parts/drawn_field.h"
#include "app/stations/graph/limits_dialog.h"
#include "tests/app/app_fixture.h"
#include "tests/app/instance_table_fixture.h"

#include <QComboBox>
#include <QImage>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;

class DrawnParameters : public Window {
  protected:
    ParameterRow& row(size_t k) { return *sheet().row(session().master()->parameters[k].id); }
    const Parameter& parameter(size_t k) { return session().master()->parameters[k]; }
    const ParameterValue value(size_t k) { return resolve(project(), session().tuned()).values.at(parameter(k).id).value; }
    Drawn drawn(size_t k) {
        const Result<Drawn> d = drawnFrom(value(k).map);
        EXPECT_TRUE(d) << value(k).map;
        return d ? *d : Drawn{};
    }
    DrawnField& unfolded(size_t k) {
        DrawnField& field = *row(k).drawn();
        if (!field.isUnfolded()) QTest::mouseClick(field.findChild<QToolButton*>("drawnFold"), Qt::LeftButton);
        QCoreApplication::processEvents();
        return field;
    }
    int steps() { return session().undoStack()->count(); }
    /// The context menu of a row; its entry is chosen by name.
    void choose(size_t k, const QString& name) {
        QContextMenuEvent event(QContextMenuEvent::Mouse, {20, 8}, row(k).mapToGlobal(QPoint(20, 8)));
        QApplication::sendEvent(&row(k), &event);
        const QList<QMenu*> menus = row(k).findChildren<QMenu*>();
        for (QMenu* menu : menus)
            for (QAction* a : menu->actions())
                if (a->text() == name) return a->trigger();
        ADD_FAILURE() << "no " << name.toStdString();
    }
    /// Says yes to the next question, and keeps its words.
    void agree() {
        QTimer::singleShot(0, window.get(), [this] {
            waitFor([this] { return window->findChild<QMessageBox*>("parameterMoved") != nullptr; }, 5000);
            auto* box = window->findChild<QMessageBox*>("parameterMoved");
            if (!box) return;
            asked = box->text();
            for (QAbstractButton* b : box->buttons())
                if (box->buttonRole(b) == QMessageBox::AcceptRole) b->click();
        });
    }
    QString asked;
};

TEST_F(DrawnParameters, ACurveIsBentWithTheMouse) {
    type("falloff = curve", {80, 60});
    DrawnField& field = unfolded(0);
    DrawnPlot& plot = *field.plot();
    ASSERT_EQ(drawn(0).points.size(), 2u);
    const int before = steps();
    const QPoint start = plot.placeOf(1).toPoint(), end(start.x(), plot.height() / 2);
    QTest::mousePress(&plot, Qt::LeftButton, {}, start);
    QTest::mouseMove(&plot, (start + end) / 2);
    QTest::mouseMove(&plot, end);
    QTest::mouseRelease(&plot, Qt::LeftButton, {}, end);
    EXPECT_NEAR(drawn(0).points[1].value[0], 0.5f, 0.02f);
    EXPECT_EQ(steps(), before + 1) << "a drag is one step";
    QTest::mouseDClick(&plot, Qt::LeftButton, {}, {plot.width() / 4, 12});
    ASSERT_EQ(drawn(0).points.size(), 3u);
    EXPECT_NEAR(drawn(0).points[1].at, 0.25f, 0.02f);
    EXPECT_EQ(plot.chosen(), 1u) << "the new one is in hand";
    session().undoStack()->undo();
    session().undoStack()->undo();
    EXPECT_EQ(value(0).map, "curve straight: 0 0, 1 1");
    EXPECT_EQ(plot.drawn(), drawn(0)) << "and the sheet shows it";
}

TEST_F(DrawnParameters, ACurveIsBentWithKeys) {
    type("falloff = curve", {80, 60});
    DrawnPlot& plot = *unfolded(0).plot();
    plot.setFocus();
    ASSERT_TRUE(plot.hasFocus());
    key(&plot, Qt::Key_Insert);
    ASSERT_EQ(drawn(0).points.size(), 3u);
    EXPECT_FLOAT_EQ(drawn(0).points[1].at, 0.5f);
    for (int k = 0; k < 5; ++k) key(&plot, Qt::Key_Up), key(&plot, Qt::Key_Left);
    EXPECT_NEAR(drawn(0).points[1].value[0], 0.6f, 1e-5f);
    EXPECT_NEAR(drawn(0).points[1].at, 0.4f, 1e-5f);
    key(&plot, Qt::Key_PageDown);
    EXPECT_EQ(plot.chosen(), 2u);
    for (int k = 0; k < 60; ++k) key(&plot, Qt::Key_Left);
    EXPECT_GT(drawn(0).points[2].at, drawn(0).points[1].at) << "a point never passes its neighbour";
    key(&plot, Qt::Key_Delete);
    EXPECT_EQ(drawn(0).points.size(), 2u);
    auto& between = *row(0).findChild<QComboBox*>("drawnBetween");
    between.setFocus();
    key(&between, Qt::Key_Down);
    EXPECT_EQ(drawn(0).between, Between::Smooth);
    // The last point cannot go.
    plot.setFocus();
    for (int k = 0; k < 4; ++k) key(&plot, Qt::Key_Delete);
    EXPECT_EQ(drawn(0).points.size(), 1u);
}

TEST_F(DrawnParameters, AGradientHasColorsAndAlpha) {
    type("tint = gradient", {80, 60});
    DrawnField& field = unfolded(0);
    field.plot()->choose(1);
    auto& color = *field.findChild<ValueField*>("drawnValue");
    auto& alpha = *field.findChild<ValueField*>("drawnAlpha");
    ASSERT_TRUE(alpha.isVisible());
    color.take(Value::vec3(0.5f, 0.25f, 0));
    alpha.take(Value::number(0.5f));
    EXPECT_EQ(drawn(0).points[1].value, (std::array<float, 4>{0.5f, 0.25f, 0, 0.5f}));
    EXPECT_EQ(drawn(0).points[0].value, (std::array<float, 4>{0, 0, 0, 1}));
    // The strip shows what is read, encoded for the screen.
    const QImage strip = stripOf(drawn(0), 101);
    EXPECT_NEAR(qRed(strip.pixel(50, 0)), 255 * linearToSrgb(0.25f), 1.5);
    EXPECT_EQ(qBlue(strip.pixel(100, 0)), 0);
    // An instance has its own.
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    EXPECT_NE(session().tuned(), session().masterId());
    field.plot()->choose(0);
    color.take(Value::vec3(1, 1, 1));
    EXPECT_EQ(drawn(0).points[0].value[0], 1);
    EXPECT_TRUE(row(0).returnButton()->isVisible());
    QTest::mouseClick(row(0).returnButton(), Qt::LeftButton);
    EXPECT_EQ(drawn(0).points[0].value[0], 0);
}

TEST_F(DrawnParameters, AColorGlowsAndCovers) {
    type("glow = #804020", {80, 60});
    Parameter p = parameter(0);
    p.alpha = true, p.strongest = 8;
    session().apply("kind", [&](const Project& q) { return edit::changeParameter(q, session().masterId(), p); });
    ASSERT_TRUE(row(0).strength()->isVisible() && row(0).alpha()->isVisible());
    const Value before = value(0).value;
    EXPECT_EQ(before[3], 1);
    const float red = before[0];
    EXPECT_FLOAT_EQ(row(0).strength()->value()[0], red) << "the strength is the largest component";
    row(0).strength()->take(Value::number(4));
    EXPECT_NEAR(value(0).value[0], 4, 1e-5f);
    EXPECT_NEAR(value(0).value[1] / value(0).value[0], before[1] / red, 1e-5f) << "the color stays";
    row(0).alpha()->take(Value::number(0.25f));
    EXPECT_FLOAT_EQ(value(0).value[3], 0.25f);
    row(0).field()->take(Value::vec3(0, 0.5f, 0));
    EXPECT_EQ(value(0).value, Value::vec4(0, 4, 0, 0.25f)) << "another color is as strong";
    row(0).strength()->take(Value::number(0));
    row(0).strength()->take(Value::number(2));
    EXPECT_EQ(value(0).value, Value::vec4(0, 2, 0, 0.25f)) << "dark in between, it is remembered";
}

TEST_F(DrawnParameters, AFinishIsChosenByName) {
    session().apply("another", [&](const Project& q) {
        Master m;
        m.id = "lacquer", m.name = "Lacquer";
        return edit::addMaster(q, m);
    });
    const Id card = type("paint = finish", {80, 60});
    EXPECT_EQ(graph().find(card)->kind, "finish_of");
    auto& button = *row(0).findChild<QPushButton*>();
    ASSERT_TRUE(button.isVisible());
    EXPECT_EQ(button.text(), "of nothing");
    QTest::mouseClick(&button, Qt::LeftButton);
    auto* menu = row(0).findChild<QMenu*>("finishMenu");
    ASSERT_TRUE(menu);
    QAction* lacquer = nullptr;
    for (QAction* a : menu->actions())
        if (a->text().contains("Lacquer")) lacquer = a;
    ASSERT_TRUE(lacquer);
    lacquer->trigger();
    menu->close();
    EXPECT_EQ(value(0).map, "lacquer");
    EXPECT_EQ(button.text(), "Lacquer");
    // Its parameter goes to the board as such a card, and a card that names a master becomes one.
    board().select({card});
    key(&board(), Qt::Key_E, Qt::ControlModifier);
    EXPECT_EQ(session().master()->parameters.size(), 1u) << "it is a parameter already";
}

TEST_F(DrawnParameters, SplitsAndMergesFromTheMenu) {
    type("shift = 0.25 0.5", {80, 60});
    type("wear = 0.3, 0 to 1", {80, 200});
    type("dirt = 0.6, 0 to 1", {80, 300});
    choose(0, "Split into numbers");
    ASSERT_EQ(session().master()->parameters.size(), 4u);
    EXPECT_EQ(parameter(1).name, "Shift y");
    EXPECT_EQ(value(1).value, Value::number(0.5f));
    agree();
    choose(2, "Dirt");
    EXPECT_EQ(session().master()->parameters.size(), 3u);
    EXPECT_TRUE(asked.contains("Dirt was 0.6 and is 0.3")) << asked.toStdString();
    session().undoStack()->undo();
    session().undoStack()->undo();
    EXPECT_EQ(session().master()->parameters.size(), 3u);
    EXPECT_EQ(parameter(0).type, ParameterType::Vector2);
}

TEST_F(DrawnParameters, LimitsOfSeveralAreSetAtOnce) {
    for (const char* p : {"wear = 0.3, 0 to 1", "dirt = 0.6, 0 to 1", "moss = 0.9, 0 to 1"})
        type(p, {80, 60 + 100 * int(p[0] == 'd') + 200 * int(p[0] == 'm')});
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    row(2).field()->take(Value::number(0.8f));
    choose(0, "Limits of several\u2026");
    auto* dialog = window->findChild<LimitsDialog*>();
    ASSERT_TRUE(dialog);
    auto& list = *dialog->findChild<QListWidget*>("limitsOf");
    ASSERT_EQ(list.count(), 3);
    EXPECT_EQ(list.item(0)->checkState(), Qt::Checked);
    list.item(2)->setCheckState(Qt::Checked);
    QTest::keyClicks(dialog->findChild<QLineEdit*>("limitsSlider"), "0 0.5");
    QTest::keyClicks(dialog->findChild<QLineEdit*>("limitsHard"), "0 0.5");
    agree();
    QTest::mouseClick(dialog->findChild<QPushButton*>("limitsChange"), Qt::LeftButton);
    EXPECT_TRUE(asked.contains("0.8 becomes 0.5")) << asked.toStdString();
    EXPECT_EQ(parameter(0).hardMax, 0.5f);
    EXPECT_EQ(parameter(1).hardMax, 1.f) << "was not ticked";
    EXPECT_EQ(parameter(2).hardMax, 0.5f);
    EXPECT_EQ(value(2).value[0], 0.5f);
}

TEST_F(InstanceTableTest, RowsBecomeAContactSheet) {
    click(cell("line", 0));
    const QString file = folder->filePath("sheet.png");
    instances().writeSheet({"line", "ochre", "fleet"}, file);
    ASSERT_TRUE(waitFor([&] { return session().runner().idle(); }, 60000));
    const QImage sheet(file);
    ASSERT_FALSE(sheet.isNull());
    EXPECT_GE(sheet.width(), 2 * 192);
    EXPECT_GE(sheet.height(), 2 * 192) << "three pictures stand in two rows";
    // Where the second stands there is more than one color, and where there would be a fourth there is one.
    const auto colors = [&](QRect r) {
        std::set<QRgb> out;
        for (int y = r.top(); y < r.bottom(); y += 7)
            for (int x = r.left(); x < r.right(); x += 7) out.insert(sheet.pixel(x, y));
        return out.size();
    };
    EXPECT_GT(colors({sheet.width() / 2 + 8, 8, 170, 170}), 8u);
    EXPECT_LE(colors({sheet.width() / 2 + 8, sheet.height() / 2 + 8, 170, 150}), 2u);
    // Esc stops it, and nothing is left behind.
    const QString other = folder->filePath("other.png");
    instances().writeSheet(std::vector<Id>(60, "line"), other);
    table().setFocus();
    key(&table(), Qt::Key_Escape);
    ASSERT_TRUE(waitFor([&] { return session().runner().idle(); }, 60000));
    EXPECT_FALSE(QFile::exists(other));
}

} // namespace
} // namespace hue
