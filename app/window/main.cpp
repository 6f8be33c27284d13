// usage: huestack [PROJECT] [--shot FILE.png]      --shot waits for the pictures, saves the window as a picture and ends.
#include "app/lineup/lineup_view.h"
#include "app/parts/theme.h"
#include "app/stations/maps/maps_page.h"
#include "app/window/main_window.h"
#include "core/base/files.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QTimer>
#include <cstdio>
#include <cstdlib>

namespace {

int run(int argc, char** argv) {
    QElapsedTimer sinceStart;
    sinceStart.start();
    QApplication app(argc, argv);
    QApplication::setApplicationName("huestack");
    QApplication::setOrganizationName("huestack");
    QCommandLineParser parser;
    parser.setApplicationDescription("Hue Stack: master materials and instances for real-time artists.");
    parser.addHelpOption();
    parser.addPositionalArgument("PROJECT", "A .huestack file to open");
    const QCommandLineOption shot("shot", "Save the window as a picture and end", "FILE.png");
    QStringList keys;
    for (const hue::StationDef& def : hue::stations()) keys << def.key;
    const QCommandLineOption station("station", "Start at a station: " + keys.join(", "), "KEY", hue::kFirstStation);
    const QCommandLineOption timing("timing", "Print the milliseconds until all pictures were first complete, and end");
    const QCommandLineOption themeOption("theme", "Plaster or Graphite, for this run", "NAME");
    const QCommandLineOption master("master", "The master to show on the board", "NAME");
    const QCommandLineOption fill("fill", "The specimen that fills the window, from 1", "N");
    const QCommandLineOption map("map", "The map to show in the station Maps", "NAME");
    const QCommandLineOption pane("pane", "The pane of the station Maps: 1 Channels, 2 Tiling, 3 Convert, 4 Compress, 5 Pack, 6 Draw", "N",
                                  "1");
    parser.addOptions({shot, station, timing, themeOption, master, fill, map, pane});
    parser.process(app);
    hue::initTheme();
    hue::MainWindow window;
    if (parser.isSet(themeOption)) hue::setTheme(parser.value(themeOption));
    const QStringList files = parser.positionalArguments();
    const bool unattended = parser.isSet(shot) || parser.isSet(timing);
    if (unattended) {
        window.setAsksBeforeClosing(false);
        window.resize(1280, 800);
    }
    window.show();
    if (files.isEmpty() || !window.openFile(files[0])) window.startNew("plain");
    if (const hue::Id id = window.session().project().findByName(parser.value(master).toStdString()); !id.empty())
        window.session().setTarget(id);
    window.showStation(parser.value(station));
    if (auto* maps = window.findChild<hue::MapsPage*>()) {
        for (const auto& m : window.session().project().maps)
            if (parser.isSet(map) && m->name == parser.value(map).toStdString()) maps->choose(m->id);
        if (parser.isSet(pane)) maps->showPane(hue::MapsPage::Pane(std::clamp(parser.value(pane).toInt(), 1, 6) - 1));
    }
    if (parser.isSet(fill)) window.lineup().fill(parser.value(fill).toInt() - 1);
    if (!unattended) return QApplication::exec();

    // For the time any picture of the right size, for a shot the driver's second one, which is the fine one.
    const int wanted = parser.isSet(timing) ? 0 : 2;
    auto* poll = new QTimer(&app);
    QObject::connect(poll, &QTimer::timeout, &app, [&] {
        for (size_t i = 0; i < window.lineup().count(); ++i) {
            const auto* specimen = window.lineup().specimen(i);
            // One that cannot be drawn says why.
            if (!specimen->isVisible() || !specimen->problem().isEmpty()) continue;
            if (!window.pictures().idle() && parser.isSet(shot)) return;
            if (specimen->framesShown() < wanted || specimen->picture().size() != specimen->pictureSize()) return;
        }
        poll->stop();
        if (parser.isSet(timing)) {
            std::printf("%lld\n", static_cast<long long>(sinceStart.elapsed()));
            return QApplication::quit();
        }
        // Maps are looked at in the background.
        QTimer::singleShot(parser.isSet(map) ? 2500 : 400, &app, [&] {
            window.grab().save(parser.value(shot));
            QApplication::quit();
        });
    });
    poll->start(parser.isSet(timing) ? 5 : 50);
    return QApplication::exec();
}

} // namespace

int main(int argc, char** argv) {
    const int code = run(argc, argv);
    // Threads that were left at work must not find what they read taken down.
    if (hue::Runner::abandoned()) {
        std::fflush(nullptr);
        hue::discardUnfinishedFiles();
        std::_Exit(code);
    }
    return code;
}
