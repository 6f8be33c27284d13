#include "app/parts/theme.h"
#include "app/stations/maps/map_panes.h"
#include "core/compress/block_file.h"
#include "core/edits/edits.h"

#include <QApplication>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QStandardItemModel>
#include <QTableView>

namespace hue {
namespace {

enum Column { Format, Memory, Bits, Decibels, Visible, Turn, Marks };

QString nameOfFormat(BlockFormat f) { return QString::fromUtf8(infoOf(f).name.data(), qsizetype(infoOf(f).name.size())); }

/// The channels that a figure speaks of, where it is not all of them: " RG".
QString judgedLetters(const FormatReport& r) {
    QString out;
    for (size_t c = 0; c < size_t(r.channels); ++c)
        if (r.channel[c].judged == Judged::Yes) out += QLatin1Char((r.channels < 3 ? "GA" : "RGBA")[c]);
    return out.size() == r.channels ? QString() : out.isEmpty() ? QStringLiteral(" \u2013") : " " + out;
}

} // namespace

MapCompressPane::MapCompressPane(Session& session, MapService& service) : MapPane(session, service) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(2);
    m_canvas = new MapCanvas(tr("Compressed map"));
    row->addWidget(m_canvas, 2);
    auto* side = new QWidget;
    side->setObjectName("panel");
    side->setAttribute(Qt::WA_StyledBackground);
    side->setMinimumWidth(420);
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(10, 8, 10, 8);
    column->setSpacing(6);
    auto* top = new QHBoxLayout;
    m_show = new QComboBox;
    m_show->setObjectName("compressShow");
    m_show->addItems({tr("compressed"), tr("original"), tr("error, 8 times")});
    m_show->setAccessibleName(tr("What the picture shows"));
    m_show->setToolTip(tr("Space changes between compressed and original"));
    auto* all = new QPushButton(tr("Try all formats"));
    all->setObjectName("compressTry");
    top->addWidget(new QLabel(tr("Picture")));
    top->addWidget(m_show, 1);
    top->addWidget(all);
    column->addLayout(top);
    m_model = new QStandardItemModel(0, 7, this);
    m_model->setHorizontalHeaderLabels({tr("Format"), tr("MB"), tr("bits"), tr("dB"), tr("visible"), tr("turn"), tr("marks")});
    m_table = new QTableView;
    m_table->setObjectName("compressTable");
    m_table->setModel(m_model);
    m_table->setAccessibleName(tr("Formats"));
    m_table->setToolTip(tr("MB with all levels\ndB: noise against full range, more is better; letters: only these channels are "
                           "judged\nvisible: FLIP, 0 is the same\nturn: degrees by which normals "
                           "made from it turn\nmarks: steps at the borders of blocks against those inside, 1 is none"));
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(22);
    m_table->horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    m_table->horizontalHeader()->setSectionResizeMode(Format, QHeaderView::Stretch);
    constexpr int widths[] = {0, 46, 44, 62, 56, 42, 50};
    for (int c = 1; c < m_model->columnCount(); ++c) m_table->horizontalHeader()->resizeSection(c, widths[c]);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::SingleSelection);
    m_table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_table->setFont(codeFont(11));
    column->addWidget(m_table, 1);
    auto* choose = new QHBoxLayout;
    m_family = new QComboBox;
    m_family->addItems({tr("BC"), tr("ASTC")});
    m_family->setAccessibleName(tr("Family of formats"));
    m_family->setToolTip(tr("BC for desktops and consoles, ASTC for phones"));
    m_least = new QDoubleSpinBox;
    m_least->setObjectName("compressLeast");
    m_least->setRange(20, 80);
    m_least->setValue(ChooseRequest{}.leastPsnr);
    m_least->setSuffix(tr(" dB"));
    m_least->setAccessibleName(tr("Least quality"));
    m_most = new QDoubleSpinBox;
    m_most->setRange(0, 4096);
    m_most->setSpecialValueText(tr("any size"));
    m_most->setSuffix(tr(" MB"));
    m_most->setAccessibleName(tr("Most memory"));
    for (QDoubleSpinBox* s : {m_least, m_most}) s->setButtonSymbols(QAbstractSpinBox::NoButtons);
    auto* ask = new QPushButton(tr("Propose"));
    ask->setObjectName("compressPropose");
    for (QWidget* w :
         {static_cast<QWidget*>(m_family), static_cast<QWidget*>(m_least), static_cast<QWidget*>(m_most), static_cast<QWidget*>(ask)})
        choose->addWidget(w);
    column->addLayout(choose);
    m_said = new QLabel;
    m_said->setObjectName("compressSaid");
    m_said->setWordWrap(true);
    m_said->setProperty("second", true);
    column->addWidget(m_said);
    auto* bottom = new QHBoxLayout;
    auto* take = new QPushButton(tr("Use this format"));
    take->setObjectName("compressUse");
    take->setToolTip(tr("The map counts with this format's memory, and F11 shows specimens as it makes them look"));
    auto* out = new QPushButton(tr("Write KTX2 or DDS"));
    bottom->addWidget(take);
    bottom->addWidget(out);
    column->addLayout(bottom);
    row->addWidget(side, 1);
    connect(all, &QPushButton::clicked, this, &MapCompressPane::attemptAll);
    connect(ask, &QPushButton::clicked, this, &MapCompressPane::propose);
    connect(take, &QPushButton::clicked, this, &MapCompressPane::use);
    connect(out, &QPushButton::clicked, this, &MapCompressPane::write);
    connect(m_show, &QComboBox::activated, this, &MapCompressPane::refresh);
    connect(m_table->selectionModel(), &QItemSelectionModel::currentRowChanged, this, &MapCompressPane::refresh);
    auto* space = new QAction(tr("Compressed or original"), this);
    space->setShortcut(Qt::Key_Space);
    space->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    addAction(space);
    connect(space, &QAction::triggered, this, &MapCompressPane::toggleOriginal);
}

void MapCompressPane::toggleOriginal() {
    m_show->setCurrentIndex(m_show->currentIndex() == 0 ? 1 : 0);
    refresh();
}

BlockFormat MapCompressPane::chosen() const {
    const QModelIndex at = m_table->currentIndex();
    return at.isValid() ? BlockFormat(m_model->item(at.row(), Format)->data().toInt()) : BlockFormat::Plain8;
}

void MapCompressPane::show(const Id& id) {
    const MapFile* m = m_session.project().map(id);
    const ImagePtr image = m ? m_service.image(id) : nullptr;
    const bool other = id != m_map || image != m_image;
    m_map = id;
    m_image = image;
    if (other) {
        m_reports.clear();
        m_part.reset();
        m_said->setText(tr("Try all formats to see what each does to this map, or have one proposed."));
    }
    const int row = m_table->currentIndex().row();
    m_model->removeRows(0, m_model->rowCount());
    if (m && image)
        for (BlockFormat f : formatsFor(*image, m->kind)) {
            QList<QStandardItem*> items;
            const bool used = m->format.empty() ? f == BlockFormat::Plain8 : m->format == infoOf(f).key;
            items << new QStandardItem(nameOfFormat(f));
            if (used) {
                QFont bold = codeFont(11);
                bold.setBold(true);
                items[0]->setFont(bold);
                items[0]->setToolTip(tr("In use"));
                items[0]->setData(tr("%1, in use").arg(nameOfFormat(f)), Qt::AccessibleTextRole);
            }
            items[0]->setData(int(f));
            items << new QStandardItem(QString::number(double(cardBytes(f, image->width, image->height, image->channels)) / 1e6, 'f', 2));
            items << new QStandardItem(
                QString::number(double(levelBytes(f, image->width, image->height, cardChannels(f, image->channels))) * 8 /
                                    (double(image->width) * image->height),
                                'f', 1));
            if (const auto it = m_reports.find(f); it != m_reports.end()) {
                const FormatReport& r = it->second;
                auto* quality = new QStandardItem(QString::number(r.psnr, 'f', 1) + judgedLetters(r));
                quality->setToolTip(tr("Over %1").arg(QString::fromStdString(judgedChannels(r))));
                quality->setData(tr("%1 decibels over %2").arg(r.psnr, 0, 'f', 1).arg(QString::fromStdString(judgedChannels(r))),
                                 Qt::AccessibleTextRole);
                items << quality << new QStandardItem(QString::number(r.visible, 'f', 3))
                      << new QStandardItem(QString::number(r.normalError, 'f', 2))
                      << new QStandardItem(QString::number(r.blockMarks, 'f', 2));
            } else {
                for (int k = 0; k < 4; ++k) items << new QStandardItem(QStringLiteral("\u2013"));
            }
            m_model->appendRow(items);
        }
    if (m_model->rowCount()) m_table->selectRow(std::clamp(row, 0, m_model->rowCount() - 1));
    refresh();
}

void MapCompressPane::refresh() {
    m_canvas->setEmptyText(m_map.empty() ? QString() : tr("reading"));
    if (!m_image) return m_canvas->setImage({});
    const auto it = m_reports.find(chosen());
    const int shown = m_show->currentIndex();
    const QString where = m_part && m_part->width * m_part->height < m_image->width * m_image->height ? tr(", its middle") : QString();
    if (shown == 1 || it == m_reports.end()) {
        m_canvas->setImage(imageOfScreen(colorPicture(m_part ? *m_part : *m_service.shown(m_image))));
        m_canvas->setCaption(shown == 1 ? tr("original") + where : tr("original; this format was not tried yet"));
    } else if (shown == 2) {
        m_canvas->setImage(imageOfScreen(colorPicture(errorPicture(*m_part, it->second.decoded, 8))));
        m_canvas->setCaption(tr("%1: error, 8 times").arg(nameOfFormat(chosen())) + where);
    } else {
        m_canvas->setImage(imageOfScreen(colorPicture(it->second.decoded)));
        m_canvas->setCaption(nameOfFormat(chosen()) + where);
    }
}

void MapCompressPane::attemptAll() {
    const MapFile* m = map();
    if (!m || !m_image) return;
    QPointer<MapCompressPane> self(this);
    m_service.start(
        tr("Trying formats"),
        [self, image = m_image, kind = m->kind, id = m_map](const Work& control, const Runner::Tell& tell) -> std::function<void()> {
            // Of a large map its middle is judged, at its full resolution: all formats of the whole would not fit in memory.
            const auto part = std::make_shared<Image>(judgedPart(*image, 2048));
            const std::vector<BlockFormat> formats = formatsFor(*image, kind);
            std::string problem;
            for (size_t i = 0; i < formats.size() && problem.empty(); ++i) {
                EncodeOptions options;
                options.srgb = kind == MapKind::Color;
                options.cancelled = control.cancelled;
                auto report = reportOn(*image, kind, formats[i], options, 2048);
                if (report) {
                    // Each shows as soon as it is there.
                    auto one = std::make_shared<FormatReport>(std::move(*report));
                    tell([self, one, part, image, id] {
                        if (!self || self->m_map != id || self->m_image != image) return;
                        self->m_reports[one->format] = std::move(*one);
                        self->m_part = part;
                        self->show(id);
                    });
                } else {
                    problem = report.error().sentence;
                }
                control.progress(float(i + 1) / float(formats.size()));
            }
            return [self, problem, id] {
                if (!self || self->m_map != id) return;
                if (!problem.empty()) self->m_session.say(QString::fromStdString(problem));
                else self->m_said->setText(tr("Choose a row to see it; Space compares with the original."));
                self->show(id);
            };
        });
}

void MapCompressPane::propose() {
    const MapFile* m = map();
    const auto known = m ? m_service.knowledge(*m) : nullptr;
    if (!m || !m_image || !known) return;
    ChooseRequest request;
    request.family = m_family->currentIndex() == 0 ? FormatFamily::Bc : FormatFamily::Astc;
    request.leastPsnr = m_least->value();
    if (m_most->value() > 0) request.mostBytes = size_t(m_most->value() * 1e6);
    QPointer<MapCompressPane> self(this);
    m_service.start(tr("Choosing a format"),
                    [self, request, image = m_image, facts = known->facts, kind = m->kind,
                     id = m_map](const Work&, const Runner::Tell&) -> std::function<void()> {
                        const auto choice = chooseFormat(*image, facts, kind, request);
                        return [self, choice, id] {
                            if (!self || self->m_map != id) return;
                            if (!choice) return self->m_session.say(QString::fromStdString(choice.error().sentence));
                            self->m_said->setText(QString::fromStdString(choice->reason));
                            for (int r = 0; r < self->m_model->rowCount(); ++r)
                                if (BlockFormat(self->m_model->item(r, Format)->data().toInt()) == choice->format)
                                    self->m_table->selectRow(r);
                        };
                    });
}

void MapCompressPane::use() {
    const MapFile* m = map();
    if (!m || m_model->rowCount() == 0) return;
    MapFile changed = *m;
    const BlockFormat f = chosen();
    changed.format = f == BlockFormat::Plain8 ? "" : std::string(infoOf(f).key);
    m_session.apply(tr("change format"), [&](const Project& p) { return edit::changeMap(p, changed); });
}

void MapCompressPane::write() {
    const MapFile* m = map();
    if (!m || !m_image) return;
    const QString file = QFileDialog::getSaveFileName(this, tr("Write the map"), QString::fromStdString(m->name) + ".ktx2",
                                                      tr("Maps for engines (*.ktx2 *.dds)"));
    if (file.isEmpty()) return;
    m_service.start(tr("Writing %1").arg(file),
                    [image = m_image, map_ = *m, snapshot = m_session.snapshot(), format = chosen(), file, files = m_session.files(),
                     &session = m_session](const Work& control, const Runner::Tell&) -> std::function<void()> {
                        EncodeOptions options;
                        options.srgb = map_.kind == MapKind::Color;
                        options.cancelled = control.cancelled;
                        const auto map = compressed(levelsOf(*snapshot, files->assets, map_, *image), format, options);
                        Outcome written = map ? writeBlockFile(file.toStdString(), *map, {.zstd = true}) : Outcome(map.error());
                        return [written, file, &session] {
                            session.say(written ? tr("%1 was written.").arg(file) : QString::fromStdString(written.error().sentence));
                        };
                    });
}

} // namespace hue
