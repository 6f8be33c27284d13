// The station Budget: its ledger, what is measured, savings that are tried and taken, own targets, kept versions.
#include "app/stations/budget/budget_page.h"
#include "app/stations/budget/fit_plot.h"
#include "app/stations/budget/history_view.h"
#include "app/stations/budget/limits_panel.h"
#include "app/stations/budget/target_dialog.h"
#include "app/stations/budget/version_dialog.h"
#include "core/budget/history.h"
#include "tests/app/app_fixture.h"

#include <QClipboard>
#include <QComboBox>
#include <QDir>
#include <QGuiApplication>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSettings>
#include <QToolButton>
#include <QTreeWidget>

namespace hue {
namespace {

using namespace test;

class Budget : public Window {
  protected:
    void SetUp() override {
        Window::SetUp();
        fractal = type("fractal", {200, 60});
        wireToChannel(fractal, "out", "roughness");
        session().apply("octaves", [&](const Project& p) { return edit::setSetting(p, session().masterId(), fractal, "octaves", "6"); });
        settle();
        key(window.get(), Qt::Key_5, Qt::ControlModifier);
        ASSERT_TRUE(waitFor([&] { return service().facts()->snapshot == session().snapshot(); }, 20000));
    }
    void TearDown() override {
        service().choose("console");
        Window::TearDown();
    }
    BudgetPage& page() { return part<BudgetPage>(); }
    BudgetService& service() { return *session().findChild<BudgetService*>(); }
    QTreeWidgetItem* row(QTreeWidget* in, const QString& name) {
        const QList<QTreeWidgetItem*> found = in->findItems(name, Qt::MatchContains | Qt::MatchRecursive);
        return found.isEmpty() ? nullptr : found[0];
    }
    template <class T> T& in(QWidget* of, const char* name) { return *of->findChild<T*>(name); }
    int operations() { return service().facts()->verdict.cost.operationsPerPixel(); }
    Id fractal;
};

TEST_F(Budget, LedgerTellsWhereTheCostGoesAndLeadsThere) {
    EXPECT_EQ(window->stationKey(), "budget");
    QTreeWidgetItem* stage = row(page().ledger(), "Per pixel");
    ASSERT_TRUE(stage);
    EXPECT_EQ(stage->text(1).toInt(), operations());
    QTreeWidgetItem* card = row(page().ledger(), "Fractal");
    ASSERT_TRUE(card);
    EXPECT_GE(card->text(1).toDouble(), 6 * 52);
    // The filter leaves what it asks for, with what that lies in.
    QTest::keyClicks(&in<QLineEdit>(&page(), "budgetFilter"), "fract");
    EXPECT_FALSE(card->isHidden());
    EXPECT_FALSE(stage->isHidden());
    in<QLineEdit>(&page(), "budgetFilter").setText("nothing such");
    EXPECT_TRUE(card->isHidden());
    in<QLineEdit>(&page(), "budgetFilter").clear();
    // As a table for a spreadsheet.
    page().ledger()->setFocus();
    key(page().ledger(), Qt::Key_C, Qt::ControlModifier);
    EXPECT_TRUE(QGuiApplication::clipboard()->text().contains("Per pixel\t" + QString::number(operations())))
        << QGuiApplication::clipboard()->text().toStdString();
    page().ledger()->setCurrentItem(card);
    key(page().ledger(), Qt::Key_Return);
    EXPECT_EQ(window->stationKey(), "graph");
    EXPECT_TRUE(board().selection().contains(fractal));
}

TEST_F(Budget, MeasuresAndTakesCardsOut) {
    ASSERT_TRUE(waitFor([&] { return !service().measured().empty(); }, 60000));
    auto& measured = in<QTreeWidget>(&page(), "measuredFamilies");
    ASSERT_EQ(measured.topLevelItemCount(), int(families().size()));
    for (int k = 0; k < measured.topLevelItemCount(); ++k) {
        EXPECT_EQ(measured.topLevelItem(k)->text(0).toStdString(), families()[size_t(k)].key);
        for (int c = 1; c <= 3; ++c) EXPECT_GT(measured.topLevelItem(k)->text(c).toInt(), 0);
    }
    QTreeWidgetItem* stage = row(page().ledger(), "Per pixel");
    ASSERT_TRUE(stage);
    EXPECT_GT(stage->text(3).toDouble(), 50) << "instructions";
    QTest::mouseClick(&in<QPushButton>(&page(), "budgetRests"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return !service().rests().empty(); }, 60000));
    EXPECT_GT(service().rests().at(fractal).instructions, 50);
    EXPECT_TRUE(row(page().ledger(), "Fractal")->text(4).contains("instr"));
}

TEST_F(Budget, SavingsAreTriedShownTakenAndSilenced) {
    const int before = operations();
    key(page().ledger(), Qt::Key_R, Qt::ControlModifier);
    EXPECT_FALSE(service().busy().isEmpty());
    ASSERT_TRUE(waitFor([&] { return !service().suggestions().empty(); }, 60000));
    QList<QWidget*> cards = page().findChildren<QWidget*>("suggestion");
    ASSERT_EQ(cards.size(), qsizetype(service().suggestions().size()));
    // Each has its pictures, and they differ as far as is said.
    for (const SeenSuggestion& s : service().suggestions()) {
        ASSERT_FALSE(s.before.isNull() || s.after.isNull());
        EXPECT_EQ(s.before == s.after, s.seen == 0) << s.what.what.title;
    }
    const auto at = [&](const std::string& code) {
        for (size_t k = 0; k < service().suggestions().size(); ++k)
            if (service().suggestions()[k].what.what.code.starts_with(code)) return int(k);
        return -1;
    };
    const int octaves = at("octaves"), constant = at("constant");
    ASSERT_GE(octaves, 0);
    ASSERT_GE(constant, 0);
    const double saves = service().suggestions()[size_t(octaves)].what.operations;
    QTest::mouseClick(&in<QPushButton>(cards[octaves], "suggestionApply"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return service().facts()->snapshot == session().snapshot(); }, 20000));
    EXPECT_EQ(operations(), before - int(saves));
    EXPECT_EQ(graph().find(fractal)->settings.at("octaves"), "5");
    EXPECT_TRUE(service().suggestions().empty()) << "those of another state are gone";
    session().undoStack()->undo();
    EXPECT_EQ(graph().find(fractal)->settings.at("octaves"), "6");
    ASSERT_TRUE(waitFor([&] { return service().facts()->snapshot == session().snapshot(); }, 20000));
    service().suggest();
    ASSERT_TRUE(waitFor([&] { return !service().suggestions().empty(); }, 60000));
    QList<QWidget*> shown;
    ASSERT_TRUE(waitFor(
        [&] {
            shown.clear();
            for (QWidget* c : page().findChildren<QWidget*>("suggestion"))
                if (c->isVisible()) shown << c;
            return shown.size() == qsizetype(service().suggestions().size());
        },
        5000));
    QTest::mouseClick(&in<QPushButton>(shown[at("constant")], "suggestionNever"), Qt::LeftButton);
    EXPECT_EQ(session().master()->silencedAdvice, std::vector<std::string>{"constant:" + fractal});
}

TEST_F(Budget, AWayToTheTargetIsDrawnAndTaken) {
    Target tight = shippedTargets()[0];
    tight.key = "tight", tight.name = "Tight";
    tight.limits = {};
    tight.limits.operations = float(operations() - 60);
    const QString file = folder->filePath("tight.json");
    ASSERT_TRUE(writeTarget(tight, file.toStdString()));
    ASSERT_TRUE(service().choose(file));
    ASSERT_TRUE(waitFor([&] { return !service().facts()->verdict.fits(); }, 20000));
    EXPECT_TRUE(page().findChild<LimitsPanel*>()->findChild<LimitBar*>()->accessibleName().contains("over the limit"));
    QTest::mouseClick(&in<QPushButton>(&page(), "fitToTarget"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return service().fit().has_value(); }, 60000));
    ASSERT_TRUE(service().fit()->fits);
    auto& plot = *page().findChild<FitPlot*>();
    EXPECT_EQ(plot.chosen(), int(service().fit()->steps.size()) - 1);
    EXPECT_TRUE(in<QLabel>(&page(), "fitWords").text().contains("fits"));
    plot.setFocus();
    key(&plot, Qt::Key_Left);
    EXPECT_EQ(plot.chosen(), int(service().fit()->steps.size()) - 2);
    key(&plot, Qt::Key_Right);
    const int steps = session().undoStack()->count();
    QTest::mouseClick(&in<QPushButton>(&page(), "takeFit"), Qt::LeftButton);
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
    ASSERT_TRUE(waitFor([&] { return service().facts()->snapshot == session().snapshot(); }, 20000));
    EXPECT_TRUE(service().facts()->verdict.fits());
}

TEST_F(Budget, OwnTargetsAreKeptAndChosen) {
    QTest::mouseClick(&in<QPushButton>(&page(), "ownTarget"), Qt::LeftButton);
    auto* dialog = window->findChild<TargetDialog*>();
    ASSERT_TRUE(dialog);
    in<QLineEdit>(dialog, "targetName").setText("Tram panel");
    in<QLineEdit>(dialog, "limit_operations").setText("many");
    QTest::mouseClick(&in<QPushButton>(dialog, "targetKeep"), Qt::LeftButton);
    EXPECT_TRUE(dialog->isVisible()) << "words are no limit";
    in<QLineEdit>(dialog, "limit_operations").setText("321");
    QTest::mouseClick(&in<QPushButton>(dialog, "targetKeep"), Qt::LeftButton);
    EXPECT_EQ(service().target().name, "Tram panel");
    EXPECT_EQ(service().target().limits.operations, 321);
    auto& chooser = in<QComboBox>(window.get(), "targetChooser");
    EXPECT_EQ(chooser.currentText(), "Tram panel");
    EXPECT_TRUE(QSettings().value("target").toString().endsWith("tram-panel.json"));
    const QString file = service().chosenTarget();
    EXPECT_TRUE(readTarget(file.toStdString()));
    service().choose("console");
    QFile::remove(file);
}

TEST_F(Budget, AKeptVersionStandsBesideTheLaterOne) {
    service().keepVersion("Six octaves");
    auto& list = in<QListWidget>(&page(), "versions");
    ASSERT_EQ(list.count(), 1);
    session().apply("octaves", [&](const Project& p) { return edit::setSetting(p, session().masterId(), fractal, "octaves", "1"); });
    list.setCurrentRow(0);
    list.setFocus();
    key(&list, Qt::Key_Return);
    auto* dialog = window->findChild<VersionDialog*>();
    ASSERT_TRUE(dialog);
    auto& words = in<QLabel>(dialog, "versionWords");
    ASSERT_TRUE(waitFor([&] { return words.text().contains("CIEDE2000"); }, 60000)) << words.text().toStdString();
    auto& figures = in<QTreeWidget>(dialog, "versionFigures");
    ASSERT_GT(figures.topLevelItemCount(), 3);
    EXPECT_EQ(figures.topLevelItem(0)->text(1).toInt() - figures.topLevelItem(0)->text(2).toInt(), 5 * 52) << "five octaves less";
    dialog->close();
}

TEST_F(Budget, VersionsLieBesideTheProject) {
    QString problem;
    service().keepVersion("First");
    const QString file = folder->filePath("yard.huestack");
    ASSERT_TRUE(session().save(file, &problem)) << problem.toStdString();
    ASSERT_TRUE(waitFor([&] { return QFile::exists(folder->filePath("yard.versions/First.huestack")); }, 5000))
        << "what was kept before comes along";
    session().apply("octaves", [&](const Project& p) { return edit::setSetting(p, session().masterId(), fractal, "octaves", "1"); });
    service().keepVersion("Second");
    ASSERT_EQ(service().versions().size(), 2u);
    ASSERT_TRUE(session().save(file, &problem)) << problem.toStdString();
    ASSERT_TRUE(window->openFile(file));
    ASSERT_EQ(service().versions().size(), 2u) << "they are there when it is opened again";
    EXPECT_EQ(service().versions()[0].name, "First");
    const auto octaves = [&](size_t k) {
        const Result<Snapshot> state = service().versions()[k].read();
        return state ? (*state)->masters[0]->graph.find(fractal)->settings.at("octaves") : state.error().sentence;
    };
    EXPECT_EQ(octaves(0), "6");
    EXPECT_EQ(octaves(1), "1");
    service().dropVersion(0);
    EXPECT_FALSE(QFile::exists(folder->filePath("yard.versions/First.huestack")));
    // A name that is no file's is told, and nothing is kept.
    service().keepVersion("a/b");
    EXPECT_EQ(service().versions().size(), 1u);
}

TEST_F(Budget, AllMastersStandAgainstAllTargets) {
    QTest::mouseClick(&in<QToolButton>(&page(), "budgetMatrix"), Qt::LeftButton);
    QTreeWidget* matrix = page().matrix();
    ASSERT_TRUE(matrix->isVisible());
    EXPECT_EQ(matrix->columnCount(), 5);
    ASSERT_EQ(matrix->topLevelItemCount(), 1);
    EXPECT_TRUE(matrix->topLevelItem(0)->text(1).contains("over")) << "six octaves are much for a handheld";
    EXPECT_FALSE(matrix->topLevelItem(0)->text(4).contains("over"));
}

TEST_F(Budget, CostsAreRecordedAndDrawnOverTime) {
    QTest::mouseClick(&in<QToolButton>(&page(), "budgetHistory"), Qt::LeftButton);
    auto& record = in<QPushButton>(&page(), "historyRecord");
    EXPECT_FALSE(record.isEnabled()) << "there is no file yet beside which records could stand";
    const QString file = folder->filePath("p.huestack");
    QString problem;
    ASSERT_TRUE(session().save(file, &problem)) << problem.toStdString();
    rest();
    const auto write = [&](const char* note) {
        const Recorded r = recordOf(project(), verdictOf(project(), service().target(), {}), "2026-11-30T08:00:00Z", note);
        ASSERT_TRUE(appendRecord(historyFile(file.toStdString()), r));
    };
    write("six octaves");
    session().apply("octaves", [&](const Project& p) { return edit::setSetting(p, session().masterId(), fractal, "octaves", "2"); });
    ASSERT_TRUE(waitFor([&] { return service().facts()->snapshot == session().snapshot(); }, 20000));
    write("two octaves");
    page().history()->refresh();
    EXPECT_TRUE(record.isEnabled());
    const auto& points = page().history()->plot()->points();
    ASSERT_EQ(points.size(), 2u);
    EXPECT_EQ(points[0].figure - points[1].figure, 4 * 52);
    EXPECT_TRUE(points[1].when.contains("two octaves"));
    // A file of something else is told of, and not written over.
    QFile other(QString::fromStdString(historyFile(file.toStdString()).string()));
    ASSERT_TRUE(other.open(QIODevice::WriteOnly));
    other.write("milk");
    other.close();
    page().history()->refresh();
    EXPECT_TRUE(page().history()->plot()->points().empty());
    bool told = false;
    for (const QLabel* l : page().history()->findChildren<QLabel*>()) told = told || l->text().contains("line 1");
    EXPECT_TRUE(told);
}

TEST_F(Budget, TargetsBesideTheProjectAreOffered) {
    const QString file = folder->filePath("p.huestack");
    QString problem;
    ASSERT_TRUE(session().save(file, &problem)) << problem.toStdString();
    rest();
    QDir(folder->path()).mkpath("targets");
    Target kiosk = shippedTargets()[1];
    kiosk.key = "kiosk", kiosk.name = "Kiosk";
    ASSERT_TRUE(writeTarget(kiosk, folder->filePath("targets/kiosk.json").toStdString()));
    // One that cannot be read takes nothing from the others.
    QFile broken(folder->filePath("targets/broken.json"));
    ASSERT_TRUE(broken.open(QIODevice::WriteOnly));
    broken.write("{}");
    broken.close();
    const auto all = service().targets();
    EXPECT_EQ(all.size(), shippedTargets().size() + 1);
    EXPECT_EQ(all.back().second.name, "Kiosk");
    EXPECT_TRUE(service().choose(folder->filePath("targets/kiosk.json")));
    EXPECT_EQ(service().target().name, "Kiosk");
    EXPECT_FALSE(service().choose(folder->filePath("targets/broken.json")));
    EXPECT_EQ(service().target().name, "Kiosk") << "the one before stays";
}

TEST_F(Budget, TheMostOfTheProjectIsToldInTheTopBar) {
    ASSERT_TRUE(waitFor([&] { return service().mostOf("operations", false).figure > 0; }, 20000));
    const BudgetService::Most most = service().mostOf("operations", false);
    EXPECT_EQ(most.figure, operations());
    EXPECT_EQ(session().project().masterOf(most.worn)->id, session().masterId());
}

TEST_F(Budget, SavingsAreMeasuredOnEachFamily) {
    if (!whyNotMeasured().empty()) GTEST_SKIP() << whyNotMeasured();
    service().suggest();
    ASSERT_TRUE(waitFor([&] { return !service().suggestions().empty(); }, 60000));
    for (const SeenSuggestion& s : service().suggestions()) {
        ASSERT_EQ(s.saved.size(), families().size());
        if (!s.what.what.code.starts_with("octaves")) continue;
        for (const double saved : s.saved) EXPECT_GT(saved, 10) << "an octave is some fifty operations";
    }
    const QList<QLabel*> words = page().findChildren<QLabel*>("suggestionWords");
    ASSERT_FALSE(words.isEmpty());
    EXPECT_TRUE(words[0]->text().contains("measured:")) << words[0]->text().toStdString();
    EXPECT_TRUE(words[0]->toolTip().contains("navi21"));
}

TEST_F(Budget, LockedCardsAreLeftAlone) {
    window->showStation("graph");
    QCoreApplication::processEvents();
    board().select({fractal});
    board().setFocus();
    key(&board(), Qt::Key_K, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(graph().find(fractal)->locked);
    key(window.get(), Qt::Key_5, Qt::ControlModifier);
    ASSERT_TRUE(waitFor([&] { return service().facts()->snapshot == session().snapshot(); }, 20000));
    service().suggest();
    EXPECT_FALSE(service().busy().isEmpty());
    ASSERT_TRUE(waitFor([&] { return service().busy().isEmpty(); }, 60000));
    for (const SeenSuggestion& s : service().suggestions()) EXPECT_NE(s.what.what.card, fractal) << s.what.what.title;
    session().undoStack()->undo();
    EXPECT_FALSE(graph().find(fractal)->locked);
}

TEST_F(Budget, AMapThatIsMadeForASavingComesToTheProject) {
    service().suggest();
    ASSERT_TRUE(waitFor([&] { return !service().suggestions().empty(); }, 60000));
    const SeenSuggestion* made = nullptr;
    for (const SeenSuggestion& s : service().suggestions())
        if (s.what.what.code == "procedural-to-map:" + fractal) made = &s;
    ASSERT_TRUE(made);
    service().take(made->what.what);
    ASSERT_EQ(project().maps.size(), 1u);
    const auto file = session().files()->assets.resolve(project().maps[0]->path);
    EXPECT_TRUE(std::filesystem::exists(file));
    EXPECT_EQ(file.string().find("tried"), std::string::npos) << file;
    session().undoStack()->undo();
    EXPECT_TRUE(project().maps.empty());
}

TEST_F(Budget, APictureOfTheLineupIsCounted) {
    QTest::mouseClick(&in<QToolButton>(&page(), "budgetPicture"), Qt::LeftButton);
    ASSERT_TRUE(waitFor([&] { return service().picture() != nullptr; }, 20000));
    auto& table = in<QTreeWidget>(&page(), "pictureTable");
    ASSERT_EQ(size_t(table.topLevelItemCount()), service().picture()->slots.size());
    ASSERT_GT(table.topLevelItemCount(), 0);
    EXPECT_EQ(service().picture()->width, 1920);
    const ShadedSlot& slot = service().picture()->slots[0];
    EXPECT_GT(slot.covered, 100000u);
    EXPECT_NEAR(table.topLevelItem(0)->text(3).toDouble(), double(slot.shaded) * operations() / 1e6, 0.01);
    auto& size = in<QComboBox>(&page(), "pictureSize");
    size.setFocus();
    size.setEditText("200x100");
    key(&size, Qt::Key_Return);
    ASSERT_TRUE(waitFor([&] { return service().picture()->width == 200; }, 20000));
    size.setEditText("as large as can be");
    key(&size, Qt::Key_Return);
    EXPECT_TRUE(waitFor([&] { return in<QLabel>(&page(), "pictureWords").text().contains("1920x1080"); }, 5000));
    EXPECT_EQ(service().picture()->width, 200);
}

} // namespace
} // namespace hue
