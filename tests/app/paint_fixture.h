#pragma once
// The station Paint as its user sees it: pixels of its canvas, its fields and menus by name.
#include "app/stations/paint/paint_canvas.h"
#include "app/stations/paint/paint_page.h"
#include "tests/app/app_fixture.h"

#include <QMenu>
#include <QToolButton>

namespace hue::test {

class PaintWindow : public Window {
  protected:
    /// To the station; waits for its mesh and its picture.
    void enter() {
        settle();
        QTest::keyClick(window.get(), Qt::Key_4, Qt::ControlModifier);
        ready();
    }
    PaintPage& page() { return part<PaintPage>(); }
    PaintCanvas& canvas() { return page().canvas(); }
    template <class Widget> Widget& named(const char* name) { return *window->findChild<Widget*>(name); }
    /// The mesh can be painted, and the picture is that of the present state.
    void ready() {
        ASSERT_TRUE(waitFor(
            [&] { return page().desk().surface() && !canvas().picture().isNull() && !canvas().updating() && session().runner().idle(); },
            60000));
        settle();
    }
    QColor at(const QPointF& p) {
        const QImage& picture = canvas().picture();
        return picture.pixelColor(int(p.x()) * picture.width() / canvas().width(), int(p.y()) * picture.height() / canvas().height());
    }
    QPoint middleOf() { return canvas().rect().center(); }
    View seenFrom() {
        RenderSettings s = settingsFor(project(), project().lineup.specimens[0], session().lights(), {}, false);
        s.width = canvas().width(), s.height = canvas().height();
        return viewOfMesh(boundsOf(*page().desk().surface()->mesh()), s);
    }
    /// Down at the first point, over all, up at the last.
    void stroke(std::initializer_list<QPoint> points, Qt::KeyboardModifiers keys = {}) {
        const QPoint first = *points.begin();
        QTest::mouseMove(&canvas(), first);
        QTest::mousePress(&canvas(), Qt::LeftButton, keys, first);
        for (const QPoint& p : points) QTest::mouseMove(&canvas(), p);
        QTest::mouseRelease(&canvas(), Qt::LeftButton, keys, *(points.end() - 1));
        ready();
    }
    /// Takes the entry of a button's menu.
    void menu(const char* button, const QString& entry) {
        QMenu* open = named<QToolButton>(button).menu();
        Q_EMIT open->aboutToShow();
        for (QAction* action : open->actions())
            if (action->text() == entry) {
                action->trigger();
                return ready();
            }
        FAIL() << "no entry " << entry.toStdString();
    }
};

} // namespace hue::test
