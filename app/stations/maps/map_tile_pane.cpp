#include "app/parts/theme.h"
#include "app/stations/maps/map_panes.h"
#include "core/edits/edits.h"
#include "core/maps/tiling.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QSlider>

namespace hue {

MapTilePane::MapTilePane(Session& session, MapService& service) : MapPane(session, service) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(2);
    m_canvas = new MapCanvas(tr("Tiling"));
    row->addWidget(m_canvas, 1);
    QFormLayout* form;
    QWidget* side = controlColumn(248, form);
    m_how = new QComboBox;
    m_how->setObjectName("tileHow");
    m_how->addItems({tr("three by three"), tr("moved by half"), tr("once")});
    m_how->setToolTip(tr("Moved by half, the edges meet in the middle"));
    form->addRow(tr("Shown"), m_how);
    m_numbers = new QLabel;
    m_numbers->setObjectName("tileNumbers");
    m_numbers->setWordWrap(true);
    m_numbers->setFont(textFont(12));
    m_numbers->setTextFormat(Qt::PlainText);
    form->addRow(m_numbers);
    m_method = new QComboBox;
    m_method->addItems({tr("a cut where it differs least"), tr("blending, contrast kept")});
    m_method->setAccessibleName(tr("How it is made seamless"));
    // Long words must not push the labels aside.
    for (QComboBox* box : {m_how, m_method}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
    }
    form->addRow(tr("Mend by"), m_method);
    m_band = new QSlider(Qt::Horizontal);
    m_band->setRange(2, 25);
    m_band->setValue(12);
    m_band->setAccessibleName(tr("Width of the strip"));
    m_band->setToolTip(tr("How far from the edge the map may change, in hundredths of its size"));
    form->addRow(tr("Strip"), m_band);
    m_set = new QCheckBox(tr("its whole set, cut alike"));
    m_set->setChecked(true);
    form->addRow(m_set);
    m_try = new QPushButton(tr("Make seamless"));
    m_try->setObjectName("tileTry");
    m_keep = new QPushButton(tr("Keep as new maps"));
    m_keep->setObjectName("tileKeep");
    m_keep->setEnabled(false);
    m_after = new QCheckBox(tr("show it made seamless"));
    m_after->setObjectName("tileAfter");
    m_after->setEnabled(false);
    form->addRow(m_try);
    form->addRow(m_after);
    form->addRow(m_keep);
    row->addWidget(side);
    connect(m_how, &QComboBox::activated, this, &MapTilePane::refresh);
    connect(m_after, &QCheckBox::toggled, this, [this] {
        refresh();
        measure();
    });
    connect(m_try, &QPushButton::clicked, this, &MapTilePane::attempt);
    connect(m_keep, &QPushButton::clicked, this, &MapTilePane::keep);
    for (auto* box : {m_method}) connect(box, &QComboBox::activated, this, [this] { m_keep->setEnabled(false); });
}

QString MapTilePane::numbers() const { return m_numbers->text(); }

std::vector<Id> MapTilePane::together() const {
    std::vector<Id> out;
    const MapFile* m = map();
    if (!m) return out;
    out.push_back(m->id);
    if (m_set->isChecked() && !m->set.empty())
        for (const auto& other : m_session.project().maps)
            if (other->set == m->set && other->id != m->id) out.push_back(other->id);
    return out;
}

void MapTilePane::show(const Id& id) {
    const ImagePtr image = m_session.project().map(id) ? m_service.image(id) : nullptr;
    const bool other = id != m_map || image != m_image;
    m_map = id;
    m_image = image;
    m_canvas->setEmptyText(id.empty() ? QString() : tr("reading"));
    if (other) {
        m_made.clear();
        m_madeShown.reset();
        m_keep->setEnabled(false);
        m_after->setEnabled(false);
        const QSignalBlocker block(m_after);
        m_after->setChecked(false);
        measure();
    }
    refresh();
}

void MapTilePane::refresh() {
    const ImagePtr image = m_after->isChecked() && m_madeShown ? m_madeShown : m_image ? m_service.shown(m_image) : nullptr;
    if (!image) return m_canvas->setImage({});
    constexpr int most = 2048;
    if (m_how->currentIndex() == 1) m_canvas->setImage(imageOfScreen(colorPicture(offsetByHalf(*image), most)));
    else m_canvas->setImage(imageOfScreen(tiledPicture(*image, m_how->currentIndex() == 0 ? 3 : 1, most)));
    m_canvas->setCaption(m_how->currentText() + (m_after->isChecked() ? tr(", made seamless") : QString()));
}

/// The meters take some tenths of a second on a large map.
void MapTilePane::measure() {
    m_numbers->setText(tr("measuring"));
    if (!m_image) return;
    const ImagePtr image = m_after->isChecked() && !m_made.empty() ? std::make_shared<Image>(m_made[0]) : m_image;
    struct Measured {
        SeamMeter seam;
        RepetitionMeter again;
    };
    m_session.runner().run(
        {.owner = this, .kind = "measure"},
        [image](const Work&) {
            return Measured{seamMeter(*image), repetitionMeter(*image)};
        },
        [this](const Measured& m) {
            auto judged = [](float v) { return v < 1.5f ? tr("nothing shows") : v < 2.5f ? tr("may show") : tr("shows"); };
            QString words = tr("Seam left to right %1: %2\nSeam top to bottom %3: %4\n")
                                .arg(double(m.seam.vertical), 0, 'f', 2)
                                .arg(judged(m.seam.vertical))
                                .arg(double(m.seam.horizontal), 0, 'f', 2)
                                .arg(judged(m.seam.horizontal));
            words += m.again.strength > 0.75f ? tr("Repeats within the tile every %1 % across, %2 % down (%3).")
                                                    .arg(int(m.again.stepX * 100))
                                                    .arg(int(m.again.stepY * 100))
                                                    .arg(double(m.again.strength), 0, 'f', 2)
                                              : tr("Little repeats within the tile (%1).").arg(double(m.again.strength), 0, 'f', 2);
            if (m.again.landmark > 3.5f)
                words += tr("\nOne spot stands out (%1 deviations): the eye will find it in every repetition. Hex-tiled image breaks that.")
                             .arg(double(m.again.landmark), 0, 'f', 1);
            m_numbers->setText(words);
        });
}

void MapTilePane::attempt() {
    if (!m_image) return;
    const std::vector<Id> ids = together();
    std::vector<std::filesystem::path> files;
    SeamlessRequest request;
    request.method = m_method->currentIndex() == 0 ? SeamMethod::Cut : SeamMethod::Blend;
    request.band = float(m_band->value()) / 100;
    for (const Id& id : ids) {
        const MapFile* m = m_session.project().map(id);
        files.push_back(m_service.path(*m));
        request.normals.push_back(m->kind == MapKind::Normal);
    }
    QPointer<MapTilePane> self(this);
    m_service.start(tr("Making seamless"), [self, files, request, id = m_map](const Work&, const Runner::Tell&) -> std::function<void()> {
        std::vector<Image> set;
        Result<std::vector<Image>> made = std::vector<Image>{};
        for (const auto& file : files) {
            auto image = readImage(file);
            if (!image) made = image.error();
            else set.push_back(std::move(*image));
        }
        if (made && set.size() == files.size()) made = makeSeamless(set, request);
        auto kept = std::make_shared<Result<std::vector<Image>>>(std::move(made));
        const ImagePtr small = *kept ? forScreen(std::make_shared<Image>((**kept)[0])) : nullptr;
        return [self, kept, id, small] {
            if (!self || self->m_map != id) return;
            if (!*kept) return self->m_session.say(QString::fromStdString(kept->error().sentence));
            self->m_made = std::move(**kept);
            self->m_madeShown = small;
            self->m_keep->setEnabled(true);
            self->m_after->setEnabled(true);
            self->m_after->setChecked(true);
            self->refresh();
            self->measure();
        };
    });
}

void MapTilePane::keep() {
    const std::vector<Id> ids = together();
    if (m_made.size() != ids.size()) return m_session.say(tr("The set has changed. Try again first."));
    auto maps = std::make_shared<std::vector<NewMap>>();
    for (size_t i = 0; i < ids.size(); ++i) {
        const MapFile& from = *m_session.project().map(ids[i]);
        maps->push_back(
            {from.name + " seamless", from.kind, m_made[i], from.set.empty() ? "" : from.set + " seamless", from.role, from.wrap});
    }
    m_service.addMade(tr("make seamless"), [maps](const Work&) -> Result<std::vector<NewMap>> { return std::move(*maps); });
}

} // namespace hue
