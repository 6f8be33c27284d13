#include "app/stations/paint/paint_page.h"

#include "app/stations/paint/brush_panel.h"
#include "app/stations/paint/channel_panel.h"
#include "app/stations/paint/paint_canvas.h"

#include <QHBoxLayout>
#include <QScrollArea>

namespace hue {

PaintPage::PaintPage(Workplace& workplace)
    : Station(workplace, {}),
      m_desk(new PaintDesk(workplace.session, this)),
      m_canvas(new PaintCanvas(workplace.session, workplace.pictures, *m_desk)),
      m_channels(new ChannelPanel(workplace.session, *m_desk)),
      m_brush(new BrushPanel(*m_desk)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(2);
    // In a low window the panels scroll.
    const auto scrolled = [](QWidget* panel, const QString& name) {
        auto* area = new QScrollArea;
        area->setWidget(panel);
        area->setWidgetResizable(true);
        area->setFrameShape(QFrame::NoFrame);
        area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        area->setFixedWidth(panel->maximumWidth() + 12);
        area->setFocusPolicy(Qt::NoFocus);
        area->setAccessibleName(name);
        return area;
    };
    row->addWidget(scrolled(m_channels, tr("What is painted")));
    row->addWidget(m_canvas, 1);
    row->addWidget(scrolled(m_brush, tr("Brush")));
    connect(m_channels, &ChannelPanel::overlayChanged, m_canvas, &PaintCanvas::setOverlay);
    connect(m_channels, &ChannelPanel::graphWanted, this, [this] { place().show("graph"); });
}

void PaintPage::arrive() {
    m_desk->setSpecimen(place().lineup.current());
    m_canvas->setFocus();
}

void PaintPage::showEvent(QShowEvent*) { m_desk->setActive(true); }
void PaintPage::hideEvent(QHideEvent*) { m_desk->setActive(false); }

bool PaintPage::showPlace(const Place& where) {
    if (!session().project().paintwork(where.port)) return false;
    const auto& specimens = session().project().lineup.specimens;
    for (size_t i = 0; i < specimens.size(); ++i)
        if (specimens[i].paintwork == where.port) m_desk->setSpecimen(i);
    place().show("paint");
    return true;
}

void PaintPage::addCommands() {
    const auto add = [this](const QString& id, const QString& text, QKeySequence keys, const QString& help, std::function<void()> act) {
        place().commands.add({.id = id,
                              .text = text,
                              .menu = tr("Paint"),
                              .keys = {std::move(keys)},
                              .where = {"paint"},
                              .help = help,
                              .act = std::move(act)});
    };
    for (int c = 0; c < 4; ++c)
        add(QString("paint.channel-%1").arg(c + 1), tr("Paint channel %1").arg(c + 1), QKeySequence(QString::number(c + 1)),
            tr("What the brush and rules change"), [this, c] { m_desk->setChannel(c); });
    add("paint.smaller", tr("Smaller brush"), Qt::Key_Comma, {}, [this] { m_canvas->resizeBrush(1 / 1.25f); });
    add("paint.larger", tr("Larger brush"), Qt::Key_Period, {}, [this] { m_canvas->resizeBrush(1.25f); });
    const auto brush = [this](auto how) {
        return [this, how] {
            Brush b = m_desk->brush();
            how(b);
            m_desk->setBrush(b);
        };
    };
    add("paint.lighter", tr("Less weight"), QKeySequence("Shift+F2"), {},
        brush([](Brush& b) { b.weight = std::max(0.f, b.weight - 0.1f); }));
    add("paint.heavier", tr("More weight"), QKeySequence("Shift+F3"), {},
        brush([](Brush& b) { b.weight = std::min(1.f, b.weight + 0.1f); }));
    const std::tuple<const char*, QString, Qt::Key, Brush::Does> kinds[] = {
        {"paint.add", tr("Add"), Qt::Key_A, Brush::Does::Add},
        {"paint.take-away", tr("Take away"), Qt::Key_T, Brush::Does::TakeAway},
        {"paint.set", tr("Set"), Qt::Key_S, Brush::Does::Set},
        {"paint.smooth", tr("Smooth"), Qt::Key_O, Brush::Does::Smooth},
        {"paint.smear", tr("Smear"), Qt::Key_E, Brush::Does::Smear}};
    for (const auto& [id, name, key, does] : kinds) add(id, name, key, {}, brush([does = does](Brush& b) { b.does = does; }));
    add("paint.next-view", tr("See the paint another way"), Qt::Key_V, tr("As worn, the channel alone, weights, their sum"),
        [this] { m_desk->setShown(PaintShown((int(m_desk->shown()) + 1) % 4)); });
    add("paint.finer", tr("Make the mesh finer"), QKeySequence("Ctrl+Shift+F"), tr("Four triangles for each, with the paint carried over"),
        [this] { m_desk->makeFiner(); });
    add("paint.rule", tr("Type a rule"), Qt::Key_R, tr("What the channel is filled by"), [this] { m_channels->typeRule(); });
}

} // namespace hue
