// Decals in the station Paint, by mouse and keys.
#include "app/session/drops.h"
#include "app/stations/paint/decal_panel.h"
#include "core/base/vectors.h"
#include "core/image_files/image_file.h"
#include "tests/app/paint_fixture.h"

#include <QComboBox>
#include <QImage>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QTimer>
#include <QToolButton>

namespace hue {
namespace {

using namespace test;

/// A grey plane seen from above, and a decal master "Stencil" that is red.
class DecalsWindow : public PaintWindow {
  protected:
    void SetUp() override {
        Window::SetUp();
        session().apply("a decal master, and a plane", [&](const Project& p) -> Result<Project> {
            Master d;
            d.id = "stencil", d.name = "Stencil";
            d.surface.decal = true, d.surface.alphaMode = AlphaMode::Blend;
            d.graph.channelConstants = {{"base_color", Value::vec3(0.8f, 0.02f, 0.02f)}, {"roughness", Value::number(1)}};
            Result<Project> out = edit::addMaster(p, d);
            Lineup l = out->lineup;
            l.specimens = {Specimen{.mesh = "shape:plane/2", .wears = {session().masterId()}}};
            l.orbit = {};
            l.orbit.pitch = 70, l.orbit.yaw = 0;
            return edit::setLineup(*out, l);
        });
        enter();
    }
    DecalDesk& desk() { return page().decals(); }
    const std::vector<Decal>& all() { return project().lineup.specimens[0].decals; }
    bool redAt(const QPointF& p) { return at(p).red() > at(p).green() + 40; }
    QPointF middleOf() { return canvas().rect().center(); }
    QPointF pixel(const Rgb& place) {
        const auto p = pixelOf(seenFrom(), place);
        return p ? QPointF(double((*p)[0]), double((*p)[1])) : QPointF();
    }
    void pull(const QPointF& from, const QPointF& to) {
        QTest::mouseMove(&canvas(), from.toPoint());
        QTest::mousePress(&canvas(), Qt::LeftButton, {}, from.toPoint());
        for (int k = 1; k <= 5; ++k) QTest::mouseMove(&canvas(), (from + (to - from) * k / 5.0).toPoint());
        QTest::mouseRelease(&canvas(), Qt::LeftButton, {}, to.toPoint());
        ready();
    }
    void put() {
        QTest::mouseClick(&named<QToolButton>("handDecals"), Qt::LeftButton);
        menu("decalAdd", "Stencil");
        ASSERT_EQ(all().size(), 1u);
    }
};

// From a bare specimen to a decal where it is wanted, as large and as turned as it is wanted, and back.
TEST_F(DecalsWindow, IsPutMovedSizedAndTurnedOnTheMesh) {
    const int steps = session().undoStack()->count();
    EXPECT_FALSE(redAt(middleOf()));
    put();
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
    EXPECT_TRUE(redAt(middleOf())) << "it lies in the middle of the view";
    EXPECT_GT(middle().red(), middle().green() + 40) << "the strip follows";
    EXPECT_NEAR(all()[0].facing[1], 1, 1e-4f) << "facing as the surface does";

    // Dragged by its middle it follows the pointer, and is one step of undo.
    const QPointF there = middleOf() + QPointF(150, 30);
    ASSERT_FALSE(redAt(there));
    pull(middleOf(), there);
    EXPECT_TRUE(redAt(there));
    EXPECT_FALSE(redAt(middleOf()));
    EXPECT_EQ(session().undoStack()->count(), steps + 2);
    EXPECT_NEAR((pixel(all()[0].position) - there).manhattanLength(), 0, 4);

    // A corner is led to where the pointer goes.
    const float width = all()[0].width;
    const QPointF corner = pixel(decalCorners(all()[0])[1]);
    pull(corner, corner + QPointF(40, 25));
    EXPECT_GT(all()[0].width, width * 1.2f);
    EXPECT_NEAR((pixel(decalCorners(all()[0])[1]) - corner - QPointF(40, 25)).manhattanLength(), 0, 5);

    // The mast's end turns it: pulled to the right, its up points there.
    const auto handles = canvas().handles();
    ASSERT_TRUE(handles);
    pull(handles->mastEnd, pixel(sum(all()[0].position, {0.9f, 0, 0})));
    EXPECT_NEAR(decalAxes(all()[0]).up[0], 1, 0.05f);

    for (int k = 0; k < 4; ++k) session().undoStack()->undo();
    ready();
    EXPECT_TRUE(all().empty());
    EXPECT_FALSE(redAt(middleOf()));
    EXPECT_FALSE(redAt(there));
}

TEST_F(DecalsWindow, FieldsKeysAndMenusDoWhatTheMouseDoes) {
    put();
    const Decal before = all()[0];
    // Typed values, and a weight that leaves the color alone.
    named<ValueField>("decalWidth").take(Value::number(0.5f));
    named<ValueField>("decalTurn").take(Value::number(45));
    ready();
    EXPECT_FLOAT_EQ(all()[0].width, 0.5f);
    EXPECT_FLOAT_EQ(all()[0].turn, 45);
    named<ValueField>("decalColor").take(Value::number(0));
    ready();
    EXPECT_FALSE(redAt(middleOf()));
    named<ValueField>("decalColor").take(Value::number(1));
    ready();
    EXPECT_TRUE(redAt(middleOf()));
    EXPECT_TRUE(waitFor([&] { return named<QLabel>("decalCost").text().contains("operation"); }, 5000));
    // Alt and arrows move it on the surface.
    canvas().setFocus();
    key(&canvas(), Qt::Key_Right, Qt::AltModifier);
    EXPECT_GT(lengthOf(difference(all()[0].position, before.position)), 0.001f);
    EXPECT_NEAR(all()[0].position[1], before.position[1], 1e-4f);
    // A line of them, each on the plane; the chosen one lower and higher again.
    menu("decalMore", "A line of 3");
    ASSERT_EQ(all().size(), 3u);
    EXPECT_EQ(named<QListWidget>("decalList").count(), 3);
    const Id first = all()[0].id;
    menu("decalMore", "Higher");
    EXPECT_EQ(all()[1].id, first);
    menu("decalMore", "Copy mirrored across X");
    ASSERT_EQ(all().size(), 4u);
    EXPECT_NEAR(all()[3].position[0], -all()[1].position[0], 1e-5f);
    // Delete removes the chosen one, undo brings it back.
    canvas().setFocus();
    key(&canvas(), Qt::Key_Delete);
    EXPECT_EQ(all().size(), 3u);
    session().undoStack()->undo();
    EXPECT_EQ(all().size(), 4u);
}

TEST_F(DecalsWindow, AreHiddenNamedLockedAndPaintingGoesOn) {
    put();
    QListWidget& list = named<QListWidget>("decalList");
    list.item(0)->setCheckState(Qt::Unchecked);
    QCoreApplication::processEvents();
    ready();
    EXPECT_TRUE(all()[0].hidden);
    EXPECT_FALSE(redAt(middleOf()));
    list.item(0)->setCheckState(Qt::Checked);
    QCoreApplication::processEvents();
    ready();
    list.item(0)->setText("Line 7");
    QCoreApplication::processEvents();
    ready();
    EXPECT_EQ(all()[0].name, "Line 7");
    EXPECT_TRUE(redAt(middleOf()));
    // Locked it stays where it is.
    session().apply("lock", [&](const Project& p) {
        Decal d = all()[0];
        d.locked = true;
        return edit::changeDecal(p, 0, d);
    });
    ready();
    const Decal locked = all()[0];
    pull(middleOf(), middleOf() + QPointF(100, 0));
    EXPECT_EQ(all()[0], locked);
    // With the brush in hand nothing takes hold of it.
    key(&canvas(), Qt::Key_D);
    EXPECT_FALSE(desk().inHand());
    EXPECT_FALSE(canvas().handles());
    EXPECT_TRUE(named<QWidget>("brushProfile").isVisible());
    key(&canvas(), Qt::Key_D);
    EXPECT_TRUE(desk().inHand());
}

TEST_F(DecalsWindow, IsDroppedOnTheMeshWhereItIsADecal) {
    const auto dropped = [&](const Id& worn, const QPointF& there) {
        QMimeData data;
        data.setData(kWornMime, QByteArray::fromStdString(worn));
        drop(&canvas(), there.toPoint(), data);
        ready();
    };
    const QPointF there = middleOf() + QPointF(-120, 20);
    dropped("stencil", there);
    ASSERT_EQ(all().size(), 1u);
    EXPECT_TRUE(redAt(there));
    EXPECT_NEAR((pixel(all()[0].position) - there).manhattanLength(), 0, 4);
    dropped(session().masterId(), middleOf());
    EXPECT_EQ(all().size(), 1u) << "what is no decal is refused, in words";
    dropped("stencil", QPointF(4, 4));
    EXPECT_EQ(all().size(), 1u) << "beside the mesh there is nothing to lie on";
    // A new master of the kind for who has none.
    const size_t masters = project().masters.size();
    menu("decalAdd", "With a new decal master");
    EXPECT_EQ(project().masters.size(), masters + 1);
    ASSERT_EQ(all().size(), 2u);
    EXPECT_TRUE(project().masterOf(all()[1].wears)->surface.decal);
}

// A picture that is dropped on the mesh lies there, with its own proportions, worn by an instance of what shows pictures.
TEST_F(DecalsWindow, APictureThatIsDroppedLiesOnTheMesh) {
    const QString file = folder->filePath("route_7_poster.png");
    QImage image(64, 16, QImage::Format_RGBA8888);
    image.fill(QColor(20, 200, 40));
    ASSERT_TRUE(image.save(file));
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    const QPointF there = middleOf() + QPointF(0, 40);
    const int steps = session().undoStack()->count();
    drop(&canvas(), there.toPoint(), data);
    ASSERT_TRUE(waitFor([&] { return all().size() == 1; }, 8000)) << "read in the background";
    ready();
    EXPECT_EQ(session().undoStack()->count(), steps + 1) << "map, master, instance and decal are one step";
    ASSERT_EQ(project().maps.size(), 1u);
    EXPECT_NEAR(all()[0].width / all()[0].height, 4, 1e-3f);
    EXPECT_TRUE(project().masterOf(all()[0].wears)->surface.decal);
    EXPECT_TRUE(project().instance(all()[0].wears)) << "the plain one stays as it is";
    ASSERT_TRUE(waitFor([&] { return at(there).green() > at(there).red() + 40; }, 8000)) << "it is seen where it was let go";
    // A second picture is another instance of the same master.
    const size_t masters = project().masters.size();
    drop(&canvas(), (there - QPointF(0, 90)).toPoint(), data);
    ASSERT_TRUE(waitFor([&] { return all().size() == 2; }, 8000));
    EXPECT_EQ(project().masters.size(), masters);
    session().undoStack()->undo();
    session().undoStack()->undo();
    EXPECT_TRUE(all().empty() && project().maps.empty());
}

// Words from anywhere lie there as letters, in the tint of what shows them, and can be typed as well.
TEST_F(DecalsWindow, WordsThatAreDroppedLieOnTheMesh) {
    QMimeData data;
    data.setText(" 427 ");
    const int steps = session().undoStack()->count();
    const QPointF there = middleOf() + QPointF(0, 40);
    drop(&canvas(), there.toPoint(), data);
    ASSERT_TRUE(waitFor([&] { return all().size() == 1; }, 8000)) << "drawn in the background";
    ready();
    EXPECT_EQ(session().undoStack()->count(), steps + 1) << "map, master, instance and decal are one step";
    EXPECT_EQ(all()[0].name, "427");
    ASSERT_EQ(project().maps.size(), 1u);
    const Result<Image> picture = readImage(session().assets().resolve(project().maps[0]->path));
    ASSERT_TRUE(picture);
    EXPECT_NEAR(all()[0].width / all()[0].height, float(picture->width) / float(picture->height), 1e-3f);
    // Letters are there and gaps between them: both kinds of pixel in the middle of the box.
    const auto brightest = [&] {
        int light = 0;
        for (int x = -30; x <= 30; x += 2) light = std::max(light, at(there + QPointF(x, 0)).lightness());
        return light;
    };
    session().undoStack()->undo();
    ready();
    const int bare = brightest();
    session().undoStack()->redo();
    ASSERT_TRUE(waitFor([&] { return brightest() > bare + 30; }, 8000)) << "white letters on " << bare;
    EXPECT_TRUE(project().masterOf(all()[0].wears)->surface.decal);
    // Typed, in the middle of the view.
    QTimer::singleShot(0, [] {
        auto* box = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(box);
        box->setTextValue("Depot");
        box->accept();
    });
    menu("decalAdd", "Words…");
    ASSERT_TRUE(waitFor([&] { return all().size() == 2; }, 8000));
    EXPECT_EQ(all()[1].name, "Depot");
    EXPECT_EQ(project().maps.size(), 2u);
    // Other words in their place: one step of undo, letters as high as before.
    const float high = all()[1].height, wide = all()[1].width;
    QTimer::singleShot(0, [] {
        auto* box = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(box);
        EXPECT_EQ(box->textValue(), "Depot");
        box->setTextValue("Depot, ring road");
        box->accept();
    });
    const int before = session().undoStack()->count();
    menu("decalMore", "Change the words…");
    ASSERT_TRUE(waitFor([&] { return all()[1].name == "Depot, ring road"; }, 8000));
    EXPECT_EQ(session().undoStack()->count(), before + 1);
    EXPECT_FLOAT_EQ(all()[1].height, high);
    EXPECT_GT(all()[1].width, 2 * wide);
    EXPECT_EQ(project().maps.size(), 2u);
    session().undoStack()->undo();
    EXPECT_EQ(all()[1].name, "Depot");
    EXPECT_TRUE(session().assets().map(project(), project().maps[1]->id)) << "its picture is still there";
    // What holds no letters is said, and nothing changes.
    data.setText("\n");
    QString said;
    QObject::connect(&session(), &Session::said, &canvas(), [&](const QString& sentence) { said = sentence; });
    const int now = session().undoStack()->count();
    drop(&canvas(), there.toPoint(), data);
    ASSERT_TRUE(waitFor([&] { return said.contains("no letters"); }, 8000));
    EXPECT_EQ(session().undoStack()->count(), now);
}

} // namespace
} // namespace hue
