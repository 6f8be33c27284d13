// The tools around the board: wires, problems, fields, starting points.
#include "app/parts/value_text.h"
#include "app/session/drops.h"
#include "core/edits/starting_points.h"
#include "core/nodes/assembly_card.h"
#include "core/project/store.h"
#include "tests/app/app_fixture.h"

#include <QAbstractItemView>
#include <QAbstractSpinBox>
#include <QAccessible>
#include <QAction>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>
#include <QTreeView>

namespace hue {
namespace {

using namespace test;
using WireTest = Window;
using ProblemTest = Window;
using FieldTest = Window;
using StartTest = Window;
using KeyTest = Window;

QString spoken(Session& session, const std::function<void()>& act) {
    QString said;
    const auto connection = QObject::connect(&session, &Session::said, [&](const QString& s) { said = s; });
    act();
    QObject::disconnect(connection);
    return said;
}

TEST_F(WireTest, ControlDragCutsTheWiresThatItCrosses) {
    const Id a = type("0.5", {80, 60}), b = type("sine", {400, 60}), c = type("sine", {400, 200});
    wireTo(a, "out", b, "in");
    wireTo(a, "out", c, "in");
    const QPoint from(320, 20), to(320, 300);
    QTest::mousePress(&board(), Qt::LeftButton, Qt::ControlModifier, from);
    QTest::mouseMove(&board(), to);
    QTest::mouseRelease(&board(), Qt::LeftButton, Qt::ControlModifier, to);
    EXPECT_TRUE(graph().find(b)->wires.empty());
    EXPECT_TRUE(graph().find(c)->wires.empty());
    session().undoStack()->undo();
    EXPECT_EQ(graph().find(b)->wires.size(), 1u) << "both cuts are one step of undo";
    EXPECT_EQ(graph().find(c)->wires.size(), 1u);
}

TEST_F(WireTest, ASelectedWireIsDeletedByTheKey) {
    const Id a = type("0.5", {80, 60}), b = type("sine", {400, 60});
    wireTo(a, "out", b, "in");
    const QPoint end = pin(b, CardRow::Kind::Input, "in") - QPoint(9, 0);
    QTest::mouseClick(&board(), Qt::LeftButton, {}, end - QPoint(3, 0));
    key(&board(), Qt::Key_Delete);
    EXPECT_TRUE(graph().find(b)->wires.empty());
    EXPECT_EQ(graph().nodes.size(), 2u);
}

TEST_F(WireTest, ACardLetGoOnAWireGoesBetween) {
    const Id a = type("0.5", {60, 60}), b = type("sine", {600, 60});
    wireTo(a, "out", b, "in");
    const Id between = type("invert", {330, 240});
    const QPoint grip = board().toWidget(board().layout().cards.at(between).title.center()).toPoint();
    const QRectF card = board().layout().cards.at(between).rect;
    // Its middle must come to lie on the wire, which runs at the height of the source's output.
    const int wireY = pin(a, CardRow::Kind::Output, "out").y();
    const int middleY = board().toWidget(card.center()).toPoint().y();
    drag(&board(), grip, board().mapToGlobal(grip + QPoint(0, wireY - middleY)));
    EXPECT_EQ(graph().find(b)->wires.at("in").node, between);
    EXPECT_EQ(graph().find(between)->wires.at("in").node, a);
}

TEST_F(WireTest, LettingGoOnTheEmptyBoardOffersOnlyWhatFits) {
    const Id a = type("0.5", {80, 60});
    drag(&board(), pin(a, CardRow::Kind::Output, "out"), board().mapToGlobal(QPoint(420, 220)));
    ASSERT_TRUE(board().addLine()->isVisible());
    const ProposalModel* model = board().addLine()->model();
    for (int i = 0; i < model->rowCount(); ++i) {
        const Proposal& o = model->at(i);
        const NodeDef* def = o.assembly ? &cardOf(*o.assembly).def : nodeDefOf(project(), o.node);
        ASSERT_TRUE(def) << o.title;
        EXPECT_FALSE(def->inputs.empty()) << o.title;
    }
    QTest::keyClicks(board().addLine()->line(), "power");
    key(board().addLine()->line(), Qt::Key_Return);
    const auto power = std::find_if(graph().nodes.begin(), graph().nodes.end(), [](const auto& n) { return n.second->kind == "power"; });
    ASSERT_NE(power, graph().nodes.end());
    EXPECT_EQ(power->second->wires.at("in1").node, a);
}

TEST_F(WireTest, AWireIntoAMutedChannelStaysAndTheChannelShowsItsDefault) {
    const Id c = type("#00FF00", {80, 60});
    wireToChannel(c, "out", "base_color");
    view("base_color");
    QTest::mouseClick(rail().row("base_color")->muteButton(), Qt::LeftButton);
    settle();
    EXPECT_NE(middle(), QColor(0, 255, 0));
    EXPECT_TRUE(graph().channelWires.contains("base_color"));
    QTest::mouseClick(rail().row("base_color")->muteButton(), Qt::LeftButton);
    settle();
    EXPECT_EQ(middle(), QColor(0, 255, 0));
}

TEST_F(ProblemTest, AreListedWithFixesThatMendThem) {
    const Id c = type("#FF8000", {80, 60});
    ASSERT_TRUE(session().apply("wire", [&](const Project& p) {
        return edit::connectChannel(p, session().masterId(), {c, "out", ""}, "roughness");
    }));
    ASSERT_TRUE(waitFor([&] { return !session().problems().empty() && session().problems()[0].code == "wire.needs-take"; }, 5000));
    auto* button = window->findChild<QToolButton*>("problemsButton");
    EXPECT_TRUE(button->text().contains("1 error")) << button->text().toStdString();
    QTest::mouseClick(button, Qt::LeftButton);
    QPushButton* fix = nullptr;
    for (QPushButton* b : window->findChildren<QPushButton*>())
        if (b->isVisible() && b->text() == "Take .r") fix = b;
    ASSERT_TRUE(fix);
    QTest::mouseClick(fix, Qt::LeftButton);
    EXPECT_EQ(graph().channelWires.at("roughness").take, "r");
    ASSERT_TRUE(waitFor([&] { return session().problems().empty(); }, 5000));
    EXPECT_EQ(button->text(), "problems 0");
}

TEST_F(ProblemTest, FixesAreInSightHoweverLongTheSentenceIs) {
    const QString name =
        QString("a master whose name goes on and on for as long as anybody would care to read it, and then a little longer");
    ASSERT_TRUE(
        session().apply("rename", [&](const Project& p) { return edit::renameMaster(p, session().masterId(), name.toStdString()); }));
    const Id noise = type("noise 2d", {80, 60}), over = type("wave", {400, 60});
    ASSERT_TRUE(session().apply(
        "rate", [&](const Project& p) { return edit::setConstant(p, session().masterId(), over, "frequency", Value::number(0.3f)); }));
    board().select({noise, over});
    key(&board(), Qt::Key_M, Qt::ControlModifier);
    ASSERT_TRUE(waitFor(
        [&] {
            for (const Diagnostic& d : session().problems())
                if (d.code == "advice.no-return" && d.place.master != session().masterId()) return true;
            return false;
        },
        8000));
    QTest::mouseClick(window->findChild<QToolButton*>("problemsButton"), Qt::LeftButton);
    QTest::qWait(50);
    int fixes = 0;
    for (QPushButton* b : window->findChildren<QPushButton*>()) {
        if (!b->isVisible() || b->text() != "Take 0.25") continue;
        ++fixes;
        const QPoint right = b->mapTo(window.get(), QPoint(b->width(), 0));
        EXPECT_EQ(b->visibleRegion().boundingRect(), b->rect()) << "nothing of it is cut off";
        EXPECT_LT(right.x(), window->width());
    }
    EXPECT_GE(fixes, 1);
}

TEST_F(ProblemTest, TheKeyLeadsToTheCardAtFault) {
    const Id a = type("texcoord", {80, 60}), b = type("luminance", {400, 60});
    ASSERT_TRUE(session().apply("wire", [&](const Project& p) { return edit::connect(p, session().masterId(), {a, "out", ""}, b, "in"); }));
    ASSERT_TRUE(waitFor([&] { return !session().problems().empty() && session().problems()[0].code == "wire.width"; }, 5000));
    key(window.get(), Qt::Key_3, Qt::ControlModifier);
    key(window.get(), Qt::Key_F8);
    EXPECT_EQ(board().selection(), std::set<Id>{b});
    EXPECT_TRUE(board().isVisible());
}

TEST_F(ProblemTest, ALostMapIsNamedAndItsCardKeepsTheReference) {
    ASSERT_TRUE(session().apply("map", [&](const Project& p) {
        return edit::addMap(p, {"t", "lost", "/no/such/map.png", MapKind::Color, Wrap::Repeat, {}, {}});
    }));
    ASSERT_TRUE(waitFor([&] { return !session().problems().empty(); }, 5000));
    EXPECT_EQ(session().problems()[0].code, "map.cannot-use");
    EXPECT_NE(session().problems()[0].sentence.find("/no/such/map.png"), std::string::npos);
    EXPECT_EQ(project().map("t")->path, "/no/such/map.png");
}

TEST_F(FieldTest, ANumberIsDraggedTypedAndStepped) {
    ValueField* field = rail().row("roughness")->field();
    QTest::mousePress(field, Qt::LeftButton, {}, QPoint(20, field->height() - 6));
    QTest::mouseMove(field, QPoint(40, field->height() - 6));
    QTest::mouseMove(field, QPoint(60, field->height() - 6));
    QTest::mouseRelease(field, Qt::LeftButton, {}, QPoint(60, field->height() - 6));
    EXPECT_GT(graph().channelConstants.at("roughness")[0], 0.55f);
    const int steps = session().undoStack()->count();
    field->setFocus();
    key(field, Qt::Key_Return);
    auto* editor = field->findChild<QLineEdit*>();
    ASSERT_TRUE(editor && editor->isVisible());
    editor->selectAll();
    QTest::keyClicks(editor, "0.125");
    key(editor, Qt::Key_Return);
    EXPECT_FLOAT_EQ(graph().channelConstants.at("roughness")[0], 0.125f);
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
    key(field, Qt::Key_Right);
    EXPECT_FLOAT_EQ(graph().channelConstants.at("roughness")[0], 0.135f);
    key(field, Qt::Key_Return);
    editor->selectAll();
    QTest::keyClicks(editor, "much");
    key(editor, Qt::Key_Return);
    EXPECT_FLOAT_EQ(graph().channelConstants.at("roughness")[0], 0.135f) << "what is no number changes nothing";
}

TEST_F(FieldTest, ValuesOnCardsAreDraggedInOneStepOfUndo) {
    const Id a = type("invert", {80, 60});
    const int steps = session().undoStack()->count();
    const CardRow* row = board().layout().cards.at(a).row(CardRow::Kind::Input, "amount");
    const QPoint at = board().toWidget(QPointF(row->rect.right() - 14, row->rect.center().y())).toPoint();
    QTest::mousePress(&board(), Qt::LeftButton, {}, at);
    for (int x = 5; x <= 40; x += 5) QTest::mouseMove(&board(), at + QPoint(x, 0));
    QTest::mouseRelease(&board(), Qt::LeftButton, {}, at + QPoint(40, 0));
    EXPECT_NEAR(graph().find(a)->constants.at("amount")[0], 1.2f, 0.01f);
    EXPECT_EQ(session().undoStack()->count(), steps + 1);
}

TEST_F(FieldTest, TextAndValuesAgree) {
    Value v;
    EXPECT_TRUE(valueFromText("0.5", 1, v));
    EXPECT_TRUE(valueFromText("1 2 3", 0, v));
    EXPECT_EQ(v, Value::vec3(1, 2, 3));
    EXPECT_TRUE(valueFromText("2", 2, v));
    EXPECT_EQ(v, Value::vec2(2, 2));
    EXPECT_TRUE(valueFromText("#FF0000", 3, v));
    EXPECT_EQ(valueText(v, true), "#FF0000");
    for (const char* bad : {"", "a", "1 2 3 4 5", "nan", "inf", "1 2"}) EXPECT_FALSE(valueFromText(bad, 1, v)) << bad;
    EXPECT_EQ(numberText(0.5f), "0.5");
    EXPECT_EQ(numberText(2), "2");
    EXPECT_EQ(numberText(-0.f), "0");
    EXPECT_EQ(numberText(1234.56f), "1234.6");
}

TEST_F(StartTest, EveryStartingPointShowsAPictureAndItsParameters) {
    for (const StartingPoint& s : startingPoints()) {
        window->setAsksBeforeClosing(false);
        window->startNew(s.id);
        settle();
        EXPECT_TRUE(window->lineup().specimen(0)->problem().isEmpty()) << s.id;
        EXPECT_FALSE(window->lineup().specimen(0)->picture().isNull()) << s.id;
        for (const Parameter& p : session().master()->parameters) EXPECT_TRUE(sheet().row(p.id)) << s.id << " " << p.name;
        EXPECT_FALSE(session().dirty()) << s.id;
    }
}

TEST_F(StartTest, TheDemoOpensWithoutProblemsOnAllStations) {
    ASSERT_TRUE(window->openFile(QString::fromStdString(depotFile())));
    settle();
    ASSERT_EQ(window->lineup().count(), 4u);
    EXPECT_EQ(session().target(), project().findByName("Bodywork/Line Ochre Worn"));
    ASSERT_TRUE(waitFor([&] { return instances().model()->rows().size() == project().masters.size() + project().instances.size(); }, 3000));
    for (const StationDef& station : stations()) {
        window->showStation(station.key);
        EXPECT_EQ(window->stationKey(), station.key);
        std::vector<const Station*> shown;
        for (const Station* page : window->findChildren<Station*>())
            if (page->isVisible()) shown.push_back(page);
        ASSERT_EQ(shown.size(), 1u) << station.key.toStdString();
        EXPECT_TRUE(QString(shown[0]->metaObject()->className()).contains(station.name)) << shown[0]->metaObject()->className();
        // Something is painted there: more than one color.
        const QImage seen = window->grab(QRect(shown[0]->mapTo(window.get(), QPoint()), shown[0]->size())).toImage();
        std::set<QRgb> colors;
        for (int y = 0; y < seen.height(); y += 3)
            for (int x = 0; x < seen.width(); x += 3) colors.insert(seen.pixel(x, y));
        EXPECT_GT(colors.size(), 8u) << station.key.toStdString();
    }
    window->showStation("graph");
    rest();
    QTest::qWait(250);
    EXPECT_TRUE(session().problems().empty()) << (session().problems().empty() ? "" : session().problems()[0].sentence);
    // The display scrolls: play, and the third picture changes.
    const QImage before = window->lineup().specimen(2)->picture();
    session().setTime(2);
    settle();
    EXPECT_NE(window->lineup().specimen(2)->picture(), before);
    EXPECT_FALSE(session().dirty());
}

TEST_F(StartTest, ANewInstanceIsWornWhereItsMasterWas) {
    window->setAsksBeforeClosing(false);
    window->startNew("plain");
    settle();
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    EXPECT_EQ(project().lineup.specimens[0].wears[0], session().target());
    EXPECT_TRUE(project().instance(session().target()));
    const QString worn = sheet().findChildren<QLabel*>()[0]->text();
    EXPECT_TRUE(worn.contains("specimen 1")) << worn.toStdString();
}

TEST_F(StartTest, SavingInAnotherFolderKeepsTheMaps) {
    ASSERT_TRUE(window->openFile(QString::fromStdString(depotFile())));
    const QString file = folder->filePath("copy.huestack");
    ASSERT_TRUE(window->saveTo(file));
    EXPECT_TRUE(session().assets().problems(project()).empty());
    const Result<Loaded> back = loadProject(file.toStdString());
    ASSERT_TRUE(back);
    EXPECT_EQ(back->project.name, "copy");
    Assets assets;
    assets.setFolder(folder->path().toStdString());
    EXPECT_TRUE(assets.problems(back->project).empty());
}

TEST_F(WireTest, CardsTypedAtOnePlaceLieBesideEachOtherAndInSight) {
    std::vector<Id> cards;
    for (const char* kind : {"fractal", "remap", "mix", "0.5"}) {
        board().setFocus();
        QCursor::setPos(board().mapToGlobal(QPoint(300, 120)));
        QTest::keyClicks(&board(), QString(kind).left(1));
        QTest::keyClicks(board().addLine()->line(), QString(kind).mid(1));
        key(board().addLine()->line(), Qt::Key_Return);
        cards.push_back(*board().selection().begin());
    }
    for (const Id& a : cards) {
        const QRectF one = board().layout().cards.at(a).rect;
        EXPECT_TRUE(QRectF(board().rect()).contains(QRectF(board().toWidget(one.topLeft()), board().toWidget(one.bottomRight()))));
        for (const Id& b : cards) EXPECT_FALSE(a != b && one.intersects(board().layout().cards.at(b).rect));
    }
}

TEST_F(WireTest, AConstantDroppedOnTheSheetIsExposedAndStaysInPlace) {
    const Id a = type("0.5", {80, 60});
    wireToChannel(a, "out", "roughness");
    const Point before = graph().find(a)->position;
    const QPoint grip = board().toWidget(board().layout().cards.at(a).title.center()).toPoint();
    drag(&board(), grip, sheet().mapToGlobal(QPoint(100, 200)));
    ASSERT_EQ(session().master()->parameters.size(), 1u);
    EXPECT_EQ(graph().find(a)->kind, "parameter");
    EXPECT_EQ(graph().find(a)->position, before);
}

TEST_F(FieldTest, ParametersAreOrderedByDragging) {
    for (const char* name : {"one = 1", "two = 2", "three = 3"}) type(name, {80, 60});
    auto names = [&] {
        std::vector<std::string> out;
        for (const Parameter& p : session().master()->parameters) out.push_back(p.name);
        return out;
    };
    QMimeData data;
    data.setData(kParameterMime, QByteArray::fromStdString(session().master()->parameters[2].id));
    drop(sheet().row(session().master()->parameters[0].id), {20, 8}, data);
    EXPECT_EQ(names(), (std::vector<std::string>{"Three", "One", "Two"}));
    session().undoStack()->undo();
    EXPECT_EQ(names(), (std::vector<std::string>{"One", "Two", "Three"}));
}

TEST_F(KeyTest, DeleteGivesAnInstancesValueBackInTheTable) {
    type("amount = 0.5, 0 to 1", {80, 60});
    const Id parameter = session().master()->parameters[0].id;
    key(window.get(), Qt::Key_I, Qt::ControlModifier);
    const Id instance = session().target();
    ASSERT_TRUE(session().apply("own", [&](const Project& p) { return edit::setOwn(p, instance, parameter, {Value::number(0.9f), {}}); }));
    key(window.get(), Qt::Key_3, Qt::ControlModifier);
    EXPECT_EQ(session().target(), instance) << "coming to the table changes nothing of what is tuned";
    InstanceModel* model = instances().model();
    const QModelIndex row = model->indexOf(instance);
    instances().table()->setCurrentIndex(model->index(row.row(), InstanceModel::FirstParameter, row.parent()));
    instances().table()->setFocus();
    key(instances().table(), Qt::Key_Delete);
    EXPECT_TRUE(project().instance(instance)->own.empty());
    EXPECT_TRUE(project().instance(instance));
}

TEST_F(KeyTest, NoKeyIsGivenTwiceAndEveryCommandHasAName) {
    std::map<QString, QString> keys;
    for (const QAction* a : window->actions()) {
        EXPECT_FALSE(a->text().isEmpty());
        // What belongs to other stations rests.
        if (!a->isEnabled()) continue;
        for (const QKeySequence& k : a->shortcuts()) {
            const auto [it, fresh] = keys.emplace(k.toString(), a->text());
            EXPECT_TRUE(fresh) << k.toString().toStdString() << ": " << it->second.toStdString() << " and " << a->text().toStdString();
        }
    }
    // Plain letters and digits belong to the add line.
    for (const auto& [k, name] : keys) EXPECT_GT(k.size(), 1) << name.toStdString();
}

TEST_F(KeyTest, EveryControlHasANameForScreenReadersAndATooltipOrText) {
    window->setAsksBeforeClosing(false);
    ASSERT_TRUE(window->openFile(QString::fromStdString(depotFile())));
    settle();
    for (const StationDef& station : stations()) {
        window->showStation(station.key);
        if (station.key == "maps") maps().choose(project().maps[0]->id);
        for (int pane = 0; pane < (station.key == "maps" ? 6 : 1); ++pane) {
            if (station.key == "maps") maps().showPane(MapsPage::Pane(pane));
            QTest::qWait(50);
            int seen = 0;
            // The name that a screen reader hears: its own, or that of the label beside it.
            auto named = [&](QWidget* w) {
                if (!w->isVisible()) return;
                ++seen;
                QAccessibleInterface* heard = QAccessible::queryAccessibleInterface(w);
                EXPECT_FALSE(!heard || heard->text(QAccessible::Name).isEmpty())
                    << station.key.toStdString() << " " << pane << ": " << w->metaObject()->className() << " "
                    << w->objectName().toStdString();
            };
            for (QAbstractButton* b : window->findChildren<QAbstractButton*>()) {
                if (qobject_cast<QAbstractItemView*>(b->parentWidget())) continue; // the corner of a table
                named(b);
                EXPECT_FALSE(b->isVisible() && b->toolTip().isEmpty() && b->text().size() < 2)
                    << station.key.toStdString() << " " << b->objectName().toStdString() << " " << b->text().toStdString();
            }
            for (ValueField* f : window->findChildren<ValueField*>()) named(f);
            for (QComboBox* c : window->findChildren<QComboBox*>()) named(c);
            for (QAbstractSpinBox* s : window->findChildren<QAbstractSpinBox*>()) named(s);
            for (QAbstractItemView* v : window->findChildren<QAbstractItemView*>())
                if (!qobject_cast<QHeaderView*>(v)) named(v);
            for (QLineEdit* e : window->findChildren<QLineEdit*>())
                if (!qobject_cast<QAbstractSpinBox*>(e->parentWidget()) && !qobject_cast<QComboBox*>(e->parentWidget())) named(e);
            EXPECT_GT(seen, 12) << station.key.toStdString();
        }
    }
}

TEST_F(KeyTest, ArrowsWalkAlongWires) {
    const Id a = type("0.5", {80, 60}), b = type("sine", {330, 60}), c = type("sine", {330, 240});
    wireTo(a, "out", c, "in");
    board().select({c});
    board().setFocus();
    key(&board(), Qt::Key_Left);
    EXPECT_EQ(board().selection(), std::set<Id>{a});
    key(&board(), Qt::Key_Right);
    EXPECT_EQ(board().selection(), std::set<Id>{c}) << "along the wire, though another card is nearer";
    key(&board(), Qt::Key_Up, Qt::ShiftModifier);
    EXPECT_EQ(board().selection(), (std::set<Id>{b, c}));
}

TEST_F(KeyTest, RefusedCommandsSayWhatIsMissing) {
    board().select({});
    EXPECT_TRUE(spoken(session(), [&] { key(window.get(), Qt::Key_E, Qt::ControlModifier); }).contains("Select"));
    EXPECT_TRUE(spoken(session(), [&] { key(window.get(), Qt::Key_B, Qt::ControlModifier); }).contains("Select"));
    type("0.5", {80, 60});
    EXPECT_TRUE(spoken(session(), [&] {
                    board().setFocus();
                    QTest::keyClicks(&board(), "z");
                    QTest::keyClicks(board().addLine()->line(), "zzz");
                    key(board().addLine()->line(), Qt::Key_Return);
                }).contains("zzzz"));
}

} // namespace
} // namespace hue
