// The board with very many cards: laying out, leading wires, frames while panning and zooming, a step of undo. Needs a display; see
// cmake/with-display.sh.
#include "app/stations/graph/board.h"
#include "app/window/main_window.h"
#include "bench/bench_graphs.h"
#include "core/board/tidy.h"
#include "core/edits/edits.h"
#include "core/project/store.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTest>
#include <QUndoStack>
#include <fmt/format.h>

namespace {

using namespace hue;

double milliseconds(const std::function<void()>& what) {
    QElapsedTimer clock;
    clock.start();
    what();
    return double(clock.nsecsElapsed()) / 1e6;
}

struct Spread {
    double middle, most; ///< median and 95th percentile
};
Spread spreadOf(std::vector<double> times) {
    std::sort(times.begin(), times.end());
    return {times[times.size() / 2], times[times.size() * 95 / 100]};
}
void print(const char* what, Spread s) { fmt::print("{:<44} {:8.2f} ms, 95% below {:8.2f} ms\n", what, s.middle, s.most); }

void ofCards(int cards) {
    QTemporaryDir folder;
    Project project = bench::largeGraph(cards);
    const Id master = project.masters[0]->id;
    const std::string file = (folder.path() + "/large.huestack").toStdString();
    if (!saveProject(project, file)) return;
    MainWindow window;
    window.setAsksBeforeClosing(false);
    window.resize(1280, 800);
    window.show();
    if (!QTest::qWaitForWindowExposed(&window)) return;
    fmt::print("{} cards\n", project.masters[0]->graph.nodes.size());
    const auto opening = [&](const char* what) {
        fmt::print("{:<44} {:8.2f} ms\n", what, milliseconds([&] {
                       window.openFile(QString::fromStdString(file));
                       QCoreApplication::processEvents();
                   }));
    };
    opening("opening, all cards on one heap");
    auto& board = *window.findChild<Board*>();
    Session& session = window.session();
    const Graph graph = session.master()->graph;
    const std::map<Id, Box> boxes = boxesOf(board.layout());
    std::map<Id, Point> places;
    fmt::print("{:<44} {:8.2f} ms\n", "tidying", milliseconds([&] { places = tidied(graph, boxes, {}); }));
    session.apply("tidy", [&](const Project& p) { return edit::moveNodes(p, master, places); });
    // With the driver's compiler at rest as well; it would take half of a small machine.
    const auto settle = [&] {
        return QTest::qWaitFor([&] { return window.boardService().settled() && session.runner().idle() && window.pictures().idle(); },
                               600000);
    };
    if (!settle() || !window.saveTo(QString::fromStdString(file))) return;
    opening("opening, tidy");
    if (!settle()) return;

    BoardLayout layout = board.layout();
    std::vector<double> times;
    for (int k = 0; k < 20; ++k)
        times.push_back(milliseconds([&] {
            Router fresh;
            layWires(layout, graph, fresh);
        }));
    print("ways for all wires", spreadOf(times));

    // Frames: each draws the board as a mouse that drags it would have it drawn.
    const auto frames = [&](const char* what, const std::function<void(int)>& move) {
        times.clear();
        for (int k = 0; k < 120; ++k) {
            move(k);
            times.push_back(milliseconds([&] { board.repaint(); }));
        }
        print(what, spreadOf(times));
    };
    const QPointF middle = board.layout().bounds().center();
    frames("a frame while panning, near", [&](int k) { board.lookAt(middle + QPointF(6.0 * k, 3.0 * k)); });
    board.selectAll();
    board.fit(true);
    board.select({});
    frames("a frame while panning, all in view", [&](int k) { board.lookAt(middle + QPointF(6.0 * k, 3.0 * k)); });
    frames("a frame while zooming", [&](int k) {
        QWheelEvent wheel(QPointF(board.width() / 2.0, board.height() / 2.0),
                          board.mapToGlobal(QPointF(board.width() / 2.0, board.height() / 2.0)), {}, QPoint(0, k < 60 ? 60 : -60),
                          Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QCoreApplication::sendEvent(&board, &wheel);
    });
    times.clear();
    const Id first = graph.nodes.begin()->first;
    for (int k = 0; k < 30; ++k)
        times.push_back(milliseconds([&] {
            session.apply("move", [&](const Project& p) { return edit::moveNodes(p, master, {{first, {float(k), float(k)}}}); });
        }));
    print("moving a card by a step", spreadOf(times));
    times.clear();
    for (int k = 0; k < 30; ++k) times.push_back(milliseconds([&] { k % 2 ? session.undoStack()->redo() : session.undoStack()->undo(); }));
    print("undo, redo", spreadOf(times));
    window.close();
}

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    for (const int cards : {300, 1000}) ofCards(cards);
    return 0;
}
