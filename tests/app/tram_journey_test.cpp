// The whole way from a bare sheet of a tram to one that is painted, lettered and handed over, with mouse and keys, judged by pixels.
#include "app/stations/paint/channel_panel.h"
#include "core/mesh/paint_data.h"
#include "core/picture/sight.h"
#include "tests/app/paint_fixture.h"
#include "tests/test_glb.h"

#include <QComboBox>
#include <QImage>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>

namespace hue {
namespace {

using namespace test;

class TramJourney : public PaintWindow {
  protected:
    enum Finish { Enamel, Primer, Metal, Rust };
    /// Base colors of the starting point, as they are shown.
    static QColor colorOf(Finish f) {
        const float linear[4][3] = {{0.42f, 0.24f, 0.05f}, {0.27f, 0.22f, 0.17f}, {0.56f, 0.55f, 0.53f}, {0.21f, 0.07f, 0.025f}};
        const auto encoded = [](float x) { return int(std::lround(255 * linearToSrgb(x))); };
        return {encoded(linear[f][0]), encoded(linear[f][1]), encoded(linear[f][2])};
    }
    static int apart(const QColor& a, const QColor& b) {
        return std::max({std::abs(a.red() - b.red()), std::abs(a.green() - b.green()), std::abs(a.blue() - b.blue())});
    }
    bool shows(const QPoint& where, Finish f) { return apart(at(where), colorOf(f)) < 4; }
    /// A place of the canvas, from the sheet's own metres: 2 wide, 1.25 high, its middle at 0.
    QPoint on(float x, float y) {
        const auto p = pixelOf(seenFrom(), {x, y, 0.02f});
        return p ? QPoint(int((*p)[0]), int((*p)[1])) : QPoint();
    }
    void typeRule(const char* words) {
        auto& rule = named<QLineEdit>("paintRule");
        key(&canvas(), Qt::Key_R);
        rule.clear();
        QTest::keyClicks(&rule, words);
        key(&rule, Qt::Key_Return);
        ready();
    }
    void send(const QString& what) {
        window->showStation("dispatch");
        DispatchPage& page = dispatch();
        page.findChild<QLineEdit*>("dispatchFolder")->setText(folder->filePath("out"));
        auto* size = page.findChild<QComboBox*>("dispatchSize");
        size->setCurrentIndex(size->findData(1024));
        auto* worn = page.findChild<QComboBox*>("dispatchWorn");
        const int entry = worn->findText(what, Qt::MatchStartsWith);
        ASSERT_GE(entry, 0);
        worn->setCurrentIndex(entry);
        // The sheet's first UVs tile, its second ones lie side by side.
        if (auto* uvs = page.findChild<QComboBox*>("dispatchUvSet"); uvs->isEnabled()) uvs->setCurrentIndex(1);
        QTest::mouseClick(page.findChild<QPushButton*>("glbButton"), Qt::LeftButton);
        ASSERT_TRUE(waitFor([&] { return !page.busy(); }, 120000));
        const QString report = page.findChild<QPlainTextEdit*>("dispatchReport")->toPlainText();
        ASSERT_TRUE(report.contains(" done") && !report.contains("not done")) << report.toStdString();
    }
};

TEST_F(TramJourney, FromABareSheetToOneThatOtherProgramsShowTheSame) {
    window->startNew("four-finishes");
    settle();
    const QString file = folder->filePath("tram.huestack");
    ASSERT_TRUE(window->saveTo(file));
    QMimeData mesh;
    mesh.setUrls({QUrl::fromLocalFile(QString::fromStdString(depotFolder() + "/meshes/tram_side_panel.glb"))});
    SpecimenView* specimen = window->lineup().specimen(0);
    drop(specimen, specimen->rect().center(), mesh);
    ASSERT_TRUE(waitFor([&] { return project().meshes.size() == 1; }, 20000));
    view("base_color");
    enter();
    const QPoint stroked = on(-0.5f, 0.25f), scratched = on(0.4f, 0.3f), low = on(-0.2f, -0.5f), clean = on(0.05f, 0.05f);
    for (const QPoint& p : {stroked, scratched, low, clean}) ASSERT_TRUE(shows(p, Enamel)) << at(p).name().toStdString();

    // Primer and bare metal by the brush, rust by a rule; each is seen where it is put and nowhere else.
    key(&canvas(), Qt::Key_S); // sets
    key(&canvas(), Qt::Key_1);
    stroke({on(-0.7f, 0.25f), on(-0.5f, 0.25f), on(-0.3f, 0.25f)});
    EXPECT_TRUE(shows(stroked, Primer)) << at(stroked).name().toStdString();
    key(&canvas(), Qt::Key_2);
    stroke({on(0.3f, 0.3f), on(0.5f, 0.3f)});
    EXPECT_TRUE(shows(scratched, Metal)) << at(scratched).name().toStdString();
    key(&canvas(), Qt::Key_3);
    typeRule("height -0.3..-0.45");
    EXPECT_TRUE(shows(low, Rust)) << at(low).name().toStdString();
    for (const auto& [where, finish] : {std::pair{stroked, Primer}, {scratched, Metal}, {clean, Enamel}}) EXPECT_TRUE(shows(where, finish));
    ASSERT_EQ(project().paintworks.size(), 1u);

    // A number as words, stripes as a picture, dropped where they belong; the number is pulled a little to the side.
    QMimeData number;
    number.setText("427");
    drop(&canvas(), on(0.1f, 0.05f), number);
    const auto decals = [&]() -> const std::vector<Decal>& { return project().lineup.specimens[0].decals; };
    ASSERT_TRUE(waitFor([&] { return decals().size() == 1; }, 20000));
    ready();
    EXPECT_TRUE(named<QToolButton>("handDecals").isChecked());
    const float before = decals()[0].position[0];
    stroke({on(0.1f, 0.05f), on(0.06f, 0.05f), on(0.0f, 0.05f)});
    EXPECT_NEAR(decals()[0].position[0], before - 0.1f, 0.02f);
    QImage stripes(64, 16, QImage::Format_RGBA8888);
    for (int x = 0; x < 64; ++x)
        for (int y = 0; y < 16; ++y) stripes.setPixelColor(x, y, (x + y) / 16 % 2 ? QColor(20, 20, 20) : QColor(230, 190, 20));
    ASSERT_TRUE(stripes.save(folder->filePath("stripes.png")));
    QMimeData picture;
    picture.setUrls({QUrl::fromLocalFile(folder->filePath("stripes.png"))});
    drop(&canvas(), on(0.6f, -0.15f), picture);
    ASSERT_TRUE(waitFor([&] { return decals().size() == 2; }, 20000));
    ready();
    const QPoint striped = on(0.6f, -0.15f);
    ASSERT_TRUE(waitFor([&] { return apart(at(striped), colorOf(Enamel)) > 20; }, 20000)) << at(striped).name().toStdString();
    // What that costs, in its three ways.
    auto& cost = named<QLabel>("decalCost");
    ASSERT_TRUE(waitFor([&] { return cost.isVisible() && !cost.text().isEmpty(); }, 20000));
    for (const char* way : {"operation", "triangle", "Baked"}) EXPECT_TRUE(cost.text().contains(way)) << cost.text().toStdString();

    // The paint lies beside the project for any reader of glTF.
    const PaintDataPtr paint = project().paintworks[0]->paint;
    key(window.get(), Qt::Key_S, Qt::ControlModifier);
    ASSERT_TRUE(waitFor([&] { return session().undoStack()->isClean() && session().runner().idle(); }, 20000));
    const QStringList painted = QDir(folder->filePath("paint")).entryList({"*.glb"});
    ASSERT_EQ(painted.size(), 1);
    const auto colors = Glb(folder->filePath("paint/" + painted[0]).toStdString()).colors("COLOR_0");
    ASSERT_EQ(colors.size(), paint->vertices());
    for (size_t v = 0; v < colors.size(); ++v)
        for (int c = 0; c < 3; ++c) ASSERT_NEAR(colors[v][size_t(c)], paint->value(c, v), 1e-4f);

    // Handed over: the mesh with its maps holds at each place the color that was seen there, decals and all.
    struct Seen {
        QPoint pixel;
        QColor color;
    };
    std::vector<Seen> seen;
    for (const QPoint& p : {stroked, scratched, low, clean, striped, on(0.6f, 0.5f)}) seen.push_back({p, at(p)});
    const View from = seenFrom();
    send("Specimen 1");
    const QStringList sent = QDir(folder->filePath("out")).entryList({"*.glb"});
    ASSERT_EQ(sent.size(), 1);
    const std::string out = folder->filePath("out/" + sent[0]).toStdString();
    const Glb glb(out);
    const auto& base = glb.json["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"];
    QImage map;
    const std::string bytes = glb.picture(base["index"].get<size_t>());
    ASSERT_TRUE(map.loadFromData(reinterpret_cast<const uchar*>(bytes.data()), int(bytes.size())));
    const bool secondSet = base.value("texCoord", 0) == 1;
    const auto handed = std::make_shared<Mesh>(*readMesh(out));
    const SurfaceRays rays(handed);
    for (const Seen& s : seen) {
        const auto hit = rays.hit(sightThrough(from, float(s.pixel.x()) + 0.5f, float(s.pixel.y()) + 0.5f));
        ASSERT_TRUE(hit);
        float u = 0, v = 0;
        for (size_t corner = 0; corner < 3; ++corner) {
            const Vertex& at = handed->vertices[handed->indices[3 * hit->triangle + corner]];
            const auto& uv = secondSet ? at.uv1 : at.uv0;
            u += hit->weights[corner] * uv[0], v += hit->weights[corner] * uv[1];
        }
        const QColor there = map.pixelColor(std::clamp(int(u * float(map.width())), 0, map.width() - 1),
                                            std::clamp(int(v * float(map.height())), 0, map.height() - 1));
        EXPECT_LT(apart(there, s.color), 24) << there.name().toStdString() << " where " << s.color.name().toStdString() << " was seen";
    }
    // And the decals alone, to be laid over a sheet that tiles.
    send("Decals of specimen 1");
    EXPECT_EQ(QDir(folder->filePath("out")).entryList({"*.glb"}).size(), 2);
    // All of it is undone step by step, and the sheet is bare again.
    window->showStation("paint");
    while (session().undoStack()->canUndo() && !(project().paintworks.empty() && decals().empty())) session().undoStack()->undo();
    ready();
    for (const QPoint& p : {stroked, scratched, low, clean}) EXPECT_TRUE(shows(p, Enamel)) << at(p).name().toStdString();
}

} // namespace
} // namespace hue
