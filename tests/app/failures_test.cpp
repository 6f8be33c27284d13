// A window on a machine whose driver cannot draw.
#include "app/lineup/specimen_view.h"
#include "tests/app/app_fixture.h"

namespace hue {
namespace {

using namespace test;

TEST(Drivers, WithoutOpenGlTheSpecimensSayWhyAndTheBoardWorks) {
    // A process of its own: drivers read their surroundings once.
    GTEST_FLAG_SET(death_test_style, "threadsafe");
    EXPECT_EXIT(
        {
            qputenv("__EGL_VENDOR_LIBRARY_DIRS", "/nonexistent");
            MainWindow window;
            window.setAsksBeforeClosing(false);
            window.resize(1280, 800);
            window.show();
            const bool open = window.openFile(HUE_SOURCE_DIR "/demo/depot/depot.huestack");
            SpecimenView* view = window.lineup().specimen(0);
            const bool said = QTest::qWaitFor([&] { return !view->problem().isEmpty(); }, 10000);
            const bool edited = window.session().apply("edit", [&](const Project& p) {
                return edit::setChannelConstant(p, window.session().masterId(), "roughness", Value::number(0.3f));
            });
            const bool settled = QTest::qWaitFor([&] { return window.boardService().settled(); }, 20000);
            fprintf(stderr, "said: %s\n", view->problem().toUtf8().constData());
            fflush(stderr);
            _exit(open && said && edited && settled ? 0 : 1);
        },
        testing::ExitedWithCode(0), "said: .*Install a driver with OpenGL 4.1");
}

} // namespace
} // namespace hue
