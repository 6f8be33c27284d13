// What holds for the window as a whole: who wakes when, commands and keys, one project after another, closing.
#include "app/parts/theme.h"
#include "app/window/keys_dialog.h"
#include "core/compile/compile.h"
#include "core/make/made_maps.h"
#include "tests/app/app_fixture.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QSplitterHandle>
#include <QTableWidget>
#include <QToolButton>
#include <filesystem>

namespace hue {
namespace {

using namespace test;

const QString kDepot = QString::fromStdString(depotFile());

class HouseTest : public Window {
  protected:
    void TearDown() override {
        QSettings().remove("keys");
        Window::TearDown();
    }
    void openDepot() {
        window->setAsksBeforeClosing(false);
        ASSERT_TRUE(window->openFile(kDepot));
        rest();
    }
};

TEST_F(HouseTest, TurningASpecimenWakesNothingButPictures) {
    openDepot();
    for (const char* station : {"graph", "instances", "maps"}) {
        window->showStation(station);
        rest();
        const int compiles = compilationsDone(), fingerprints = fingerprintsTaken();
        int models = 0, facts = 0, knowledge = 0, tasks = 0;
        std::vector<QMetaObject::Connection> heard;
        for (QAbstractItemModel* model : window->findChildren<QAbstractItemModel*>()) {
            for (auto signal : {&QAbstractItemModel::modelReset}) heard.push_back(QObject::connect(model, signal, [&] { ++models; }));
            heard.push_back(QObject::connect(model, &QAbstractItemModel::layoutChanged, [&] { ++models; }));
            heard.push_back(QObject::connect(model, &QAbstractItemModel::rowsInserted, [&] { ++models; }));
        }
        heard.push_back(QObject::connect(&window->boardService(), &BoardService::factsChanged, [&] { ++facts; }));
        heard.push_back(QObject::connect(&window->mapService(), &MapService::knowledgeChanged, [&] { ++knowledge; }));
        heard.push_back(QObject::connect(&session().runner(), &Runner::idleChanged, [&] { ++tasks; }));
        SpecimenView* view = window->lineup().specimen(1);
        const QImage before = view->picture();
        QTest::mousePress(view, Qt::LeftButton, {}, QPoint(60, 60));
        for (int x = 61; x < 120; x += 6) {
            QTest::mouseMove(view, QPoint(x, 64));
            QTest::qWait(5);
        }
        QTest::mouseRelease(view, Qt::LeftButton, {}, QPoint(120, 64));
        settle();
        // Longer than any timer that collects changes.
        QTest::qWait(700);
        EXPECT_NE(view->picture(), before) << "it did turn";
        EXPECT_EQ(compilationsDone(), compiles) << station;
        EXPECT_EQ(fingerprintsTaken(), fingerprints) << station;
        EXPECT_EQ(models, 0) << station;
        EXPECT_EQ(facts, 0) << station;
        EXPECT_EQ(knowledge, 0) << station;
        EXPECT_EQ(tasks, 0) << station << ": nothing was started in the background";
        EXPECT_FALSE(session().dirty());
        for (const auto& c : heard) QObject::disconnect(c);
    }
}

TEST_F(HouseTest, ANewProjectLetsGoOfTheLastOnesFiles) {
    openDepot();
    const std::weak_ptr<ProjectFiles> files = session().files();
    const MapFile& first = *project().maps[0];
    const std::weak_ptr<const Map> map = session().assets().map(project(), first.id);
    ASSERT_FALSE(map.expired()) << "it is kept while the project is open";
    window->startNew("plain");
    rest();
    EXPECT_TRUE(waitFor([&] { return files.expired(); }, 10000)) << "maps, meshes and lights of a project that is closed";
    EXPECT_TRUE(map.expired());
}

TEST_F(HouseTest, MovingACardCompilesNothing) {
    const Id card = type("worley", QPoint(200, 120));
    rest();
    const int compiles = compilationsDone();
    ASSERT_TRUE(session().apply("move", [&](const Project& p) { return edit::moveNodes(p, session().masterId(), {{card, {60, 60}}}); }));
    QTest::qWait(700);
    EXPECT_EQ(compilationsDone(), compiles);
    EXPECT_EQ(board().layout().cards.at(card).rect.topLeft(), QPointF(60, 60)) << "but the board followed";
}

TEST_F(HouseTest, KeysCanBeChangedAndAreKept) {
    Commands& commands = window->commands();
    KeysDialog dialog(commands, {}, window.get());
    const auto rowOf = [&](const QString& id) {
        for (int r = 0; r < dialog.table()->rowCount(); ++r)
            if (dialog.table()->item(r, 0)->data(Qt::UserRole) == id) return r;
        return -1;
    };
    ASSERT_TRUE(dialog.change(rowOf("time.play"), {QKeySequence("Ctrl+P")}));
    EXPECT_EQ(dialog.table()->item(rowOf("time.play"), 2)->text(), "Ctrl+P");
    key(window.get(), Qt::Key_F5);
    EXPECT_FALSE(session().playing()) << "the old key means nothing any more";
    key(window.get(), Qt::Key_P, Qt::ControlModifier);
    EXPECT_TRUE(session().playing());
    const auto* play = window->findChild<QWidget*>("play");
    EXPECT_TRUE(play->toolTip().contains("Ctrl+P")) << play->toolTip().toStdString();
    MainWindow another;
    EXPECT_EQ(another.commands().keyText("time.play"), "Ctrl+P") << "kept for the next window";
    commands.resetKeys("time.play");
    EXPECT_EQ(commands.keyText("time.play"), "F5");
}

TEST_F(HouseTest, AKeyIsGivenToOneCommandOfAPlace) {
    Commands& commands = window->commands();
    QString why;
    EXPECT_FALSE(commands.setKeys("time.play", {QKeySequence("F7")}, &why));
    EXPECT_TRUE(why.contains("F7") && why.contains("Next view")) << why.toStdString();
    EXPECT_EQ(commands.keyText("time.play"), "F5");
    // Rename stands on F2 at two stations, each with its own meaning; and no two commands of one place share a key.
    EXPECT_EQ(commands.keyText("board.rename"), "F2");
    EXPECT_EQ(commands.keyText("instance.rename"), "F2");
    for (const Command& a : commands.all())
        for (const Command& b : commands.all()) {
            if (a.id >= b.id) continue;
            const bool meet = a.where.isEmpty() || b.where.isEmpty() || a.where == b.where;
            for (const QKeySequence& k : commands.keysOf(a.id))
                EXPECT_FALSE(meet && commands.keysOf(b.id).contains(k)) << a.id.toStdString() << " and " << b.id.toStdString();
        }
}

TEST_F(HouseTest, ACommandOfAnotherStationDoesNothingHere) {
    type("0.4", QPoint(200, 120));
    board().selectAll();
    window->showStation("dispatch");
    const size_t cards = graph().nodes.size();
    key(window.get(), Qt::Key_D, Qt::ControlModifier);
    EXPECT_EQ(graph().nodes.size(), cards) << "duplicating cards is a matter of the board";
    window->showStation("graph");
    key(&board(), Qt::Key_D, Qt::ControlModifier);
    EXPECT_EQ(graph().nodes.size(), cards * 2);
}

TEST_F(HouseTest, EveryCommandIsListedWithItsKeyAndFoundByIt) {
    key(window.get(), Qt::Key_F1);
    auto* dialog = window->findChild<KeysDialog*>();
    ASSERT_TRUE(dialog);
    EXPECT_EQ(dialog->table()->rowCount(), int(window->commands().all().size()));
    dialog->findChild<QLineEdit*>("findCommand")->setText("tidy");
    ASSERT_EQ(dialog->table()->rowCount(), 1);
    EXPECT_EQ(dialog->table()->item(0, 2)->text(), "F4");
    dialog->close();
}

TEST_F(HouseTest, ACardTypedFromAnOutputIsOneStepWithItsWire) {
    const Id number = type("0.4", QPoint(160, 120));
    board().select({number});
    const CardLayout& card = board().layout().cards.at(number);
    const CardRow* out = nullptr;
    for (const CardRow& r : card.rows)
        if (r.kind == CardRow::Kind::Output) out = &r;
    ASSERT_TRUE(out);
    QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(out->pin).toPoint());
    ASSERT_TRUE(board().selectedOutput());
    const int before = session().undoStack()->count();
    const size_t cards = graph().nodes.size();
    QTest::keyClicks(&board(), "m");
    QTest::keyClicks(board().addLine()->line(), "ultiply");
    key(board().addLine()->line(), Qt::Key_Return);
    settle();
    ASSERT_EQ(graph().nodes.size(), cards + 1);
    bool wired = false;
    for (const auto& [id, node] : graph().nodes)
        for (const auto& [port, wire] : node->wires) wired = wired || wire.node == number;
    EXPECT_TRUE(wired);
    EXPECT_EQ(session().undoStack()->count(), before + 1);
    session().undoStack()->undo();
    EXPECT_EQ(graph().nodes.size(), cards);
}

TEST_F(HouseTest, EachMasterIsSeenAsItWasLeft) {
    openDepot();
    const Id first = session().masterId(), other = project().masters[project().masters[0]->id == first ? 1 : 0]->id;
    board().setFocus();
    const Id someCard = graph().nodes.begin()->first;
    board().showCard(someCard);
    const QPointF left = board().toWidget({0, 0});
    session().showMaster(other);
    settle();
    EXPECT_NE(board().toWidget({0, 0}), left);
    session().showMaster(first);
    settle();
    EXPECT_EQ(board().toWidget({0, 0}), left);
}

TEST_F(HouseTest, NothingOfTheLastProjectIsLeftInANewOne) {
    openDepot();
    ASSERT_TRUE(waitFor([&] { return session().assets().library().bytes() > 0; }, 10000));
    const std::weak_ptr<ProjectFiles> files = session().files();
    auto* target = dispatch().findChild<QLineEdit*>("dispatchFolder");
    EXPECT_TRUE(target->text().contains("depot"));
    window->startNew("empty");
    EXPECT_TRUE(window->lineup().specimen(0)->picture().isNull()) << "no picture of another project is shown";
    settle();
    EXPECT_TRUE(target->text().isEmpty());
    EXPECT_EQ(board().zoom(), 1) << "readable, and nothing to fit yet";
    EXPECT_TRUE(waitFor([&] { return files.expired(); }, 10000)) << "its maps are gone from memory";
}

TEST_F(HouseTest, AnOlderPictureKeepsItsProportions) {
    settle();
    SpecimenView* view = window->lineup().specimen(0);
    // A picture that is twice as wide as high, in a place that is about as wide as high.
    QImage wide(200, 100, QImage::Format_RGB32);
    wide.fill(Qt::red);
    view->resize(300, 330);
    FinishedPicture old;
    old.picture = wide;
    old.serial = 1u << 30;
    view->show(old);
    const QImage shown = view->grab().toImage();
    int red = 0, top = 1000, bottom = 0;
    for (int y = 0; y < 300; ++y)
        if (QColor(shown.pixel(150, y)) == Qt::red) ++red, top = std::min(top, y), bottom = y;
    EXPECT_NEAR(red, 150, 3) << "as high as its width asks for, not stretched";
    EXPECT_NEAR(top + bottom, 300, 6) << "in the middle";
}

TEST_F(HouseTest, TheStripFoldsAndComesBack) {
    const int high = window->lineup().height();
    ASSERT_GT(high, 200);
    key(window.get(), Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    QTest::qWait(50);
    EXPECT_LT(window->lineup().height(), 60);
    auto* edge = window->lineup().parentWidget()->findChild<QSplitterHandle*>();
    ASSERT_TRUE(edge);
    for (QSplitterHandle* h : window->findChildren<QSplitterHandle*>())
        if (h->isVisible()) edge = h;
    QTest::mouseDClick(edge, Qt::LeftButton);
    QTest::qWait(50);
    EXPECT_NEAR(window->lineup().height(), high, 2);
    settle();
    EXPECT_FALSE(window->lineup().specimen(0)->picture().isNull());
}

TEST_F(HouseTest, ClosingWithARunningBakeIsImmediateAndLeavesNothingHalf) {
    openDepot();
    window->showStation("dispatch");
    const QString out = folder->path() + "/out";
    dispatch().findChild<QLineEdit*>("dispatchFolder")->setText(out);
    dispatch().findChild<QComboBox*>("dispatchSize")->setCurrentIndex(4);
    QTest::mouseClick(dispatch().findChild<QPushButton*>("bakeButton"), Qt::LeftButton);
    ASSERT_TRUE(dispatch().busy());
    QTest::qWait(150);
    QElapsedTimer clock;
    clock.start();
    window->close();
    window.reset();
    EXPECT_LT(clock.elapsed(), 2500);
    for (const auto& entry : std::filesystem::recursive_directory_iterator(out.toStdString()))
        EXPECT_FALSE(entry.is_regular_file() && entry.path().filename().string().find(".part") != std::string::npos) << entry.path();
    // For what tears down.
    window = std::make_unique<MainWindow>();
}

/// Contrast of two colors as WCAG 2.1 has it: 1 to 21.
double contrast(const QColor& a, const QColor& b) {
    auto luminance = [](const QColor& c) {
        auto part = [](double x) { return x <= 0.04045 ? x / 12.92 : std::pow((x + 0.055) / 1.055, 2.4); };
        return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
    };
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

TEST_F(HouseTest, TextCanBeReadInBothThemes) {
    for (const char* name : {"Plaster", "Graphite"}) {
        setTheme(name);
        const Theme& t = theme();
        for (const auto& [where, ground] : {std::pair{"window", t.window}, {"panel", t.panel}, {"card", t.card}}) {
            EXPECT_GE(contrast(t.ink, ground), 7) << name << ": ink on " << where;
            EXPECT_GE(contrast(t.ink2, ground), 4.5) << name << ": second ink on " << where;
            EXPECT_GE(contrast(t.caution, ground), 4.5) << name << ": caution on " << where;
            EXPECT_GE(contrast(t.broken, ground), 4.5) << name << ": broken on " << where;
        }
        // What is drawn with a color of its own follows the theme as well.
        QTest::qWait(30);
        auto* problems = window->findChild<QToolButton*>("problemsButton");
        QImage drawn = problems->grab().toImage();
        double best = 1;
        for (int y = 0; y < drawn.height(); ++y)
            for (int x = 0; x < drawn.width(); ++x) best = std::max(best, contrast(QColor(drawn.pixel(x, y)), t.window));
        EXPECT_GE(best, 4.5) << name << ": the number of problems";
    }
    setTheme("Plaster");
}

} // namespace
} // namespace hue
