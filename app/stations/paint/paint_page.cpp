#include "app/stations/paint/paint_page.h"

#include "app/stations/paint/brush_panel.h"
#include "app/stations/paint/channel_panel.h"
#include "app/stations/paint/choice_button.h"
#include "app/stations/paint/decal_panel.h"
#include "app/stations/paint/paint_canvas.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QScrollArea>
#include <QVBoxLayout>

namespace hue {

PaintPage::PaintPage(Workplace& workplace)
    : Station(workplace, {}),
      m_desk(new PaintDesk(workplace.session, this)),
      m_decals(new DecalDesk(workplace.session, *m_desk, this)),
      m_canvas(new PaintCanvas(workplace.session, workplace.pictures, *m_desk, *m_decals)),
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
    // At the right the hand: a brush, or decals.
    auto* hand = new QVBoxLayout;
    hand->setSpacing(2);
    auto* choices = new QHBoxLayout;
    choices->setContentsMargins(10, 6, 10, 0);
    choices->setSpacing(2);
    auto* group = new QButtonGroup(this);
    QToolButton* brush = choiceButton(tr("brush"), "handBrush", tr("The left button paints"));
    QToolButton* decals = choiceButton(tr("decals"), "handDecals",
                                       tr("The left button takes hold of decals: the middle moves, corners size, "
                                          "the mast's end turns"));
    for (QToolButton* b : {brush, decals}) {
        group->addButton(b);
        choices->addWidget(b);
    }
    brush->setChecked(true);
    hand->addLayout(choices);
    QScrollArea *brushArea = scrolled(m_brush, tr("Brush")),
                *decalArea = scrolled(new DecalPanel(workplace.session, *m_desk, *m_decals), tr("Decals"));
    hand->addWidget(brushArea, 1);
    hand->addWidget(decalArea, 1);
    decalArea->hide();
    row->addLayout(hand);
    connect(decals, &QToolButton::toggled, m_decals, &DecalDesk::setInHand);
    connect(m_decals, &DecalDesk::changed, this, [this, brush, decals, brushArea, decalArea] {
        const bool inHand = m_decals->inHand();
        (inHand ? decals : brush)->setChecked(true);
        brushArea->setVisible(!inHand);
        decalArea->setVisible(inHand);
    });
    connect(static_cast<DecalPanel*>(decalArea->widget()), &DecalPanel::addWanted, this,
            [this](const Id& worn) { m_decals->put(worn, m_canvas->middle()); });
    connect(static_cast<DecalPanel*>(decalArea->widget()), &DecalPanel::wordsWanted, this,
            [this](const QString& words) { m_decals->putText(words, m_canvas->middle()); });
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
    const auto& specimens = session().project().lineup.specimens;
    for (size_t i = 0; i < specimens.size(); ++i)
        for (const Decal& d : specimens[i].decals) {
            if (d.id != where.port) continue;
            m_desk->setSpecimen(i);
            m_decals->setInHand(true);
            m_decals->choose(d.id);
            place().show("paint");
            return true;
        }
    if (!session().project().paintwork(where.port)) return false;
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
    for (int c = 0; c < PaintData::kChannels; ++c)
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
    add("paint.decals", tr("Decals in hand"), Qt::Key_D, tr("The left button takes hold of decals instead of painting, and back"),
        [this] { m_decals->setInHand(!m_decals->inHand()); });
    add("paint.rule", tr("Type a rule"), Qt::Key_R, tr("What the channel is filled by"), [this] { m_channels->typeRule(); });
}

} // namespace hue
