// The station Maps, driven by mouse and keys.
#include "app/parts/map_canvas.h"
#include "app/parts/theme.h"
#include "app/session/map_service.h"
#include "app/stations/graph/make_map_dialog.h"
#include "app/stations/maps/map_draw_pane.h"
#include "app/stations/maps/map_pack_pane.h"
#include "app/stations/maps/maps_page.h"
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/image_files/image_file.h"
#include "core/maps/normal_tools.h"
#include "core/maps/tiling.h"
#include "tests/app/app_fixture.h"
#include "tests/test_folder.h"
#include "tests/test_maps.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableView>
#include <QToolButton>
#include <QTreeView>
#include <filesystem>
#include <set>
#include <thread>

namespace hue {
namespace {

using namespace test;

class MapsTest : public Window {
  protected:
    void SetUp() override {
        Window::SetUp();
        if (HasFatalFailure()) return;
        ASSERT_TRUE(window->saveTo(folder->path() + "/yard.huestack"));
        window->showStation("maps");
    }
    QString save(const char* name, const Image& image, PixelEncoding encoding = PixelEncoding::Data) {
        const QString file = folder->path() + "/" + name;
        EXPECT_TRUE(writeImage(file.toStdString(), image, encoding));
        return file;
    }
    /// What the desktop sends when files are let go over the page.
    void dropFiles(const QStringList& files) {
        QMimeData data;
        QList<QUrl> urls;
        for (const QString& f : files) urls << QUrl::fromLocalFile(f);
        data.setUrls(urls);
        drop(&page(), QPoint(100, 100), data);
        quiet();
    }
    /// Until no job runs and every map was looked at.
    void quiet() {
        ASSERT_TRUE(waitFor(
            [&] {
                if (window->mapService().busy() || window->mapService().lookingAtMaps()) return false;
                for (const auto& m : project().maps)
                    if (!window->mapService().knowledge(*m)) return false;
                return true;
            },
            30000));
        QTest::qWait(20);
    }
    MapsPage& page() { return maps(); }
    const MapFile* named(const std::string& name) {
        for (const auto& m : project().maps)
            if (m->name == name) return m.get();
        return nullptr;
    }
    template <class W> W* child(const char* name) { return page().findChild<W*>(name); }
    void click(const char* name) {
        auto* b = child<QAbstractButton>(name);
        ASSERT_TRUE(b) << name;
        ASSERT_TRUE(b->isEnabled()) << name;
        QTest::mouseClick(b, Qt::LeftButton);
        quiet();
    }
};

TEST_F(MapsTest, FilesComeInAsASetInOneStepWithTheirKinds) {
    const Plane height = sampleHeight(64, 64);
    dropFiles({save("setts_color.png", sampleColors(64, 64, 3), PixelEncoding::Srgb),
               save("setts_normal.png", normalsFromHeight(height, {1, 0.05f})),
               save("setts_height.png", imageOf({height}, SampleType::U16))});
    ASSERT_EQ(project().maps.size(), 3u);
    EXPECT_EQ(project().mapSets(), std::vector<std::string>{"setts"});
    EXPECT_EQ(project().mapOfSet("setts", "normal")->kind, MapKind::Normal);
    EXPECT_EQ(project().mapOfSet("setts", "height")->kind, MapKind::Height);
    session().undoStack()->undo();
    EXPECT_TRUE(project().maps.empty()) << "one step";
}

TEST_F(MapsTest, AFolderComesInAndWhatIsNoImageIsNamed) {
    std::filesystem::create_directories(folder->path().toStdString() + "/set");
    save("set/wall_color.png", sampleColors(32, 32, 3));
    QFile broken(folder->path() + "/set/wall_rough.png");
    ASSERT_TRUE(broken.open(QIODevice::WriteOnly));
    broken.write("no picture");
    broken.close();
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    dropFiles({folder->path() + "/set"});
    EXPECT_EQ(project().maps.size(), 1u);
    EXPECT_TRUE(said.contains("wall_rough.png")) << said.toStdString();
}

TEST_F(MapsTest, ChannelsStandSideBySideWithTheirHistograms) {
    dropFiles(
        {save("masks.png", imageOf({sampleHeight(40, 40), Plane(40, 40, 0.5f), sampleHeight(40, 40), Plane(40, 40, 1)}, SampleType::U8))});
    page().showPane(MapsPage::Channels);
    ASSERT_TRUE(waitFor([&] { return !page().look()->canvas(0)->image().isNull(); }, 5000));
    EXPECT_EQ(page().look()->canvas(1)->image().pixelColor(10, 10).red(), 128);
    EXPECT_TRUE(page().look()->histogram(3)->words().contains("carries nothing"));
    // The pointer tells exact values.
    MapCanvas* canvas = page().look()->canvas(1);
    const QRectF place = canvas->pictureRect();
    QTest::mouseMove(canvas, place.center().toPoint());
    QTest::mouseMove(canvas, QPointF(place.x() + place.width() * 10.5 / 40, place.y() + place.height() * 30.5 / 40).toPoint());
    ASSERT_TRUE(waitFor([&] { return !canvas->readoutText().isEmpty(); }, 2000));
    EXPECT_EQ(canvas->readoutText(), "10, 30  0.5020 (128)");
}

TEST_F(MapsTest, NormalsTakenForAColorAreReportedAndMendedAtAClick) {
    dropFiles({save("scan.png", normalsFromHeight(sampleHeight(64, 64), {1, 0.05f}))});
    EXPECT_EQ(project().maps[0]->kind, MapKind::Normal) << "its pixels tell";
    auto* kind = child<QComboBox>("mapKind");
    kind->setCurrentIndex(int(MapKind::Color));
    Q_EMIT kind->activated(int(MapKind::Color));
    EXPECT_EQ(project().maps[0]->kind, MapKind::Color);
    ASSERT_TRUE(waitFor([&] { return !session().problems().empty(); }, 5000));
    EXPECT_EQ(session().problems()[0].code, "map.wrong-kind");
    ASSERT_FALSE(session().problems()[0].fixes.empty());
    EXPECT_TRUE(session().apply("mend", session().problems()[0].fixes[0].edit));
    EXPECT_EQ(project().maps[0]->kind, MapKind::Normal);
}

TEST_F(MapsTest, AChangedFileIsReadAgain) {
    const QString file = save("wall_color.png", sampleColors(16, 16, 3));
    dropFiles({file});
    const auto before = window->mapService().knowledge(*project().maps[0]);
    QTest::qWait(500); // the watcher is set by now
    save("wall_color.png", imageOf({Plane(16, 16, 1), Plane(16, 16, 0), Plane(16, 16, 0)}, SampleType::U8));
    ASSERT_TRUE(waitFor(
        [&] {
            const auto now = window->mapService().knowledge(*project().maps[0]);
            return now && now->facts.pixels != before->facts.pixels;
        },
        8000));
    EXPECT_EQ(window->mapService().thumbnail(*project().maps[0]).pixelColor(4, 4), QColor(255, 0, 0));
}

TEST_F(MapsTest, ASeamIsMeasuredAndTakenAway) {
    const Image whole = sampleColors(160, 160, 3);
    Image cut(101, 93, 3, SampleType::U8);
    for (int y = 0; y < 93; ++y) std::copy_n(whole.row(y), cut.rowBytes(), cut.row(y));
    dropFiles({save("wall_color.png", cut, PixelEncoding::Srgb)});
    page().showPane(MapsPage::Tiling);
    ASSERT_TRUE(waitFor([&] { return page().tile()->numbers().contains(": shows"); }, 5000)) << page().tile()->numbers().toStdString();
    click("tileTry");
    ASSERT_TRUE(waitFor([&] { return page().tile()->numbers().contains("Seam") && !page().tile()->numbers().contains(": shows"); }, 5000));
    click("tileKeep");
    ASSERT_EQ(project().maps.size(), 2u);
    const auto made = readImage(window->mapService().path(*project().maps[1]));
    ASSERT_TRUE(made);
    EXPECT_LT(seamMeter(*made).worst(), seamMeter(cut).worst() / 2);
}

TEST_F(MapsTest, AHeightBecomesANormalMapOfTheProject) {
    dropFiles({save("yard_height.png", imageOf({sampleHeight(64, 64)}, SampleType::U16))});
    page().showPane(MapsPage::Convert);
    ASSERT_TRUE(waitFor([&] { return child<QAbstractButton>("convertKeep")->isEnabled(); }, 5000));
    EXPECT_EQ(child<QComboBox>("convertWhat")->currentText(), "normals from height");
    click("convertKeep");
    ASSERT_EQ(project().maps.size(), 2u);
    EXPECT_EQ(project().maps[1]->kind, MapKind::Normal);
    EXPECT_EQ(page().current(), project().maps[1]->id) << "it is shown";
}

TEST_F(MapsTest, AGlossSetBecomesAMetallicSet) {
    auto plain = [](float r, float g, float b) { return imageOf({Plane(16, 16, r), Plane(16, 16, g), Plane(16, 16, b)}, SampleType::U8); };
    dropFiles({save("rail_diffuse.png", plain(0, 0, 0)), save("rail_specular.png", plain(0.8f, 0.7f, 0.6f)),
               save("rail_gloss.png", imageOf({Plane(16, 16, 0.7f)}, SampleType::U8))});
    ASSERT_TRUE(project().mapOfSet("rail", "gloss"));
    page().choose(project().mapOfSet("rail", "gloss")->id);
    page().showPane(MapsPage::Convert);
    ASSERT_TRUE(waitFor([&] { return child<QAbstractButton>("convertKeep")->isEnabled(); }, 5000));
    click("convertKeep");
    const MapFile* rough = project().mapOfSet("rail metallic", "roughness");
    ASSERT_TRUE(rough);
    EXPECT_NEAR(readImage(window->mapService().path(*rough))->at(3, 3, 0), 0.3f, 0.01f);
    EXPECT_GT(readImage(window->mapService().path(*project().mapOfSet("rail metallic", "metallic")))->at(3, 3, 0), 0.95f);
}

TEST_F(MapsTest, FormatsAreTriedComparedAndUsed) {
    dropFiles({save("wall_color.png", sampleColors(64, 64, 3), PixelEncoding::Srgb)});
    page().showPane(MapsPage::Compress);
    ASSERT_TRUE(waitFor([&] { return page().compress()->table()->model()->rowCount() > 4; }, 5000));
    click("compressTry");
    auto* model = page().compress()->table()->model();
    int row = -1;
    for (int r = 0; r < model->rowCount(); ++r)
        if (model->index(r, 0).data().toString() == "BC1") row = r;
    ASSERT_GE(row, 0);
    EXPECT_GT(model->index(row, 3).data().toDouble(), 28) << "decibels";
    page().compress()->table()->selectRow(row);
    // Space shows the original and back.
    page().compress()->table()->setFocus();
    const QString before = child<QComboBox>("compressShow")->currentText();
    key(page().compress()->table(), Qt::Key_Space);
    EXPECT_NE(child<QComboBox>("compressShow")->currentText(), before);
    click("compressUse");
    EXPECT_EQ(project().maps[0]->format, "bc1");
    page().compress()->table()->selectRow(row);
    const QString unasked = child<QLabel>("compressSaid")->text();
    click("compressPropose");
    EXPECT_NE(child<QLabel>("compressSaid")->text(), unasked) << "the reason";
    // The smallest that keeps the wanted decibels, by the table's own figures.
    const double least = child<QDoubleSpinBox>("compressLeast")->value();
    const int proposed = page().compress()->table()->currentIndex().row();
    EXPECT_GE(model->index(proposed, 3).data().toDouble(), least - 0.05);
    EXPECT_TRUE(child<QLabel>("compressSaid")->text().contains(model->index(proposed, 0).data().toString()));
}

TEST_F(MapsTest, SeparateMapsArePackedAndTheMasterReadsThePackedOne) {
    // A master that reads three maps.
    dropFiles({save("yard_occlusion.png", imageOf({sampleHeight(32, 32)}, SampleType::U8)),
               save("yard_roughness.png", imageOf({Plane(32, 32, 0.6f)}, SampleType::U8)),
               save("yard_metallic.png", imageOf({Plane(32, 32, 0.2f)}, SampleType::U8))});
    const Id master = session().masterId();
    for (const char* role : {"occlusion", "roughness", "metallic"}) {
        Node n = makeNode("image");
        n.settings["map"] = project().mapOfSet("yard", role)->id;
        ASSERT_TRUE(session().apply("add", [&](const Project& p) { return edit::addNode(p, master, n); }));
        ASSERT_TRUE(session().apply("wire", [&](const Project& p) { return edit::connectChannel(p, master, {n.id, "color", "r"}, role); }));
    }
    auto fetches = [&] { return costOf(*compileSurface(project(), *session().master()).program, nullptr, {}).fetches; };
    EXPECT_EQ(fetches(), 3);
    page().showPane(MapsPage::Pack);
    EXPECT_EQ(page().pack()->lane(1)->lane().source, "roughness");
    click("packButton");
    ASSERT_EQ(project().packings.size(), 1u);
    const MapFile* packed = project().map(project().packings[0]->map);
    ASSERT_TRUE(packed);
    const auto image = readImage(window->mapService().path(*packed));
    ASSERT_TRUE(image);
    EXPECT_NEAR(image->at(5, 5, 1), 0.6f, 0.003f);
    click("packUse");
    EXPECT_EQ(fetches(), 1);
    EXPECT_EQ(graph().channelWires.at("roughness").take, "g");
    EXPECT_TRUE(child<QLabel>("packSaid")->text().contains("3 before, 1 now")) << child<QLabel>("packSaid")->text().toStdString();
    session().undoStack()->undo();
    EXPECT_EQ(fetches(), 3) << "one step";

    // The recipe is live.
    const std::string before = project().packings[0]->fingerprint;
    QTest::qWait(500);
    save("yard_roughness.png", imageOf({Plane(32, 32, 0.9f)}, SampleType::U8));
    ASSERT_TRUE(waitFor([&] { return project().packings[0]->fingerprint != before; }, 10000));
    EXPECT_NEAR(readImage(window->mapService().path(*project().map(project().packings[0]->map)))->at(5, 5, 1), 0.9f, 0.003f);
}

TEST_F(MapsTest, EachLaneShowsWhatItWouldHoldBeforeAnythingIsPacked) {
    dropFiles({save("yard_occlusion.png", imageOf({Plane(16, 16, 0.8f)}, SampleType::U8)),
               save("yard_roughness.png", imageOf({Plane(32, 32, 0.6f)}, SampleType::U8)),
               save("yard_metallic.png", imageOf({Plane(32, 32, 0.2f)}, SampleType::U8))});
    page().showPane(MapsPage::Pack);
    MapPackPane* pane = page().pack();
    auto grey = [&](int lane) {
        const QImage& image = pane->lane(lane)->picture()->image();
        return image.isNull() ? -1 : qGray(image.pixel(image.width() / 2, image.height() / 2));
    };
    auto becomes = [&](int lane, int value) { return waitFor([&] { return std::abs(grey(lane) - value) < 3; }, 5000); };
    EXPECT_TRUE(becomes(0, 204)) << grey(0);
    EXPECT_TRUE(becomes(1, 153)) << grey(1);
    EXPECT_TRUE(becomes(2, 51)) << grey(2);
    EXPECT_EQ(grey(3), -1) << "the fourth lane is empty";
    // An operation shows at once.
    auto* add = pane->lane(1)->findChild<QToolButton*>();
    ASSERT_TRUE(add && add->menu());
    add->menu()->actions().first()->trigger();
    EXPECT_TRUE(becomes(1, 102)) << grey(1);
    // So does another constant.
    pane->lane(3)->fromBox()->setFocus();
    QTest::keyClick(pane->lane(3)->fromBox(), Qt::Key_Down);
    auto* constant = pane->lane(3)->findChild<QDoubleSpinBox*>();
    constant->setValue(0.4);
    EXPECT_TRUE(becomes(3, 102)) << grey(3);
    EXPECT_EQ(project().maps.size(), 3u) << "nothing was packed";
}

TEST_F(MapsTest, AMaskIsDrawnWithTheMouseAndKept) {
    page().showPane(MapsPage::Draw);
    MaskCanvas* canvas = page().draw()->canvas();
    const QRectF r = canvas->pictureRect();
    auto at = [&](double x, double y) { return QPoint(int(r.left() + x * r.width()), int(r.top() + y * r.height())); };
    QTest::mousePress(canvas, Qt::LeftButton, {}, at(0.25, 0.25));
    QTest::mouseMove(canvas, at(0.6, 0.6));
    QTest::mouseRelease(canvas, Qt::LeftButton, {}, at(0.75, 0.75));
    ASSERT_EQ(page().draw()->drawing().shapes.size(), 1u);
    click("maskKeep");
    ASSERT_EQ(project().maps.size(), 1u);
    const auto mask = readImage(window->mapService().path(*project().maps[0]));
    ASSERT_TRUE(mask);
    EXPECT_EQ(mask->at(512, 512, 0), 1);
    EXPECT_EQ(mask->at(20, 20, 0), 0);
}

TEST_F(MapsTest, SeveralWiresBecomeMapsInOneDialogAndOneStep) {
    window->showStation("graph");
    const Id rough = type("fractal", {80, 60}), metal = type("worley", {80, 300});
    wireToChannel(rough, "out", "roughness");
    wireToChannel(metal, "out", "metallic");
    const int before = costOf(*compileSurface(project(), *session().master()).program, nullptr, {}).operationsPerPixel();
    board().select({rough, metal});
    board().setFocus();
    key(&board(), Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    auto* dialog = window->findChild<MakeMapDialog*>();
    ASSERT_TRUE(dialog);
    auto* first = dialog->findChild<QLineEdit*>("makeName0");
    auto* second = dialog->findChild<QLineEdit*>("makeName1");
    ASSERT_TRUE(first && second) << "each has a name of its own";
    first->setText("same");
    second->setText("same");
    dialog->findChild<QComboBox*>("makeSize")->setCurrentIndex(0);
    QTest::mouseClick(dialog->findChild<QPushButton*>("makeButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return project().maps.size() == 2; }, 20000));
    rest();
    EXPECT_NE(project().maps[0]->name, project().maps[1]->name);
    EXPECT_NE(contentOf(window->mapService().path(*project().maps[0])), contentOf(window->mapService().path(*project().maps[1])));
    EXPECT_LT(costOf(*compileSurface(project(), *session().master()).program, nullptr, {}).operationsPerPixel(), before / 2);
    for (const char* channel : {"roughness", "metallic"}) EXPECT_EQ(graph().find(graph().channelWires.at(channel).node)->kind, "image");
    session().undoStack()->undo();
    EXPECT_TRUE(project().maps.empty()) << "one step";
    EXPECT_EQ(graph().channelWires.at("metallic").node, metal);
}

TEST_F(MapsTest, AWireBecomesAMapThatTakesItsPlaceAndFollowsIt) {
    window->showStation("graph");
    const Id noise = type("fractal", {80, 60});
    wireToChannel(noise, "out", "roughness");
    const int before = costOf(*compileSurface(project(), *session().master()).program, nullptr, {}).operationsPerPixel();
    board().select({noise});
    board().setFocus();
    key(&board(), Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    auto* dialog = window->findChild<MakeMapDialog*>();
    ASSERT_TRUE(dialog);
    EXPECT_TRUE(dialog->findChild<QLabel*>("makeSaid")->text().contains("operations"));
    dialog->findChild<QComboBox*>("makeSize")->setCurrentIndex(0);
    QTest::mouseClick(dialog->findChild<QPushButton*>("makeButton"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return project().maps.size() == 1; }, 10000));
    settle();
    EXPECT_LT(costOf(*compileSurface(project(), *session().master()).program, nullptr, {}).operationsPerPixel(), before / 2);
    EXPECT_EQ(graph().channelWires.at("roughness").take, "r");
    EXPECT_TRUE(graph().find(graph().channelWires.at("roughness").node));
    const auto first = readImage(window->mapService().path(*project().maps[0]));
    // Another noise, and the map is made again.
    const std::string print = project().maps[0]->origin.fingerprint;
    ASSERT_TRUE(session().apply(
        "change", [&](const Project& p) { return edit::setConstant(p, session().masterId(), noise, "scale", Value::number(9)); }));
    ASSERT_TRUE(waitFor([&] { return project().maps[0]->origin.fingerprint != print; }, 10000));
    EXPECT_NE(readImage(window->mapService().path(*project().maps[0]))->samples, first->samples);
    // One step was made, by hand; taken back, the map follows back.
    ASSERT_TRUE(waitFor([&] { return window->mapService().settled(); }, 10000));
    const int steps = session().undoStack()->index();
    session().undoStack()->undo();
    EXPECT_EQ(session().undoStack()->index(), steps - 1);
    ASSERT_TRUE(waitFor(
        [&] {
            const auto now = readImage(window->mapService().path(*project().maps[0]));
            return now && now->samples == first->samples && window->mapService().settled();
        },
        10000));
    EXPECT_EQ(project().maps[0]->origin.fingerprint, print);
    EXPECT_TRUE(session().undoStack()->canRedo()) << "following is no step, and cuts none off";
}

TEST_F(MapsTest, AWorkOnMapsCanBeCancelledAndChangesNothing) {
    dropFiles({save("big_height.png", imageOf({sampleHeight(2048, 2048)}, SampleType::U16))});
    ASSERT_EQ(project().maps.size(), 1u);
    const int steps = session().undoStack()->index();
    // But for the journal, which is written a second after an edit.
    const auto files = [&] {
        std::set<std::string> all;
        for (const auto& e : std::filesystem::recursive_directory_iterator(folder->path().toStdString()))
            if (e.is_regular_file() && e.path().extension() != ".journal") all.insert(e.path().string());
        return all;
    };
    const auto before = files();
    auto convert = [&](const Work& control) -> Result<std::vector<NewMap>> {
        // Long enough that only being cancelled ends it here.
        for (int i = 0; i < 3000; ++i) {
            if (control.stopped()) return Error{"cancelled", "Cancelled.", {}};
            if (control.progress) control.progress(float(i) / 3000);
            std::this_thread::sleep_for(std::chrono::milliseconds(10));
        }
        return std::vector<NewMap>{};
    };
    window->mapService().addMade("made", convert);
    ASSERT_TRUE(waitFor([&] { return window->mapService().busy(); }, 2000));
    QTest::qWait(30);
    window->mapService().cancel();
    ASSERT_TRUE(waitFor([&] { return !window->mapService().busy(); }, 5000));
    EXPECT_EQ(session().undoStack()->index(), steps);
    EXPECT_EQ(files(), before);
    // The next one is done.
    page().showPane(MapsPage::Convert);
    ASSERT_TRUE(waitFor([&] { return child<QAbstractButton>("convertKeep")->isEnabled(); }, 10000));
    click("convertKeep");
    EXPECT_EQ(project().maps.size(), 2u);
}

TEST_F(MapsTest, SpecimensShowMapsAsTheirFormatsMakeThem) {
    // Unrelated channels are what the smallest format spoils most.
    dropFiles({save("wall_color.png", sampleMasks(64, 64), PixelEncoding::Srgb)});
    MapFile m = *project().maps[0];
    m.format = "bc1";
    ASSERT_TRUE(session().apply("format", [&](const Project& p) { return edit::changeMap(p, m); }));
    Node n = makeNode("image");
    n.settings["map"] = m.id;
    ASSERT_TRUE(session().apply("add", [&](const Project& p) { return edit::addNode(p, session().masterId(), n); }));
    ASSERT_TRUE(session().apply("wire", [&](const Project& p) {
        return edit::connectChannel(p, session().masterId(), {n.id, "color", ""}, "base_color");
    }));
    view("base_color");
    const QImage original = window->lineup().specimen(0)->picture();
    key(window.get(), Qt::Key_F11);
    ASSERT_TRUE(waitFor([&] { return window->lineup().specimen(0)->picture() != original; }, 10000));
    // Against the same specimen with its maps as they are.
    Lineup l = project().lineup;
    l.yardstick.what = Yardstick::What::Original;
    ASSERT_TRUE(session().apply("yardstick", [&](const Project& p) { return edit::setLineup(p, l); }));
    ASSERT_TRUE(waitFor([&] { return window->lineup().specimen(0)->finished().comparison.has_value(); }, 10000));
    EXPECT_GT(window->lineup().specimen(0)->finished().comparison->mean, 0.01f);
    key(window.get(), Qt::Key_F11);
    settle();
}

TEST_F(MapsTest, ASetIsWornThroughTheMastersMapParametersAndSwapped) {
    dropFiles({save("yard_color.png", sampleColors(16, 16, 3)), save("yard_normal.png", normalsFromHeight(sampleHeight(16, 16), {})),
               save("wall_color.png", sampleColors(16, 16, 3)), save("wall_normal.png", normalsFromHeight(sampleHeight(16, 16), {}))});
    EXPECT_EQ(project().mapSets().size(), 2u);
    Parameter p;
    p.name = "Stone color";
    p.type = ParameterType::Map;
    p.mapKind = MapKind::Color;
    ASSERT_TRUE(session().apply("add", [&](const Project& q) { return edit::addParameter(q, session().masterId(), p); }));
    ASSERT_TRUE(session().apply("wear", [&](const Project& q) { return edit::wearSet(q, session().masterId(), "yard"); }));
    EXPECT_EQ(session().master()->parameters[0].standard.map, project().mapOfSet("yard", "base color")->id);
    ASSERT_TRUE(session().apply("swap", [&](const Project& q) { return edit::swapSets(q, "yard", "wall"); }));
    EXPECT_EQ(session().master()->parameters[0].standard.map, project().mapOfSet("wall", "base color")->id);
}

TEST_F(MapsTest, ASetIsWornByAMasterThatHasNoMapsYet) {
    dropFiles({save("yard_color.png", sampleColors(16, 16, 3)), save("yard_rough.png", imageOf({Plane(16, 16, 0.5f)}, SampleType::U8)),
               save("yard_height.png", imageOf({sampleHeight(16, 16)}, SampleType::U8))});
    const size_t cards = graph().nodes.size();
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    for (auto* action : page().findChildren<QAction*>())
        if (action->text() == "Wear this set") action->trigger();
    EXPECT_GT(graph().nodes.size(), cards);
    EXPECT_EQ(graph().channelWires.at("roughness").take, "r");
    EXPECT_TRUE(said.contains("No channel reads yard height")) << said.toStdString();
    session().undoStack()->undo();
    EXPECT_EQ(graph().nodes.size(), cards) << "one step";
}

TEST_F(MapsTest, AMapThatIsReadIsNotRemoved) {
    dropFiles({save("wall_color.png", sampleColors(16, 16, 3))});
    Node n = makeNode("image");
    n.settings["map"] = project().maps[0]->id;
    ASSERT_TRUE(session().apply("add", [&](const Project& p) { return edit::addNode(p, session().masterId(), n); }));
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    page().list()->setFocus();
    key(page().list(), Qt::Key_Delete);
    EXPECT_EQ(project().maps.size(), 1u);
    EXPECT_TRUE(said.contains("is read by")) << said.toStdString();
}

} // namespace
} // namespace hue
