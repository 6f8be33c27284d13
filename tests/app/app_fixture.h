#pragma once
// The real window, driven by mouse and keys.
#include "app/lineup/lineup_view.h"
#include "app/parts/fields.h"
#include "app/stations/dispatch/dispatch_page.h"
#include "app/stations/graph/add_line.h"
#include "app/stations/graph/board.h"
#include "app/stations/graph/parameter_row.h"
#include "app/stations/graph/parameter_sheet.h"
#include "app/stations/graph/surface_rail.h"
#include "app/stations/graph/tap_panel.h"
#include "app/stations/instances/instances_page.h"
#include "app/stations/maps/maps_page.h"
#include "app/window/main_window.h"
#include "app/window/status_bar.h"
#include "core/edits/edits.h"
#include "tests/app/patience.h"
#include "tests/places.h"

#include <QApplication>
#include <QDragEnterEvent>
#include <QLineEdit>
#include <QMimeData>
#include <QTemporaryDir>
#include <QTest>
#include <gtest/gtest.h>

namespace hue::test {

inline bool waitFor(const std::function<bool()>& done, int milliseconds) { return QTest::qWaitFor(done, milliseconds * kPatience); }

class Window : public testing::Test {
  protected:
    void SetUp() override {
        folder = std::make_unique<QTemporaryDir>();
        qputenv("XDG_STATE_HOME", folder->path().toUtf8());
        window = std::make_unique<MainWindow>();
        window->resize(1280, 800);
        window->show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(window.get()));
        window->activateWindow();
        window->startNew("empty");
        settle();
    }
    void TearDown() override {
        window->setAsksBeforeClosing(false);
        window->close();
        window.reset();
    }

    Session& session() { return window->session(); }
    const Project& project() { return session().project(); }
    const Graph& graph() { return session().master()->graph; }
    template <class Part> Part& part() { return *window->findChild<Part*>(); }
    Board& board() { return part<Board>(); }
    ParameterSheet& sheet() { return part<ParameterSheet>(); }
    SurfaceRail& rail() { return part<SurfaceRail>(); }
    TapPanel& tap() { return part<TapPanel>(); }
    MapsPage& maps() { return part<MapsPage>(); }
    InstancesPage& instances() { return part<InstancesPage>(); }
    DispatchPage& dispatch() { return part<DispatchPage>(); }

    /// Waits until swatches and pictures are those of the present state.
    void settle() {
        ASSERT_TRUE(waitFor([&] { return window->boardService().settled(); }, 60000));
        ASSERT_TRUE(waitFor(
            [&] {
                for (size_t i = 0; i < window->lineup().count(); ++i)
                    if (window->lineup().specimen(i)->updating()) return false;
                return true;
            },
            60000));
    }

    /// Waits until nothing goes on any more: no job, no swatch, no picture, not even the finer one of what stands still.
    void rest() {
        settle();
        ASSERT_TRUE(waitFor(
            [&] {
                return window->mapService().settled() && window->livePaint().settled() && session().runner().idle() &&
                       window->pictures().idle();
            },
            120000));
        // What finished last was posted, and may still have to be told.
        QCoreApplication::processEvents();
        settle();
    }

    void key(QWidget* to, Qt::Key k, Qt::KeyboardModifiers modifiers = {}) { QTest::keyClick(to, k, modifiers); }

    /// Types into the add line with the pointer at a place of the board, and takes the first suggestion. The new card.
    Id type(const QString& text, QPoint at) {
        std::set<Id> before;
        for (const auto& [id, node] : graph().nodes) before.insert(id);
        QTest::mouseMove(&board(), at);
        QTest::mouseClick(&board(), Qt::LeftButton, {}, at);
        board().setFocus();
        QCursor::setPos(board().mapToGlobal(at));
        QTest::keyClicks(&board(), text.left(1));
        QTest::keyClicks(board().addLine()->line(), text.mid(1));
        key(board().addLine()->line(), Qt::Key_Return);
        settle();
        for (const auto& [id, node] : graph().nodes)
            if (!before.contains(id)) return id;
        ADD_FAILURE() << "nothing was placed for " << text.toStdString();
        return {};
    }

    QPoint pin(const Id& card, CardRow::Kind kind, const char* port) {
        const CardRow* row = board().layout().cards.at(card).row(kind, port);
        return board().toWidget(row->pin).toPoint();
    }

    /// Drags a wire with the mouse.
    void drag(QWidget* from, QPoint start, QPoint globalEnd) {
        QTest::mousePress(from, Qt::LeftButton, {}, start);
        QTest::mouseMove(from, start + QPoint(10, 5));
        QTest::mouseMove(from, from->mapFromGlobal(globalEnd));
        QTest::mouseRelease(from, Qt::LeftButton, {}, from->mapFromGlobal(globalEnd));
    }
    void wireTo(const Id& from, const char* output, const Id& to, const char* input) {
        drag(&board(), pin(from, CardRow::Kind::Output, output), board().mapToGlobal(pin(to, CardRow::Kind::Input, input)));
        settle();
    }
    void wireToChannel(const Id& from, const char* output, const char* channel) {
        QWidget* row = rail().row(channel);
        drag(&board(), pin(from, CardRow::Kind::Output, output), row->mapToGlobal(QPoint(20, 18)));
        settle();
    }

    /// The middle of the first specimen's picture.
    QColor middle() {
        const QImage& picture = window->lineup().specimen(0)->picture();
        return picture.pixelColor(picture.width() / 2, picture.height() / 2);
    }
    void view(const char* name) {
        while (project().lineup.view != name) { window->lineup().nextView(); }
        settle();
    }

    /// What the desktop sends when something is let go over a widget.
    /// Files that are dropped are read in the background; waits for them.
    void drop(QWidget* to, QPoint at, QMimeData& data) {
        QDragEnterEvent enter(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(to, &enter);
        QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(to, &event);
        ASSERT_TRUE(waitFor([&] { return session().runner().idle(); }, 30000));
    }

    std::unique_ptr<QTemporaryDir> folder;
    std::unique_ptr<MainWindow> window;
};

} // namespace hue::test
