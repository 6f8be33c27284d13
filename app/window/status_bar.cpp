#include "app/window/status_bar.h"

#include "app/parts/theme.h"
#include "core/base/diagnostic.h"
#include "core/edits/edits.h"

#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <QStyleOptionToolButton>
#include <QStylePainter>
#include <QTimer>
#include <QToolButton>

namespace hue {

namespace {

/// A sentence that is pressed, on as many lines as it takes.
class Sentence : public QToolButton {
  public:
    Sentence(const QString& words, int width) : m_width(width) { setText(words); }
    QSize sizeHint() const override {
        const QRect box = fontMetrics().boundingRect(QRect(0, 0, m_width - 12, 10000), Qt::TextWordWrap, text());
        return {box.width() + 14, box.height() + 8};
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QStylePainter p(this);
        QStyleOptionToolButton option;
        initStyleOption(&option);
        option.text.clear();
        p.drawComplexControl(QStyle::CC_ToolButton, option);
        p.setPen(theme().ink);
        p.drawText(rect().adjusted(6, 4, -6, -4), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, text());
    }

  private:
    int m_width;
};

} // namespace

StatusBar::StatusBar(Session& session, Commands& commands, QWidget* parent) : QWidget(parent), m_session(session) {
    setFixedHeight(30);
    setObjectName("page");
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 0, 12, 0);
    row->setSpacing(6);
    m_problems = new QToolButton;
    m_problems->setObjectName("problemsButton");
    commands.explain(m_problems, "window.next-problem", tr("List the problems; the key leads to the next"));
    row->addWidget(m_problems);
    m_message = new QLabel;
    m_message->setObjectName("message");
    m_message->setTextFormat(Qt::PlainText);
    m_message->setMinimumWidth(80);
    row->addWidget(m_message, 1);
    m_play = new QToolButton;
    m_play->setObjectName("play");
    commands.explain(m_play, "time.play", tr("Play or pause"));
    row->addWidget(m_play);
    auto step = [&](const QString& sign, const QString& name, const char* command, int frames) {
        auto* b = new QToolButton;
        b->setText(sign);
        b->setAccessibleName(name);
        commands.explain(b, command, name);
        connect(b, &QToolButton::clicked, this, [this, frames] { m_session.stepTime(frames); });
        row->addWidget(b);
    };
    step("\u2039", tr("One frame back"), "time.back", -1);
    step("\u203A", tr("One frame on"), "time.on", 1);
    m_time = new QLabel;
    m_time->setFont(codeFont());
    row->addWidget(m_time);
    m_scrub = new QSlider(Qt::Horizontal);
    m_scrub->setRange(0, 1000);
    m_scrub->setFixedWidth(150);
    m_scrub->setAccessibleName(tr("Time"));
    m_scrub->setToolTip(tr("Drag to any time of the loop"));
    row->addWidget(m_scrub);
    m_loop = new QToolButton;
    m_loop->setToolTip(tr("Length of the loop"));
    row->addWidget(m_loop);
    m_speed = new QToolButton;
    m_speed->setToolTip(tr("Speed of play"));
    m_speed->setPopupMode(QToolButton::InstantPopup);
    auto* speeds = new QMenu(m_speed);
    for (double s : {0.1, 0.25, 0.5, 1.0, 2.0, 4.0}) speeds->addAction(QString("x%1").arg(s), this, [this, s] { m_session.setSpeed(s); });
    m_speed->setMenu(speeds);
    row->addWidget(m_speed);
    m_seam = new QLabel;
    m_seam->setObjectName("seam");
    m_seam->setProperty("second", true);
    m_seam->setToolTip(tr("Difference (CIEDE2000) of the first and the last frame of the loop; 0 loops without a seam"));
    row->addWidget(m_seam);
    m_pace = new QLabel;
    m_pace->setObjectName("pace");
    m_pace->setProperty("second", true);
    m_pace->setToolTip(tr("Pictures have fewer pixels while something moves, and all of them when it rests"));
    row->addWidget(m_pace);
    m_saved = new QLabel;
    m_saved->setProperty("second", true);
    m_saved->setMinimumWidth(150);
    m_saved->setToolTip(tr("Builds: combinations of build choices that are in use, of all masters together"));
    m_saved->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    row->addWidget(m_saved);

    m_list = new QFrame(window());
    m_list->setObjectName("panel");
    m_list->setFrameShape(QFrame::Box);
    m_list->hide();
    auto* listLayout = new QVBoxLayout(m_list);
    listLayout->setContentsMargins(1, 1, 1, 1);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    auto* body = new QWidget;
    m_listColumn = new QVBoxLayout(body);
    m_listColumn->setContentsMargins(12, 8, 12, 8);
    scroll->setWidget(body);
    listLayout->addWidget(scroll);

    connect(m_problems, &QToolButton::clicked, this, &StatusBar::toggleProblems);
    connect(m_play, &QToolButton::clicked, this, [this] { m_session.setPlaying(!m_session.playing()); });
    connect(m_scrub, &QSlider::valueChanged, this,
            [this](int v) { m_session.setTime(v / 1000.0 * double(m_session.project().loopSeconds) * 0.99999); });
    connect(m_loop, &QToolButton::clicked, this, [this] {
        bool ok = false;
        const double now = double(m_session.project().loopSeconds);
        const double seconds = QInputDialog::getDouble(this, tr("Loop"), tr("Length of the loop in seconds"), now, 0.1, 3600, 1, &ok);
        if (ok)
            m_session.apply(tr("change loop length"), [&](const Project& p) -> Result<Project> {
                Project next = p;
                next.loopSeconds = float(seconds);
                return next;
            });
    });
    connect(&session, &Session::problemsChanged, this, &StatusBar::refreshProblems);
    connect(&session, &Session::timeChanged, this, &StatusBar::refreshTime);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Values)) refreshTime();
    });
    connect(&session, &Session::fileChanged, this, &StatusBar::refreshSaved);
    auto* fade = new QTimer(this);
    fade->setSingleShot(true);
    connect(fade, &QTimer::timeout, m_message, &QLabel::clear);
    connect(&session, &Session::said, this, [this, fade](const QString& sentence) {
        m_message->setText(sentence);
        m_message->setToolTip(sentence);
        fade->start(12000);
    });
    refreshProblems();
    refreshTime();
    refreshSaved();
}

void StatusBar::changeEvent(QEvent* e) {
    QWidget::changeEvent(e);
    if (e->type() == QEvent::StyleChange || e->type() == QEvent::PaletteChange) refreshProblems();
}

void StatusBar::refreshProblems() {
    int errors = 0, cautions = 0, advice = 0;
    for (const Diagnostic& d : m_session.problems()) {
        errors += d.severity == Severity::Error;
        cautions += d.severity == Severity::Caution;
        advice += d.severity == Severity::Advice;
    }
    QString text = errors + cautions + advice == 0 ? tr("problems 0") : QString();
    if (errors) text += "\u2716 " + counted(errors, tr("error"), tr("errors")) + " ";
    if (cautions) text += "\u25B3 " + counted(cautions, tr("caution"), tr("cautions")) + " ";
    if (advice) text += tr("%1 advice").arg(advice);
    m_problems->setText(text.trimmed());
    const QColor color = errors ? theme().broken : cautions ? theme().caution : theme().ink;
    if (const QString sheet = QString("QToolButton { color: %1; }").arg(color.name()); m_problems->styleSheet() != sheet)
        m_problems->setStyleSheet(sheet);
    if (m_list->isVisible()) fillList();
}

void StatusBar::fillList() {
    while (QLayoutItem* item = m_listColumn->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
    if (m_session.problems().empty())
        m_listColumn->addWidget(new QLabel(tr("No problems. Everything reaches the surface and every file is there.")));
    for (const Diagnostic& d : m_session.problems()) {
        auto* entry = new QWidget;
        auto* row = new QHBoxLayout(entry);
        row->setContentsMargins(0, 0, 0, 0);
        std::vector<QPushButton*> buttons;
        for (const Fix& fix : d.fixes) {
            buttons.push_back(new QPushButton(QString::fromStdString(fix.label)));
            connect(buttons.back(), &QPushButton::clicked, this,
                    [this, fix] { m_session.apply(QString::fromStdString(fix.label), fix.edit); });
        }
        if (d.code == "map.cannot-use" || d.code == "mesh.cannot-use") {
            buttons.push_back(new QPushButton(tr("Relocate")));
            connect(buttons.back(), &QPushButton::clicked, this, [this, id = d.place.port] { relocate(id); });
        }
        // The fixes are always in sight: the sentence takes what they leave.
        int room = listWidth() - 60;
        for (const QPushButton* b : buttons) room -= b->sizeHint().width() + row->spacing();
        const QString sign = d.severity == Severity::Error ? "\u2716 " : d.severity == Severity::Caution ? "\u25B3 " : "\u00B7 ";
        auto* sentence = new Sentence(sign + QString::fromStdString(d.sentence), std::max(room, 200));
        sentence->setToolTip(QString::fromStdString(d.code) + tr(": show the place"));
        connect(sentence, &QToolButton::clicked, this, [this, place = d.place] { Q_EMIT placeWanted(place); });
        row->addWidget(sentence);
        row->addStretch();
        for (QPushButton* b : buttons) row->addWidget(b);
        m_listColumn->addWidget(entry);
    }
    m_listColumn->addStretch();
}

void StatusBar::relocate(const Id& id) {
    const MapFile* map = m_session.project().map(id);
    const MeshFile* mesh = m_session.project().mesh(id);
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Where is the file now?"), QString::fromStdString(m_session.assets().folder().string()));
    if (file.isEmpty()) return;
    const std::string path = m_session.assets().stored(file.toStdString());
    m_session.apply(tr("relocate"), [&](const Project& p) -> Result<Project> {
        if (map) {
            MapFile moved = *map;
            moved.path = path;
            return edit::changeMap(p, moved);
        }
        MeshFile moved = mesh ? *mesh : MeshFile{};
        moved.path = path;
        return edit::changeMesh(p, moved);
    });
}

int StatusBar::listWidth() const { return std::min(width() - 16, 900); }

void StatusBar::toggleProblems() {
    if (m_list->isVisible()) return m_list->hide();
    if (m_list->parentWidget() != window()) m_list->setParent(window());
    fillList();
    const int height = std::clamp(m_listColumn->sizeHint().height() + 8, 44, 300);
    const QPoint at = mapTo(window(), QPoint(0, 0));
    m_list->setGeometry(8, at.y() - height - 4, listWidth(), height);
    m_list->show();
    m_list->raise();
}

void StatusBar::nextProblem() {
    const auto& all = m_session.problems();
    if (all.empty()) return m_session.say(tr("No problems."));
    const Diagnostic& d = all[m_next++ % all.size()];
    m_session.say(QString::fromStdString(d.sentence));
    Q_EMIT placeWanted(d.place);
}

void StatusBar::refreshTime() {
    m_play->setText(m_session.playing() ? "\u2016" : "\u25B6");
    m_play->setAccessibleName(m_session.playing() ? tr("Pause") : tr("Play"));
    const double t = m_session.time();
    m_time->setText(QString("%1:%2").arg(int(t) / 60, 2, 10, QChar('0')).arg(std::fmod(t, 60.0), 5, 'f', 2, QChar('0')));
    m_loop->setText(tr("loop %1 s").arg(double(m_session.project().loopSeconds)));
    m_speed->setText(QString("x%1").arg(m_session.speed()));
    const QSignalBlocker block(m_scrub);
    m_scrub->setValue(int(t / double(m_session.project().loopSeconds) * 1000));
}

void StatusBar::showPace(float scale, double) {
    m_pace->setText(scale < 0.99f ? tr("drawing at %1 %").arg(int(std::lround(scale * 100))) : QString());
}

void StatusBar::showSeam(float difference) {
    m_seam->setText(difference < 0.05f ? tr("no seam") : tr("seam %1").arg(double(difference), 0, 'f', 1));
}

QString StatusBar::seamText() const { return m_seam->text(); }

void StatusBar::refreshSaved() {
    const QString saved = m_session.file().isEmpty()      ? tr("not saved yet")
                          : m_session.savedAt().isValid() ? tr("saved %1").arg(m_session.savedAt().toString("HH:mm"))
                                                          : QString();
    m_saved->setText((m_session.dirty() ? tr("unsaved changes") : saved) +
                     (m_builds ? " \u00B7 " + counted(int(m_builds), tr("build"), tr("builds")) : QString()));
}

void StatusBar::setBuilds(size_t builds) {
    m_builds = builds;
    refreshSaved();
}

} // namespace hue
