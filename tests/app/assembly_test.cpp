// Assemblies on the board, by keys and mouse.
#include "app/stations/graph/assembly_panel.h"
#include "app/stations/graph/graph_page.h"
#include "core/nodes/assembly_card.h"
#include "core/project/assembly_file.h"
#include "tests/app/app_fixture.h"

#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QToolButton>

namespace hue::test {
namespace {

class AssemblyWindow : public Window {
  protected:
    const Node& node(const Id& id) { return *graph().find(id); }
    /// A noise, turned around, on roughness; and the picture that it gives.
    void build() {
        noise = type("noise", {120, 120});
        invert = type("invert", {340, 120});
        wireTo(noise, "out", invert, "in");
        wireToChannel(invert, "out", "roughness");
        rest();
    }
    QImage picture() { return window->lineup().specimen(0)->picture(); }
    Id cardOfAssembly() {
        for (const auto& [id, n] : graph().nodes)
            if (isAssembly(*n)) return id;
        return {};
    }
    /// Makes an assembly of both and gives it a name.
    Id fold(const QString& name) {
        board().select({noise, invert});
        key(&board(), Qt::Key_M, Qt::ControlModifier);
        QLineEdit* line = nullptr;
        for (QLineEdit* l : board().findChildren<QLineEdit*>())
            if (l->isVisible() && l->hasFocus()) line = l;
        EXPECT_TRUE(line) << "its name is asked for at once";
        if (!line) return {};
        line->selectAll();
        QTest::keyClicks(line, name);
        key(line, Qt::Key_Return);
        rest();
        return cardOfAssembly();
    }
    /// Ctrl+E, and a value of the card.
    void expose(const Id& card, const QString& port) {
        board().select({card});
        key(&board(), Qt::Key_E, Qt::ControlModifier);
        QMenu* values = board().findChild<QMenu*>("exposeMenu");
        ASSERT_TRUE(values);
        for (QAction* a : values->actions())
            if (a->text() == port) {
                QTest::mouseClick(values, Qt::LeftButton, {}, values->actionGeometry(a).center());
                return rest();
            }
        FAIL() << "no " << port.toStdString();
    }
    AssemblyPanel& panel() { return part<AssemblyPanel>(); }
    GraphPage& page() { return part<GraphPage>(); }
    template <class W> W& named(QWidget& in, const char* name) {
        W* found = in.findChild<W*>(name);
        EXPECT_TRUE(found) << name;
        return *found;
    }
    Id noise, invert;
};

TEST_F(AssemblyWindow, IsMadeOfTheSelectedCardsNamedOpenedChangedAndLeft) {
    build();
    const QImage before = picture();
    const int steps = session().undoStack()->index();
    const Id card = fold("Dust");
    ASSERT_FALSE(card.empty());
    EXPECT_EQ(project().assemblies.at(0)->name, "Dust");
    EXPECT_EQ(graph().nodes.size(), 1u);
    EXPECT_EQ(picture(), before) << "nothing looks otherwise";

    board().setFocus();
    key(&board(), Qt::Key_Down, Qt::ControlModifier);
    rest();
    ASSERT_TRUE(session().assembly());
    EXPECT_TRUE(panel().isVisible());
    EXPECT_FALSE(rail().isVisible()) << "an assembly has no surface";
    EXPECT_EQ(named<QListWidget>(panel(), "assemblyUses").count(), 1);
    ASSERT_TRUE(graph().find(noise)) << "cards keep their ids within";
    EXPECT_TRUE(window->boardService().facts()->swatches.contains(noise + ".out"));
    EXPECT_GT(window->boardService().facts()->cards.at(noise).operations, 0) << "what it costs where it stands";

    // A value within changes the picture of who wears it.
    session().apply("change amplitude", [&](const Project& p) {
        return edit::setConstant(p, session().masterId(), noise, "amplitude", Value::number(0));
    });
    rest();
    EXPECT_NE(picture(), before);
    board().setFocus();
    key(&board(), Qt::Key_Up, Qt::ControlModifier);
    rest();
    EXPECT_FALSE(session().assembly());
    EXPECT_TRUE(rail().isVisible());
    EXPECT_EQ(board().selection(), std::set<Id>{card}) << "back at its card";

    // Taken apart, and undone to where it began.
    key(&board(), Qt::Key_U, Qt::ControlModifier | Qt::ShiftModifier);
    rest();
    EXPECT_TRUE(cardOfAssembly().empty());
    EXPECT_EQ(graph().nodes.size(), 2u);
    while (session().undoStack()->index() > steps) session().undoStack()->undo();
    rest();
    EXPECT_TRUE(project().assemblies.empty());
    EXPECT_EQ(picture(), before);
}

TEST_F(AssemblyWindow, OfTheLibraryComesWithItsFirstCard) {
    const Id card = type("edge glow", {200, 160});
    ASSERT_FALSE(card.empty());
    EXPECT_EQ(assemblyOf(node(card)), "lib-edge-glow");
    ASSERT_EQ(project().assemblies.size(), 1u);
    wireToChannel(card, "light", "emissive");
    EXPECT_TRUE(graph().channelWires.contains("emissive"));
    type("edge glow", {200, 420});
    EXPECT_EQ(project().assemblies.size(), 1u) << "once is enough";
    session().undoStack()->undo();
    session().undoStack()->undo();
    session().undoStack()->undo();
    EXPECT_TRUE(project().assemblies.empty()) << "the card and what it stands for are one step";
}

TEST_F(AssemblyWindow, GetsInputsAndOutputsOnItsOwnBoard) {
    build();
    const Id card = fold("Dust");
    board().setFocus();
    key(&board(), Qt::Key_Down, Qt::ControlModifier);
    rest();
    // A value of a card within becomes an input, by the key that exposes on any board.
    expose(noise, "amplitude");
    ASSERT_FALSE(session().master()->parameters.empty());
    const std::string port = session().master()->parameters[0].codeName;
    // A second output for the noise, by the button.
    board().select({noise});
    QTest::mouseClick(&named<QPushButton>(panel(), "newOutput"), Qt::LeftButton);
    QLineEdit* line = nullptr;
    for (QLineEdit* l : board().findChildren<QLineEdit*>())
        if (l->isVisible() && l->hasFocus()) line = l;
    ASSERT_TRUE(line) << "it wants a name";
    line->selectAll();
    QTest::keyClicks(line, "Plain noise");
    key(line, Qt::Key_Return);
    rest();
    EXPECT_EQ(named<QListWidget>(panel(), "assemblyOutputs").count(), 2);
    // Both stand on its card.
    QTest::mouseClick(&named<QToolButton>(*window, "trail_1"), Qt::LeftButton);
    rest();
    ASSERT_FALSE(session().assembly());
    EXPECT_TRUE(board().layout().cards.at(card).row(CardRow::Kind::Input, port));
    EXPECT_TRUE(board().layout().cards.at(card).row(CardRow::Kind::Output, "plain_noise"));
}

TEST_F(AssemblyWindow, IsSeenWithTheValuesOfTheCardThatItWasOpenedFrom) {
    build();
    fold("Dust");
    const Id of = project().assemblies[0]->id;
    board().setFocus();
    key(&board(), Qt::Key_Down, Qt::ControlModifier);
    rest();
    expose(noise, "amplitude");
    key(&board(), Qt::Key_Up, Qt::ControlModifier);
    rest();
    const Id first = cardOfAssembly();
    std::string amplitude;
    for (const Parameter& p : project().assembly(of)->parameters)
        if (p.codeName.find("amplitude") != std::string::npos) amplitude = p.codeName;
    ASSERT_FALSE(amplitude.empty());
    const auto seen = [&](float value) {
        session().apply("amplitude", [&](const Project& p) {
            return edit::setConstant(p, session().masterId(), first, amplitude, Value::number(value));
        });
        board().select({first});
        session().enter(first);
        rest();
        QImage swatch = window->boardService().facts()->swatches.at(noise + ".out");
        session().leave();
        rest();
        return swatch;
    };
    const QImage flat = seen(0), strong = seen(1);
    EXPECT_NE(flat, strong) << "what is seen within depends on who calls";
    // Opened from the list of assemblies it has its defaults.
    session().showMaster(of);
    rest();
    EXPECT_TRUE(session().path().empty());
    EXPECT_TRUE(named<QLabel>(*window, "trailValues").text().contains("by itself"));
}

TEST_F(AssemblyWindow, IsSharedAsAFileAndSaysWhatANewVersionWouldBreak) {
    build();
    const Id card = fold("Dust");
    const Id of = project().assemblies[0]->id;
    const QString file = folder->filePath("dust.hueassembly");
    page().shareAssemblyAs(of, file);
    const std::string output = nodeDefOf(project(), node(card))->outputs[0].key.data();
    // Elsewhere.
    session().startNew("empty");
    rest();
    page().bringAssemblyFrom(file);
    ASSERT_EQ(project().assemblies.size(), 1u);
    const Id there = type("dust", {200, 160});
    wireToChannel(there, output.c_str(), "roughness");
    rest();
    ASSERT_TRUE(graph().channelWires.contains("roughness"));
    // A newer version without that output.
    const Snapshot state = session().snapshot();
    Project newer = *state;
    const Id gone = cardOf(*newer.assembly(of)).outputs[0].card;
    newer = *edit::removeNodes(newer, of, {gone});
    newer = *edit::raiseVersion(newer, of);
    ASSERT_TRUE(writeAssembly(newer, of, file.toStdString()));
    const auto answer = [&](const char* button) {
        page().bringAssemblyFrom(file);
        auto* ask = window->findChild<QMessageBox*>("askBreaks");
        ASSERT_TRUE(ask) << "something would break, so it is asked first";
        EXPECT_TRUE(ask->informativeText().contains(QString::fromStdString(output))) << ask->informativeText().toStdString();
        for (QAbstractButton* b : ask->buttons())
            if (b->text().remove('&') == button) QTest::mouseClick(b, Qt::LeftButton);
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        rest();
    };
    answer("Leave as it is");
    EXPECT_EQ(session().snapshot(), state) << "nothing happened";
    answer("Bring it in");
    EXPECT_EQ(project().assembly(of)->version, 2);
    EXPECT_TRUE(window->boardService().facts()->cards.empty() || !project().assembly(of)->graph.find(gone));
    session().undoStack()->undo();
    EXPECT_EQ(project().assembly(of)->version, 1);
    // What is no assembly is refused in words.
    QString said;
    QObject::connect(&session(), &Session::said, [&](const QString& s) { said = s; });
    page().bringAssemblyFrom(folder->filePath("nothing.hueassembly"));
    EXPECT_TRUE(said.contains("nothing.hueassembly")) << said.toStdString();
}

} // namespace
} // namespace hue::test
