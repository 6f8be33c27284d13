#include "app/parts/theme.h"
#include "app/stations/maps/map_panes.h"

#include <QFormLayout>
#include <QGridLayout>
#include <QPainter>

namespace hue {

QWidget* controlColumn(int width, QFormLayout*& form) {
    auto* side = new QWidget;
    side->setObjectName("panel");
    side->setAttribute(Qt::WA_StyledBackground);
    side->setFixedWidth(width);
    form = new QFormLayout(side);
    form->setContentsMargins(12, 10, 12, 10);
    form->setVerticalSpacing(7);
    return side;
}

HistogramStrip::HistogramStrip(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(58);
    setAccessibleName(tr("Histogram"));
}

void HistogramStrip::show(const ChannelFacts& facts, SampleType type) {
    m_facts = facts;
    m_has = true;
    const bool integer = type == SampleType::U8 || type == SampleType::U16;
    const QString range = tr("%1 to %2").arg(double(facts.least), 0, 'g', 3).arg(double(facts.most), 0, 'g', 3);
    if (facts.constant()) m_words = tr("%1 everywhere: carries nothing").arg(double(facts.least), 0, 'g', 3);
    else if (integer) m_words = tr("%1, %2 of %3 levels").arg(range).arg(facts.levels).arg(type == SampleType::U8 ? 256 : 65536);
    else m_words = facts.broken ? tr("%1, %2 invalid").arg(range).arg(facts.broken) : range;
    setAccessibleDescription(m_words);
    setToolTip(tr("Shares of the values from black to white; mean %1, deviation %2")
                   .arg(double(facts.mean), 0, 'g', 3)
                   .arg(double(facts.deviation), 0, 'g', 3));
    update();
}

void HistogramStrip::clear() {
    m_has = false;
    m_words.clear();
    update();
}

void HistogramStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.fillRect(rect(), t.panel);
    if (!m_has) return;
    const QRect box(4, 2, width() - 8, height() - 22);
    p.fillRect(box, t.card);
    float most = 1e-9f;
    for (float s : m_facts.share) most = std::max(most, s);
    // The root keeps rare values in sight beside frequent ones.
    for (int x = 0; x < box.width(); ++x) {
        const int from = x * ChannelFacts::kBins / box.width(), to = std::max(from + 1, (x + 1) * ChannelFacts::kBins / box.width());
        float s = 0;
        for (int b = from; b < to; ++b) s = std::max(s, m_facts.share[size_t(b)]);
        const int h = int(std::sqrt(s / most) * float(box.height()));
        if (h > 0) p.fillRect(box.left() + x, box.bottom() + 1 - h, 1, h, t.ink);
    }
    p.setFont(textFont(11));
    p.setPen(m_facts.constant() || m_facts.broken ? t.caution : t.ink2);
    p.drawText(QRect(4, height() - 19, width() - 8, 18), Qt::AlignVCenter | Qt::AlignLeft,
               p.fontMetrics().elidedText(m_words, Qt::ElideRight, width() - 8));
}

MapLookPane::MapLookPane(Session& session, MapService& service) : MapPane(session, service) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(2);
    grid->setRowStretch(0, 1);
    static constexpr const char* names[] = {QT_TR_NOOP("Red"), QT_TR_NOOP("Green"), QT_TR_NOOP("Blue"), QT_TR_NOOP("Alpha")};
    const auto place = std::make_shared<CanvasPlace>();
    for (int c = 0; c < 4; ++c) {
        auto* canvas = new MapCanvas(tr(names[c]));
        canvas->follow(place);
        canvas->setReadout([this, c](QPointF at) -> QString {
            if (!m_image || c >= m_image->channels) return {};
            const int x = std::clamp(int(at.x() * m_image->width), 0, m_image->width - 1),
                      y = std::clamp(int(at.y() * m_image->height), 0, m_image->height - 1);
            const float v = m_image->at(x, y, c);
            const int levels = m_image->type == SampleType::U8 ? 255 : m_image->type == SampleType::U16 ? 65535 : 0;
            return levels ? tr("%1, %2  %3 (%4)").arg(x).arg(y).arg(double(v), 0, 'f', 4).arg(int(std::lround(v * float(levels))))
                          : tr("%1, %2  %3").arg(x).arg(y).arg(double(v), 0, 'g', 5);
        });
        connect(canvas, &MapCanvas::moved, this, [this] {
            for (MapCanvas* other : m_canvas) other->update();
        });
        m_canvas[size_t(c)] = canvas;
        m_strip[size_t(c)] = new HistogramStrip;
        grid->addWidget(canvas, 0, c);
        grid->addWidget(m_strip[size_t(c)], 1, c);
        grid->setColumnStretch(c, 1);
    }
}

void MapLookPane::show(const Id& id) {
    m_map = id;
    const MapFile* m = map();
    const ImagePtr image = m ? m_service.image(id) : nullptr;
    const auto known = m ? m_service.knowledge(*m) : nullptr;
    static constexpr const char* names[] = {QT_TR_NOOP("Red"), QT_TR_NOOP("Green"), QT_TR_NOOP("Blue"), QT_TR_NOOP("Alpha")};
    for (int c = 0; c < 4; ++c) {
        MapCanvas* canvas = m_canvas[size_t(c)];
        // A grey map has its value and perhaps alpha.
        const int channels = image ? image->channels : known ? known->facts.channels : 0;
        const int from = channels == 2 && c == 3 ? 1 : c;
        const bool has = channels == 2 ? c == 0 || c == 3 : c < channels;
        canvas->setCaption(channels > 0 && channels < 3 && c == 0 ? tr("Grey") : tr(names[c]));
        canvas->setEmptyText(!m                                 ? QString()
                             : known && !known->problem.empty() ? QString::fromStdString(known->problem)
                             : channels == 0                    ? tr("reading")
                                                                : tr("none"));
        if (image && image != m_image) canvas->setImage(has ? imageOfScreen(channelPicture(*m_service.shown(image), from)) : QImage());
        if (!image) canvas->setImage({});
        if (known && known->problem.empty() && has) m_strip[size_t(c)]->show(known->facts.channel[size_t(from)], known->facts.type);
        else m_strip[size_t(c)]->clear();
    }
    m_image = image;
}

} // namespace hue
