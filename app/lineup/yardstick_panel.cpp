#include "app/lineup/yardstick_panel.h"

#include "app/lineup/lineup_view.h"
#include "app/parts/fields.h"
#include "app/parts/theme.h"
#include "app/session/drops.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>

namespace hue {

HistogramPlot::HistogramPlot(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(130);
    setAccessibleName(tr("Histograms of picture and yardstick"));
    setToolTip(tr("Shares of the encoded values, 0 at the left and 1 at the right: the specimen filled, the yardstick as a line"));
}

void HistogramPlot::show(const std::optional<Comparison>& comparison) {
    m_comparison = comparison;
    update();
}

void HistogramPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.setRenderHint(QPainter::Antialiasing);
    static constexpr const char* names[] = {"R", "G", "B"};
    const int each = height() / 3;
    for (size_t c = 0; c < 3; ++c) {
        const QRectF box(18, double(c) * each + 2, width() - 20, each - 6);
        p.fillRect(box, t.card);
        p.setFont(codeFont(10));
        p.setPen(t.ink2);
        p.drawText(QRectF(0, box.top(), 16, box.height()), Qt::AlignVCenter | Qt::AlignLeft, names[c]);
        if (!m_comparison) continue;
        const auto& first = m_comparison->second.share[c]; // the specimen
        const auto& second = m_comparison->first.share[c]; // the yardstick
        // The surround fills a few bins in both; the root keeps the rest in sight.
        auto curve = [&](const std::array<float, Histogram::kBins>& share) {
            QPainterPath path(box.bottomLeft());
            for (int b = 0; b < Histogram::kBins; ++b)
                path.lineTo(box.left() + box.width() * (b + 0.5) / Histogram::kBins,
                            box.bottom() - box.height() * std::min(1.0, std::sqrt(double(share[size_t(b)])) * 1.6));
            path.lineTo(box.bottomRight());
            return path;
        };
        QColor fill = t.ink;
        fill.setAlpha(70);
        p.fillPath(curve(first), fill);
        p.setPen(QPen(t.ink, 1.3));
        p.drawPath(curve(second));
    }
}

YardstickPanel::YardstickPanel(Session& session, LineupView& lineup) : QFrame(&lineup, Qt::Popup), m_session(session), m_lineup(lineup) {
    setObjectName("panel");
    setFrameShape(QFrame::Box);
    setAccessibleName(tr("Yardstick"));
    auto* form = new QFormLayout(this);
    form->setContentsMargins(14, 12, 14, 12);
    form->setSpacing(7);
    m_what = new QComboBox;
    m_what->setMinimumWidth(240);
    m_what->setAccessibleName(tr("Yardstick"));
    m_what->setToolTip(tr("What the specimens are compared against"));
    form->addRow(tr("Compare with"), m_what);
    static constexpr const char* mapNames[] = {QT_TR_NOOP("Base color"), QT_TR_NOOP("Occlusion, roughness, metallic"), QT_TR_NOOP("Normal"),
                                               QT_TR_NOOP("Height")};
    for (size_t i = 0; i < 4; ++i) {
        m_maps[i] = new QComboBox;
        m_maps[i]->setAccessibleName(tr(mapNames[i]));
        m_mapNames[i] = new QLabel(tr(mapNames[i]));
        form->addRow(m_mapNames[i], m_maps[i]);
        connect(m_maps[i], &QComboBox::activated, this, [this, i] {
            m_lineup.changeByEdit(tr("change yardstick"),
                                  [&](Lineup& l) { l.yardstick.maps[i] = m_maps[i]->currentData().toString().toStdString(); });
        });
    }
    m_show = new QComboBox;
    m_show->setAccessibleName(tr("How it is shown"));
    m_show->addItems({tr("beside"), tr("split"), tr("difference")});
    form->addRow(tr("Shown"), m_show);
    m_gain = new ValueField;
    m_gain->setRange(1, 32);
    m_gain->setAccessibleName(tr("Gain of the difference"));
    m_gainName = new QLabel(tr("Gain"));
    form->addRow(m_gainName, m_gain);
    m_numbers = new QLabel;
    m_numbers->setFont(codeFont(11));
    m_numbers->setWordWrap(true);
    form->addRow(m_numbers);
    m_plot = new HistogramPlot;
    form->addRow(m_plot);
    connect(m_what, &QComboBox::activated, this, &YardstickPanel::choose);
    connect(m_show, &QComboBox::activated, this, [this](int index) {
        m_lineup.changeByEdit(tr("change yardstick"), [&](Lineup& l) { l.yardstick.show = Yardstick::Show(index); });
    });
    connect(m_gain, &ValueField::edited, this,
            [this](const Value& v) { m_lineup.change([&](Lineup& l) { l.yardstick.gain = std::clamp(v[0], 0.1f, 100.f); }); });
    // Closed, it has nothing to follow.
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (isVisible() && what.any(Change::Lineup | Change::Camera | Change::Names | Change::Maps)) refresh();
    });
    refresh();
}

void YardstickPanel::choose(int index) {
    Yardstick y = m_choices[size_t(index)];
    const Yardstick& now = m_session.project().lineup.yardstick;
    y.show = now.show;
    y.split = now.split;
    y.gain = now.gain;
    y.maps = now.maps;
    if (y.what == Yardstick::What::Picture && y.picture.empty()) {
        hide();
        const QString file = QFileDialog::getOpenFileName(&m_lineup, tr("A photograph or a saved picture"), {}, imageFilter());
        if (file.isEmpty()) return refresh();
        const std::filesystem::path path = file.toStdString();
        y.picture = m_session.assets().stored(path);
    }
    m_lineup.changeByEdit(tr("change yardstick"), [&](Lineup& l) { l.yardstick = y; });
}

void YardstickPanel::refresh() {
    const Project& p = m_session.project();
    const Yardstick& y = p.lineup.yardstick;
    m_what->clear();
    m_choices.clear();
    auto add = [&](const QString& name, const Yardstick& choice) {
        m_what->addItem(name);
        m_choices.push_back(choice);
        const bool same = choice.what == y.what && (y.what != Yardstick::What::Specimen || choice.specimen == y.specimen) &&
                          (y.what != Yardstick::What::Worn || choice.worn == y.worn) &&
                          (y.what != Yardstick::What::Picture || choice.picture == y.picture);
        if (same) m_what->setCurrentIndex(m_what->count() - 1);
    };
    Yardstick choice;
    add(tr("nothing"), choice);
    choice.what = Yardstick::What::Specimen;
    for (size_t i = 0; i < p.lineup.specimens.size(); ++i) {
        choice.specimen = int(i);
        add(tr("specimen %1").arg(i + 1), choice);
    }
    choice = {};
    choice.what = Yardstick::What::Worn;
    auto worn = [&](const Id& id) {
        choice.worn = id;
        add(QString::fromStdString(p.nameOf(id)), choice);
    };
    for (const auto& m : p.masters) worn(m->id);
    for (const auto& i : p.instances) worn(i->id);
    choice = {};
    choice.what = Yardstick::What::Maps;
    add(tr("a map set"), choice);
    choice = {};
    choice.what = Yardstick::What::Original;
    add(tr("its own maps, not compressed"), choice);
    choice = {};
    choice.what = Yardstick::What::Picture;
    if (!y.picture.empty()) {
        choice.picture = y.picture;
        add(QString::fromStdString(std::filesystem::path(y.picture).filename().string()), choice);
        choice.picture.clear();
    }
    add(tr("a picture\u2026"), choice);
    for (size_t i = 0; i < 4; ++i) {
        m_maps[i]->clear();
        m_maps[i]->addItem(tr("none"), QString());
        for (const auto& m : p.maps) m_maps[i]->addItem(QString::fromStdString(m->name), QString::fromStdString(m->id));
        m_maps[i]->setCurrentIndex(std::max(0, m_maps[i]->findData(QString::fromStdString(y.maps[i]))));
        m_maps[i]->setVisible(y.what == Yardstick::What::Maps);
        m_mapNames[i]->setVisible(y.what == Yardstick::What::Maps);
    }
    m_show->setCurrentIndex(int(y.show));
    m_gain->setValue(Value::number(y.gain));
    const bool difference = y.show == Yardstick::Show::Difference;
    m_gain->setVisible(difference);
    m_gainName->setVisible(difference);
    showNumbers();
}

void YardstickPanel::showNumbers() {
    const SpecimenView* view = m_lineup.specimen(m_lineup.current());
    // The specimen that is the yardstick itself has no numbers.
    if (view && !view->finished().comparison)
        for (size_t i = 0; i < m_lineup.count(); ++i)
            if (m_lineup.specimen(i)->finished().comparison) view = m_lineup.specimen(i);
    const bool has = view && view->finished().comparison && m_session.project().lineup.yardstick.what != Yardstick::What::None;
    m_plot->show(has ? view->finished().comparison : std::nullopt);
    if (!has) return m_numbers->setText(tr("Choose what to compare with."));
    const Comparison& c = *view->finished().comparison;
    m_numbers->setText(tr("Specimen %1\n\u0394E (CIEDE2000) mean %2, worst %3\nperceived (FLIP) %4")
                           .arg(view->index() + 1)
                           .arg(double(c.mean), 0, 'f', 2)
                           .arg(double(c.worst), 0, 'f', 1)
                           .arg(double(c.flip), 0, 'f', 3));
}

} // namespace hue
