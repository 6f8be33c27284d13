#include "app/lineup/record_dialog.h"

#include "preview/egl_context.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSpinBox>

namespace hue {

RecordDialog::RecordDialog(Session& session, size_t specimen, QSize size, QWidget* parent)
    : QDialog(parent), m_session(session), m_specimen(specimen), m_size(size) {
    setWindowTitle(tr("Record"));
    auto* form = new QFormLayout(this);
    m_what = new QComboBox;
    m_what->addItem(tr("the whole lineup"));
    for (size_t i = 0; i < session.project().lineup.specimens.size(); ++i) m_what->addItem(tr("specimen %1").arg(i + 1));
    m_what->setCurrentIndex(int(specimen) + 1);
    form->addRow(tr("Record"), m_what);
    m_kind = new QComboBox;
    m_kind->addItems({tr("a picture for each frame (PNG)"), tr("an animated picture (WebP)"), tr("a sheet of frames (PNG)")});
    m_kind->setCurrentIndex(1);
    form->addRow(tr("As"), m_kind);
    m_width = new QSpinBox;
    m_width->setRange(16, 4096);
    m_width->setValue(size.width());
    m_width->setSuffix(tr(" px each"));
    form->addRow(tr("Width"), m_width);
    auto seconds = [&](const QString& name, double value) {
        auto* box = new QDoubleSpinBox;
        box->setRange(0, 3600);
        box->setValue(value);
        box->setSuffix(tr(" s"));
        form->addRow(name, box);
        return box;
    };
    m_from = seconds(tr("From"), 0);
    m_to = seconds(tr("To"), double(session.project().loopSeconds));
    m_rate = new QDoubleSpinBox;
    m_rate->setRange(0.1, 120);
    m_rate->setValue(24);
    m_rate->setSuffix(tr(" frames a second"));
    form->addRow(tr("Rate"), m_rate);
    m_summary = new QLabel;
    m_summary->setWordWrap(true);
    form->addRow(m_summary);
    m_progress = new QProgressBar;
    m_progress->setRange(0, 1000);
    m_progress->hide();
    form->addRow(m_progress);
    m_button = new QPushButton(tr("Record"));
    form->addRow(m_button);
    connect(m_button, &QPushButton::clicked, this, [this] {
        if (running()) m_session.runner().cancel(this, "record");
        else choosePath();
    });
    for (QDoubleSpinBox* b : {m_from, m_to, m_rate}) connect(b, &QDoubleSpinBox::valueChanged, this, &RecordDialog::refresh);
    connect(m_kind, &QComboBox::currentIndexChanged, this, &RecordDialog::refresh);
    connect(m_what, &QComboBox::currentIndexChanged, this, &RecordDialog::refresh);
    connect(m_width, &QSpinBox::valueChanged, this, &RecordDialog::refresh);
    refresh();
}

bool RecordDialog::running() const { return m_session.runner().running(this, "record"); }

RecordRequest RecordDialog::request() const {
    RecordRequest r;
    r.kind = RecordRequest::Kind(m_kind->currentIndex());
    if (m_what->currentIndex() == 0)
        for (size_t i = 0; i < m_session.project().lineup.specimens.size(); ++i) r.specimens.push_back(i);
    else r.specimens = {size_t(m_what->currentIndex() - 1)};
    r.width = m_width->value();
    r.height = std::max(16, int(r.width * m_size.height() / std::max(1, m_size.width())));
    r.from = m_from->value();
    r.to = m_to->value();
    r.framesPerSecond = m_rate->value();
    return r;
}

void RecordDialog::refresh() {
    const RecordRequest r = request();
    m_summary->setText(tr("%1 frames of %2 x %3 pixels").arg(frameCount(r)).arg(r.width * int(r.specimens.size())).arg(r.height));
}

void RecordDialog::choosePath() {
    QString path;
    if (m_kind->currentIndex() == 0) path = QFileDialog::getExistingDirectory(this, tr("Folder for the frames"));
    else if (m_kind->currentIndex() == 1)
        path = QFileDialog::getSaveFileName(this, tr("Animated picture"), "loop.webp", tr("Animated pictures (*.webp)"));
    else path = QFileDialog::getSaveFileName(this, tr("Sheet of frames"), "sheet.png", tr("Pictures (*.png)"));
    if (!path.isEmpty()) start(path);
}

void RecordDialog::start(const QString& path) {
    RecordRequest r = request();
    r.path = path.toStdString();
    m_progress->setValue(0);
    m_progress->show();
    m_button->setText(tr("Cancel"));
    m_session.runner().run(
        {.owner = this,
         .kind = "record",
         .pace = Pace::Long,
         .outlives = true,
         .progress = [this](float share) { m_progress->setValue(int(share * 1000)); }},
        [r, snapshot = m_session.snapshot(), files = m_session.files()](const Work& work) -> Result<std::vector<std::string>> {
            auto context = EglContext::create();
            if (!context) return context.error();
            (*context)->makeCurrent();
            auto renderer = std::make_unique<Renderer>();
            auto written = record(*renderer, *snapshot, files->assets, files->looks, files->lights, r, work);
            renderer.reset();
            (*context)->release();
            return written;
        },
        [this, r](const Result<std::vector<std::string>>& files) {
            m_progress->hide();
            m_button->setText(tr("Record"));
            const QString words = !files ? QString::fromStdString(files.error().sentence)
                                  : files->size() == 1
                                      ? tr("Recorded %1.").arg(QString::fromStdString(files->front()))
                                      : tr("Recorded %1 pictures to %2.").arg(files->size()).arg(QString::fromStdString(r.path.string()));
            m_session.say(words);
            m_summary->setText(words);
            Q_EMIT finished(bool(files), words);
        });
}

} // namespace hue
