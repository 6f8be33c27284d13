// The whole way of an artist, with mouse and keys, judged by pixels.
#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/project/store.h"
#include "tests/app/app_fixture.h"

#include <QComboBox>
#include <QFileInfo>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;
using Journey = Window;

TEST_F(Journey, FromAnEmptyProjectToBakedMaps) {
    // A color and a roughness, typed and wired to the surface.
    const Id red = type("#CC2211", {120, 60});
    const Id rough = type("0.35", {120, 200});
    ASSERT_FALSE(red.empty() || rough.empty());
    wireToChannel(red, "out", "base_color");
    wireToChannel(rough, "out", "roughness");
    ASSERT_EQ(graph().channelWires.at("base_color").node, red);
    ASSERT_EQ(graph().channelWires.at("roughness").node, rough);
    view("base_color");
    EXPECT_NEAR(middle().red(), 0xCC, 1);
    EXPECT_NEAR(middle().green(), 0x22, 1);

    // A multiply between, typed after its source was clicked, so that it comes wired.
    QTest::mouseClick(&board(), Qt::LeftButton, {}, pin(red, CardRow::Kind::Output, "out"));
    QCursor::setPos(board().mapToGlobal(QPoint(400, 60)));
    QTest::keyClicks(&board(), "m");
    QTest::keyClicks(board().addLine()->line(), "ultiply");
    key(board().addLine()->line(), Qt::Key_Return);
    settle();
    const auto product =
        std::find_if(graph().nodes.begin(), graph().nodes.end(), [](const auto& n) { return n.second->kind == "multiply"; });
    ASSERT_NE(product, graph().nodes.end());
    EXPECT_EQ(product->second->wires.at("in1").node, red);

    // The color and the roughness become parameters.
    board().select({red});
    board().setFocus();
    key(&board(), Qt::Key_E, Qt::ControlModifier);
    board().select({rough});
    key(&board(), Qt::Key_E, Qt::ControlModifier);
    settle();
    ASSERT_EQ(session().master()->parameters.size(), 2u);
    const Id color = session().master()->parameters[0].id, roughness = session().master()->parameters[1].id;
    EXPECT_EQ(session().master()->parameters[0].name, "Base color");
    EXPECT_EQ(session().master()->parameters[1].name, "Roughness");

    // Two instances; the second gets a color of its own.
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id first = session().target();
    session().setTarget(session().masterId());
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id second = session().target();
    ASSERT_EQ(project().instances.size(), 2u);
    ASSERT_NE(first, second);
    ASSERT_TRUE(session().apply("wear", [&](const Project& p) { return edit::wear(p, 0, 0, second); }));
    settle();
    view("roughness");
    EXPECT_NEAR(middle().red(), 0.35 * 255, 1);
    // Dragging the slider: the value becomes the instance's own, the next picture shows it, nothing is compiled.
    ValueField* field = sheet().row(roughness)->field();
    const int compiles = session().looks().compiles(), links = window->pictures().links();
    QTest::mousePress(field, Qt::LeftButton, {}, QPoint(60, 24));
    for (int x = 70; x <= 120; x += 10) QTest::mouseMove(field, QPoint(x, 24));
    QTest::mouseRelease(field, Qt::LeftButton, {}, QPoint(120, 24));
    settle();
    const float own = project().instance(second)->own.at(roughness).value[0];
    EXPECT_GT(own, 0.4f);
    EXPECT_NEAR(middle().red(), own * 255, 1);
    EXPECT_EQ(session().looks().compiles(), compiles);
    EXPECT_EQ(window->pictures().links(), links);
    EXPECT_TRUE(project().instance(first)->own.empty()) << "the other instance is not touched";
    // One step of undo for the whole drag; one click to inherit again.
    session().undoStack()->undo();
    EXPECT_FALSE(project().instance(second)->own.contains(roughness));
    session().undoStack()->redo();
    QTest::mouseClick(sheet().row(roughness)->returnButton(), Qt::LeftButton);
    EXPECT_FALSE(project().instance(second)->own.contains(roughness));
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, second, color, {Value::vec3(0, 0, 1), {}}); }));

    // Saved, closed, opened again: the same.
    const QString file = folder->filePath("journey.huestack");
    ASSERT_TRUE(window->saveTo(file));
    EXPECT_FALSE(session().dirty());
    const std::string saved = projectText(project());
    window->close();
    window = std::make_unique<MainWindow>();
    window->resize(1280, 800);
    window->show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(window.get()));
    ASSERT_TRUE(window->openFile(file));
    settle();
    EXPECT_EQ(projectText(project()), saved);
    view("base_color");
    EXPECT_EQ(middle(), QColor(0, 0, 255));

    // Baked from the station Dispatch.
    key(window.get(), Qt::Key_4, Qt::ControlModifier);
    DispatchPage& page = dispatch();
    auto* worn = page.findChild<QComboBox*>("dispatchWorn");
    worn->setCurrentIndex(worn->findData(QString::fromStdString(second)));
    page.findChild<QComboBox*>("dispatchSize")->setCurrentIndex(0);
    page.findChild<QLineEdit*>("dispatchFolder")->setText(folder->filePath("out"));
    QTest::mouseClick(page.findChild<QPushButton*>("bakeButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return !page.busy(); }, 20000));
    const QStringList lines = page.findChild<QPlainTextEdit*>("dispatchReport")->toPlainText().split('\n');
    ASSERT_GE(lines.size(), 5) << lines.join('|').toStdString();
    const Result<Picture> base = readPicture(lines[1].toStdString());
    ASSERT_TRUE(base) << lines.join('|').toStdString();
    EXPECT_EQ(base->width, 256);
    EXPECT_NEAR(base->values[0], 0, 0.01f);
    EXPECT_NEAR(base->values[2], 1, 0.01f);
    QTest::mouseClick(page.findChild<QPushButton*>("glbButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return !page.busy(); }, 20000));
    EXPECT_EQ(QDir(folder->filePath("out")).entryList({"*.glb"}).size(), 1);
}

} // namespace
} // namespace hue
