#include "app/stations/budget/history_view.h"

#include "app/parts/theme.h"
#include "core/budget/history.h"

#include <QComboBox>
#include <QDateTime>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }
QString figure(double x) { return QString::number(x, 'f', x == std::floor(x) ? 0 : 1); }

} // namespace

HistoryPlot::HistoryPlot(QWidget* parent) : QWidget(parent) { setMinimumHeight(120); }

void HistoryPlot::set(std::vector<Point> points, double limit, const QString& unit) {
    m_points = std::move(points);
    m_limit = limit;
    m_unit = unit;
    QStringList words;
    for (const Point& p : m_points) words << tr("%1: %2").arg(p.when, figure(p.figure));
    setToolTip(words.join('\n'));
    setAccessibleDescription(words.join("; "));
    update();
}

void HistoryPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const QRectF r = QRectF(rect()).adjusted(48, 12, -16, -22);
    p.fillRect(r, t.card);
    p.setPen(QPen(t.ink2, 1));
    p.drawLine(r.bottomLeft(), r.bottomRight());
    p.drawLine(r.bottomLeft(), r.topLeft());
    p.setFont(textFont(12));
    if (m_points.empty()) {
        p.drawText(r.adjusted(10, 10, -10, -10), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Nothing is recorded yet. Record writes what everything costs now beside the project; hsk budget --record does it on "
                      "a server."));
        return;
    }
    double most = m_limit;
    for (const Point& point : m_points) most = std::max(most, point.figure);
    most = std::max(most * 1.1, 1.);
    const auto at = [&](size_t k) {
        const double x = m_points.size() > 1 ? double(k) / double(m_points.size() - 1) : 0.5;
        return QPointF(r.left() + r.width() * x, r.bottom() - r.height() * m_points[k].figure / most);
    };
    p.setFont(codeFont(11));
    p.drawText(QRectF(0, r.top() - 7, 44, 14), Qt::AlignRight, figure(most));
    p.drawText(QRectF(0, r.bottom() - 7, 44, 14), Qt::AlignRight, "0");
    if (m_limit > 0) {
        const double y = r.bottom() - r.height() * m_limit / most;
        p.setPen(QPen(t.ink2, 1, Qt::DashLine));
        p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
        p.drawText(QRectF(r.left() + 4, y - 16, r.width(), 14), Qt::AlignLeft, tr("limit %1 %2").arg(figure(m_limit), m_unit));
    }
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(t.ink, 1.4));
    for (size_t k = 0; k + 1 < m_points.size(); ++k) p.drawLine(at(k), at(k + 1));
    for (size_t k = 0; k < m_points.size(); ++k) {
        const bool over = m_limit > 0 && m_points[k].figure > m_limit;
        p.setBrush(over ? hatch(t.ink) : QBrush(t.ink));
        p.drawEllipse(at(k), over ? 4.5 : 3, over ? 4.5 : 3);
    }
    p.setFont(textFont(11));
    p.drawText(QRectF(r.left(), r.bottom() + 4, r.width(), 16), Qt::AlignLeft, m_points.front().when);
    if (m_points.size() > 1) p.drawText(QRectF(r.left(), r.bottom() + 4, r.width(), 16), Qt::AlignRight, m_points.back().when);
}

HistoryView::HistoryView(Session& session, BudgetService& budget, QWidget* parent) : QWidget(parent), m_session(session), m_budget(budget) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* bar = new QHBoxLayout;
    m_figure = new QComboBox;
    m_figure->setObjectName("historyFigure");
    m_figure->setAccessibleName(tr("Figure"));
    for (const LimitDef& d : limitDefs())
        if (d.key != "builds") m_figure->addItem(text(d.name), text(d.key));
    m_record = new QPushButton(tr("Record\u2026"));
    m_record->setObjectName("historyRecord");
    m_record->setToolTip(tr("Writes what everything costs now into a file beside the project"));
    bar->addWidget(m_figure);
    bar->addWidget(m_record);
    bar->addStretch();
    column->addLayout(bar);
    m_plot = new HistoryPlot;
    m_plot->setAccessibleName(tr("Cost over time"));
    column->addWidget(m_plot, 1);
    m_words = new QLabel;
    m_words->setProperty("second", true);
    m_words->setWordWrap(true);
    column->addWidget(m_words);
    connect(m_figure, &QComboBox::activated, this, &HistoryView::refresh);
    connect(m_record, &QPushButton::clicked, this, &HistoryView::record);
}

void HistoryView::refresh() {
    m_record->setEnabled(!m_session.file().isEmpty());
    m_words->setText(m_session.file().isEmpty() ? tr("Save the project first: records stand beside its file.") : QString());
    const std::string key = m_figure->currentData().toString().toStdString();
    const BudgetFacts& f = *m_budget.facts();
    double limit = 0;
    QString unit;
    for (const LimitDef& d : limitDefs())
        if (d.key == key) limit = double(m_budget.target().limits.*d.limit), unit = text(d.unit);
    std::vector<HistoryPlot::Point> points;
    if (!m_session.file().isEmpty() && f.snapshot) {
        const auto all = readHistory(historyFile(m_session.file().toStdString()));
        if (!all) m_words->setText(QString::fromStdString(all.error().sentence));
        else
            for (const Recorded& r : *all) {
                const QString when =
                    QDateTime::fromString(QString::fromStdString(r.date), Qt::ISODate).toLocalTime().toString("yyyy-MM-dd HH:mm") +
                    (r.note.empty() ? QString() : ", " + QString::fromStdString(r.note));
                if (key == "projectMegabytes") points.push_back({when, r.projectMegabytes});
                else if (const auto its = r.worn.find(f.snapshot->nameOf(f.worn)); its != r.worn.end())
                    if (const auto figure_ = its->second.find(key); figure_ != its->second.end()) points.push_back({when, figure_->second});
            }
    }
    m_plot->set(std::move(points), limit, unit);
}

void HistoryView::record() {
    bool done = false;
    const QString note = QInputDialog::getText(this, tr("Record the budget"), tr("Note, such as what was changed; may be empty:"),
                                               QLineEdit::Normal, {}, &done);
    if (!done) return;
    const BudgetFacts& f = *m_budget.facts();
    if (!f.snapshot) return;
    const Recorded r =
        recordOf(*f.snapshot, f.project, QDateTime::currentDateTimeUtc().toString(Qt::ISODate).toStdString(), note.trimmed().toStdString());
    const Outcome written = appendRecord(historyFile(m_session.file().toStdString()), r);
    m_session.say(written ? tr("Recorded.") : QString::fromStdString(written.error().sentence));
    refresh();
}

} // namespace hue
