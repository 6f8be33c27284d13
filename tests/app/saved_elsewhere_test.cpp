// Somebody else saves the project that is open.
#include "app/window/saved_elsewhere.h"
#include "core/project/store.h"
#include "tests/app/app_fixture.h"

#include <QPlainTextEdit>
#include <QPushButton>

namespace hue::test {
namespace {

class SavedElsewhereTest : public Window {
  protected:
    QString file() const { return folder->filePath("p.huestack"); }
    /// Saved from here, then by somebody else, who renames the master and gives it a roughness.
    void theySave() {
        const Project now = loadProject(file().toStdString())->project;
        const Id m = now.masters[0]->id;
        const Project theirs = *edit::setChannelConstant(*edit::renameMaster(now, m, "Theirs"), m, "roughness", Value::number(0.75f));
        ASSERT_TRUE(saveProject(theirs, file().toStdString()));
        ASSERT_TRUE(waitFor([&] { return window->findChild<SavedElsewhere*>() != nullptr; }, 10000)) << "nobody asked";
    }
    void save() { ASSERT_TRUE(window->saveTo(file())); }
    void weEdit() {
        const Id m = session().masterId();
        ASSERT_TRUE(session().apply("set", [&](const Project& p) { return edit::setChannelConstant(p, m, "metallic", Value::number(1)); }));
    }
    const Master& master() { return *session().master(); }
    void press(const char* name) {
        auto* b = window->findChild<SavedElsewhere*>()->findChild<QPushButton*>(name);
        QTest::mouseClick(b, Qt::LeftButton);
        ASSERT_TRUE(waitFor([&] { return window->findChild<SavedElsewhere*>() == nullptr; }, 5000));
    }
    static float constant(const Master& m, const char* key) {
        const auto it = m.graph.channelConstants.find(key);
        return it == m.graph.channelConstants.end() ? -1 : it->second[0];
    }
};

TEST_F(SavedElsewhereTest, IsNoticedShownAndBothAreBroughtTogether) {
    save();
    weEdit();
    theySave();
    const auto* list = window->findChild<QPlainTextEdit*>("savedElsewhereWhat");
    ASSERT_TRUE(waitFor([&] { return list->toPlainText().contains("You changed"); }, 10000)) << "nothing was compared";
    const QString what = list->toPlainText();
    EXPECT_TRUE(what.contains("masters / Theirs: name, channelValues roughness changed")) << what.toStdString();
    EXPECT_TRUE(what.contains("channelValues metallic changed")) << what.toStdString();
    press("takeBoth");
    EXPECT_EQ(master().name, "Theirs");
    EXPECT_EQ(constant(master(), "roughness"), 0.75f);
    EXPECT_EQ(constant(master(), "metallic"), 1);
    EXPECT_TRUE(session().dirty());
    save();
    EXPECT_EQ(constant(*loadProject(file().toStdString())->project.masters[0], "metallic"), 1);
    session().undoStack()->undo();
    EXPECT_NE(master().name, "Theirs") << "one step of undo";
}

TEST_F(SavedElsewhereTest, TheirsIsTakenAndUndoBringsOursBack) {
    save();
    weEdit();
    theySave();
    press("takeTheirs");
    EXPECT_EQ(master().name, "Theirs");
    EXPECT_EQ(constant(master(), "metallic"), -1);
    EXPECT_FALSE(session().dirty());
    session().undoStack()->undo();
    EXPECT_EQ(constant(master(), "metallic"), 1);
    EXPECT_TRUE(session().dirty());
    save(); // which is not asked again
    EXPECT_EQ(constant(*loadProject(file().toStdString())->project.masters[0], "metallic"), 1);
}

TEST_F(SavedElsewhereTest, OursIsKeptAndSavedOverTheirs) {
    save();
    theySave();
    EXPECT_FALSE(session().dirty());
    press("keepOurs");
    EXPECT_TRUE(session().dirty()) << "what is open is not what the file holds";
    save();
    EXPECT_NE(loadProject(file().toStdString())->project.masters[0]->name, "Theirs");
}

TEST_F(SavedElsewhereTest, SavingWhileUndecidedOverwritesNothing) {
    save();
    weEdit();
    theySave();
    key(window->findChild<SavedElsewhere*>(), Qt::Key_Escape);
    ASSERT_TRUE(waitFor([&] { return window->findChild<SavedElsewhere*>() == nullptr; }, 5000));
    EXPECT_FALSE(window->saveTo(file()));
    EXPECT_EQ(loadProject(file().toStdString())->project.masters[0]->name, "Theirs");
    ASSERT_TRUE(waitFor([&] { return window->findChild<SavedElsewhere*>() != nullptr; }, 10000)) << "it asks again";
}

TEST_F(SavedElsewhereTest, ASecondWindowSaysThatTheProjectIsOpenElsewhere) {
    save();
    MainWindow second;
    second.setAsksBeforeClosing(false);
    QString said;
    QObject::connect(&second.session(), &Session::said, [&](const QString& s) { said += s; });
    ASSERT_TRUE(second.openFile(file()));
    EXPECT_TRUE(said.contains("open in another window")) << said.toStdString();
}

TEST_F(SavedElsewhereTest, EditsInARowAreKeptInTheJournalAtTheLatestTwoSecondsAfterTheFirst) {
    save();
    QElapsedTimer since;
    since.start();
    const Id m = session().masterId();
    // Never two seconds of rest: an edit every 0.3 seconds.
    bool kept = false;
    for (int k = 0; k < 12 && !kept; ++k) {
        ASSERT_TRUE(session().apply(
            "set", [&](const Project& p) { return edit::setChannelConstant(p, m, "metallic", Value::number(float(k) / 16)); }));
        QTest::qWait(300);
        kept = QFile::exists(file() + ".journal");
    }
    EXPECT_TRUE(kept) << "after " << since.elapsed() << " ms";
    EXPECT_LT(since.elapsed(), 3200);
}

} // namespace
} // namespace hue::test
