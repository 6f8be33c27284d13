// A window on a machine whose driver cannot draw.
#include "app/lineup/specimen_view.h"
#include "tests/app/app_fixture.h"

namespace hue {
namespace {

using namespace test;

TEST(Drivers, WithoutOpenGlTheCpuDrawsSpecimensThatSayWhyAndTheBoardWorks) {
    // A process of its own: drivers read their surroundings once.
    GTEST_FLAG_SET(death_test_style, "threadsafe");
    EXPECT_EXIT(
        {
            qputenv("__EGL_VENDOR_LIBRARY_DIRS", "/nonexistent");
            MainWindow window;
            window.setAsksBeforeClosing(false);
            window.resize(1280, 800);
            window.show();
            const bool open = window.openFile(QString::fromStdString(depotFile()));
            SpecimenView* view = window.lineup().specimen(0);
            const bool said = waitFor([&] { return !view->problem().isEmpty(); }, 10000);
            const bool drawn = waitFor([&] { return view->picture().size() == view->pictureSize(); }, 20000);
            // More than the backdrop: the specimen has colors of its own.
            const QImage lit = view->picture();
            int colored = 0;
            for (int y = 0; y < lit.height(); ++y)
                for (int x = 0; x < lit.width(); ++x) colored += qRed(lit.pixel(x, y)) > qBlue(lit.pixel(x, y)) + 40;
            // A channel alone is the driver's to draw, and the specimen says so.
            window.session().apply("view", [&](const Project& p) -> Result<Project> {
                Project q = p;
                q.lineup.view = "roughness";
                return q;
            });
            const bool saidAgain = waitFor([&] { return !view->updating() && !view->problem().isEmpty(); }, 10000);
            const bool edited = window.session().apply("edit", [&](const Project& p) {
                return edit::setChannelConstant(p, window.session().masterId(), "roughness", Value::number(0.3f));
            });
            const bool settled = waitFor([&] { return window.boardService().settled(); }, 20000);
            fprintf(stderr, "said: %s\n", view->problem().toUtf8().constData());
            fflush(stderr);
            _exit(open && said && drawn && colored > 500 && saidAgain && edited && settled ? 0 : 1);
        },
        testing::ExitedWithCode(0), "said: .*Install a driver with OpenGL 4.1");
}

} // namespace
} // namespace hue
