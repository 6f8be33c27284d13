#include "app/parts/theme.h"
#include "tests/app/killed.h"

#include <QApplication>
#include <QSettings>
#include <QTemporaryDir>
#include <gtest/gtest.h>

int main(int argc, char** argv) {
    testing::InitGoogleTest(&argc, argv);
    // Listing needs no display.
    if (GTEST_FLAG_GET(list_tests)) return RUN_ALL_TESTS();
    // Nobody's own settings are read or written.
    QTemporaryDir settings;
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, settings.path());
    QApplication app(argc, argv);
    QApplication::setOrganizationName("huestack-test");
    QApplication::setApplicationName("huestack-test");
    hue::initTheme();
    if (argc > 3 && argv[1] == std::string_view(hue::test::kUntilKilled))
        return hue::test::editUntilKilled(argv[2], argv[3] == std::string_view("saving"));
    return RUN_ALL_TESTS();
}
