#include "app/stations/graph/tap_panel.h"

#include "app/parts/theme.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString number(float x) { return QString::number(double(x), 'g', 4); }
constexpr const char* kNames[] = {"r", "g", "b", "a"};

/// Components are told apart by their line, not by hue.
QPen penOf(int component, const QColor& ink) {
    static constexpr Qt::PenStyle styles[] = {Qt::SolidLine, Qt::DashLine, Qt::DotLine, Qt::DashDotLine};
    return QPen(ink, component == 0 ? 1.6 : 1.2, styles[component]);
}

QString titleOf(const Project& project, const Master& master, const Source& wire) {
    const Node* node = master.graph.find(wire.node);
    if (!node) return QObject::tr("no wire");
    QString name = text(cardTitle(project, master, *node));
    if (wire.port != "out") name += " " + text(wire.port);
    return wire.take.empty() ? name : name + " ." + text(wire.take);
}

QImage pictureOf(const TapFacts& f) {
    QImage image(TapFacts::kSide, TapFacts::kSide, QImage::Format_RGB32);
    auto byte = [](float x) { return int(std::lround(std::clamp(x, 0.f, 1.f) * 255)); };
    for (int y = 0; y < TapFacts::kSide; ++y)
        for (int x = 0; x < TapFacts::kSide; ++x) {
            const float* v = &f.values[size_t(y * TapFacts::kSide + x) * size_t(f.width)];
            float c[3] = {v[0], f.width > 1 ? v[1] : v[0], f.width > 2 ? v[2] : f.width == 2 ? 0 : v[0]};
            bool broken = false;
            for (float& k : c) {
                broken = broken || !std::isfinite(k);
                if (f.meaning == Meaning::Color) k = linearToSrgb(std::max(k, 0.f));
                else if (f.meaning == Meaning::Normal || f.meaning == Meaning::Direction) k = k * 0.5f + 0.5f;
            }
            image.setPixel(x, y, broken ? ((x + y) / 4 & 1 ? qRgb(0, 0, 0) : qRgb(212, 18, 13)) : qRgb(byte(c[0]), byte(c[1]), byte(c[2])));
        }
    return image;
}

} // namespace

CoursePlot::CoursePlot(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setMinimumHeight(100);
    setAccessibleName(QObject::tr("Plot of the wire"));
}

QRectF CoursePlot::box() const { return QRectF(34, 4, width() - 40, height() - 22); }

void CoursePlot::show(const TapFacts& facts, double now) {
    m_facts = facts;
    m_now = now;
    update();
}

QString CoursePlot::readoutAt(double share) const {
    if (m_facts.course.empty()) return {};
    const auto last = double(m_facts.course.size() - 1);
    const auto& v = m_facts.course[size_t(std::lround(std::clamp(share, 0.0, 1.0) * last))];
    QStringList parts;
    for (int c = 0; c < m_facts.width; ++c) parts << number(v[size_t(c)]);
    const float at = m_facts.axisLow + (m_facts.axisHigh - m_facts.axisLow) * float(share);
    return QString("%1 %2%3: %4")
        .arg(text(m_facts.axisName), number(at), m_facts.axisUnit.empty() ? "" : " " + text(m_facts.axisUnit), parts.join(' '));
}

void CoursePlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF b = box();
    p.fillRect(b, t.card);
    if (m_facts.course.empty()) return;
    float low = 0, high = 1;
    for (const auto& v : m_facts.course)
        for (int c = 0; c < m_facts.width; ++c)
            if (std::isfinite(v[size_t(c)])) low = std::min(low, v[size_t(c)]), high = std::max(high, v[size_t(c)]);
    auto y = [&](float v) { return b.bottom() - b.height() * double((v - low) / (high - low)); };
    auto x = [&](size_t i) { return b.left() + b.width() * double(i) / double(std::max<size_t>(1, m_facts.course.size() - 1)); };
    p.setPen(QPen(t.hairline, 1));
    for (float level : {0.f, 1.f}) p.drawLine(QPointF(b.left(), y(level)), QPointF(b.right(), y(level)));
    for (int c = 0; c < m_facts.width; ++c) {
        QPainterPath path;
        bool open = false;
        for (size_t i = 0; i < m_facts.course.size(); ++i) {
            const float v = m_facts.course[i][size_t(c)];
            if (!std::isfinite(v)) continue;
            if (open) path.lineTo(x(i), y(v));
            else path.moveTo(x(i), y(v));
            open = true;
        }
        p.setPen(penOf(c, t.ink));
        p.drawPath(path);
    }
    p.setFont(codeFont(10));
    p.setPen(t.ink2);
    p.drawText(QRectF(0, b.top() - 2, 31, 14), Qt::AlignRight, number(high));
    p.drawText(QRectF(0, b.bottom() - 12, 31, 14), Qt::AlignRight, number(low));
    p.drawText(QRectF(b.left(), b.bottom() + 2, b.width(), 15), Qt::AlignLeft, number(m_facts.axisLow));
    p.drawText(QRectF(b.left(), b.bottom() + 2, b.width(), 15), Qt::AlignRight, number(m_facts.axisHigh) + " " + text(m_facts.axisUnit));
    p.drawText(QRectF(b.left(), b.bottom() + 2, b.width(), 15), Qt::AlignHCenter, text(m_facts.axisName));
    if (m_facts.axisName == "time" && m_facts.axisHigh > 0) {
        const double at = b.left() + b.width() * std::clamp(m_now / double(m_facts.axisHigh), 0.0, 1.0);
        p.setPen(QPen(t.ink, 1));
        p.drawLine(QPointF(at, b.top()), QPointF(at, b.bottom()));
    }
    if (m_hover >= 0) {
        const double at = b.left() + b.width() * m_hover;
        p.setPen(QPen(t.ink2, 1, Qt::DotLine));
        p.drawLine(QPointF(at, b.top()), QPointF(at, b.bottom()));
        const QString words = readoutAt(m_hover);
        const QRectF tag = p.fontMetrics().boundingRect(words).adjusted(-4, -2, 4, 2).translated(0, 0);
        QRectF place(std::clamp(at + 6, b.left(), std::max(b.left(), b.right() - tag.width())), b.top() + 2, tag.width(), tag.height());
        p.fillRect(place, t.panel);
        p.setPen(t.ink);
        p.drawText(place, Qt::AlignCenter, words);
    }
}

void CoursePlot::mousePressEvent(QMouseEvent* e) { mouseMoveEvent(e); }
void CoursePlot::mouseMoveEvent(QMouseEvent* e) {
    const QRectF b = box();
    m_hover = std::clamp((e->position().x() - b.left()) / b.width(), 0.0, 1.0);
    if (e->buttons() & Qt::LeftButton) Q_EMIT scrubbed(m_hover);
    update();
}
void CoursePlot::leaveEvent(QEvent*) {
    m_hover = -1;
    update();
}

SharesPlot::SharesPlot(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(64);
    setAccessibleName(QObject::tr("Histogram of the wire"));
}

void SharesPlot::show(const TapFacts& facts) {
    m_facts = facts;
    update();
}

void SharesPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const QRectF b(4, 2, width() - 8, height() - 18);
    p.fillRect(b, t.card);
    if (!m_facts.width) return;
    // What lies outside of 0 to 1 stands on hatched ground.
    auto x = [&](float v) { return b.left() + b.width() * double((v - m_facts.low) / (m_facts.high - m_facts.low)); };
    if (m_facts.low < 0) p.fillRect(QRectF(b.left(), b.top(), x(0) - b.left(), b.height()), hatch(t.hairline));
    if (m_facts.high > 1) p.fillRect(QRectF(x(1), b.top(), b.right() - x(1), b.height()), hatch(t.hairline));
    p.setRenderHint(QPainter::Antialiasing);
    for (int c = 0; c < m_facts.width; ++c) {
        QPainterPath path;
        for (int i = 0; i < TapFacts::kBins; ++i) {
            const double h = b.height() * std::min(1.0, std::sqrt(double(m_facts.shares[size_t(c)][size_t(i)])) * 1.4);
            const QPointF at(b.left() + b.width() * (i + 0.5) / TapFacts::kBins, b.bottom() - h);
            if (i) path.lineTo(at);
            else path.moveTo(at);
        }
        p.setPen(penOf(c, t.ink));
        p.drawPath(path);
    }
    p.setFont(codeFont(10));
    p.setPen(t.ink2);
    p.drawText(QRectF(b.left(), b.bottom() + 1, b.width(), 14), Qt::AlignLeft, number(m_facts.low));
    p.drawText(QRectF(b.left(), b.bottom() + 1, b.width(), 14), Qt::AlignRight, number(m_facts.high));
}

TapPanel::TapPanel(Session& session, Commands& commands, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(248);
    setAccessibleName(tr("Tap"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    m_title = new QLabel;
    m_title->setProperty("title", true);
    head->addWidget(m_title, 1);
    auto* onMesh = new QToolButton;
    onMesh->setText(tr("on mesh"));
    onMesh->setToolTip(tr("Show the wire on the specimens, or no longer"));
    head->addWidget(onMesh);
    auto* close = new QToolButton;
    close->setText("\u00D7");
    close->setAccessibleName(tr("Close the tap"));
    commands.explain(close, "graph.tap", tr("Close"));
    head->addWidget(close);
    column->addLayout(head);
    auto* row = new QHBoxLayout;
    m_picture = new QLabel;
    m_picture->setFixedSize(112, 112);
    m_picture->setScaledContents(true);
    m_picture->setToolTip(tr("Over the unit UV square"));
    m_picture->setAccessibleName(tr("Flat picture of the wire"));
    row->addWidget(m_picture);
    m_numbers = new QLabel;
    m_numbers->setFont(codeFont(10));
    m_numbers->setWordWrap(true);
    m_numbers->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    row->addWidget(m_numbers, 1);
    column->addLayout(row);
    m_shares = new SharesPlot;
    column->addWidget(m_shares);
    auto* over = new QHBoxLayout;
    over->addWidget(new QLabel(tr("over")));
    m_axis = new QComboBox;
    m_axis->setAccessibleName(tr("What the plot runs over"));
    over->addWidget(m_axis, 1);
    column->addLayout(over);
    m_plot = new CoursePlot;
    column->addWidget(m_plot, 1);
    connect(close, &QToolButton::clicked, this, &TapPanel::closed);
    connect(onMesh, &QToolButton::clicked, this, [this] { Q_EMIT meshWanted(m_wire); });
    connect(m_axis, &QComboBox::activated, this, [this] {
        m_axisChosen = true;
        ask();
    });
    connect(m_plot, &CoursePlot::scrubbed, this, [this](double share) {
        if (m_facts.axisName == "time") m_session.setTime(share * double(m_session.project().loopSeconds) * 0.99999);
    });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Values | Change::Maps | Change::Files)) ask();
    });
    connect(&session, &Session::targetChanged, this, &TapPanel::ask);
    connect(&session, &Session::timeChanged, this, [this] {
        if (m_facts.movesWithTime) ask();
        else m_plot->show(m_facts, m_session.time());
    });
}

void TapPanel::fillAxes() {
    const QVariant now = m_axis->currentData();
    m_axis->clear();
    m_axis->addItem(tr("time"), "time");
    m_axis->addItem("U", "u");
    m_axis->addItem("V", "v");
    const Master* master = m_session.master();
    if (!master) return;
    for (const auto& [id, node] : master->graph.nodes) {
        const NodeDef* def = nodeDefOf(m_session.project(), *node);
        if (!def || id == m_wire.node) continue;
        for (const PortDef& port : def->outputs)
            if (port.width == 1 || port.width == kAnyWidth) {
                const Source s{id, std::string(port.key), {}};
                m_axis->addItem(titleOf(m_session.project(), *master, s), QStringList{text(id), text(s.port)});
            }
    }
    const int at = m_axis->findData(now);
    m_axis->setCurrentIndex(std::max(0, at));
}

TapAxis TapPanel::axis() const {
    TapAxis a;
    const QVariant chosen = m_axis->currentData();
    if (chosen.toString() == "u") a.over = TapAxis::Over::U;
    else if (chosen.toString() == "v") a.over = TapAxis::Over::V;
    else if (const QStringList other = chosen.toStringList(); other.size() == 2) {
        a.over = TapAxis::Over::Wire;
        a.other = {other[0].toStdString(), other[1].toStdString(), {}};
    }
    return a;
}

void TapPanel::tap(const Source& wire) {
    if (!(m_wire == wire)) m_axisChosen = false;
    m_wire = wire;
    fillAxes();
    ask();
}

bool TapPanel::upToDate() const { return !m_session.runner().running(this, "tap"); }

void TapPanel::ask() {
    if (!isVisible() || m_wire.node.empty()) return;
    const Master* master = m_session.master();
    if (!master) return;
    m_title->setText(m_title->fontMetrics().elidedText(titleOf(m_session.project(), *master, m_wire), Qt::ElideRight, 140));
    m_session.runner().run(
        {.owner = this, .kind = "tap", .newer = Newer::Waits, .priority = 5},
        [files = m_session.files(), snapshot = m_session.snapshot(),
         worn = m_session.path().empty() ? m_session.tuned() : m_session.target(), wire = m_wire, over = axis(), time = m_session.time(),
         path = m_session.pathText()](const Work&) { return tapFacts(*snapshot, files->assets, worn, wire, over, time, path); },
        [this](const TapFacts& facts) { receive(facts); });
}

void TapPanel::receive(const TapFacts& facts) {
    m_facts = facts;
    if (const Master* master = m_session.master(); master && facts.axisName == axis().other.node && !facts.axisName.empty())
        m_facts.axisName = titleOf(m_session.project(), *master, axis().other).toStdString();
    if (m_facts.width) m_picture->setPixmap(QPixmap::fromImage(pictureOf(m_facts)));
    else m_picture->clear();
    m_numbers->setText(numbers());
    m_shares->show(m_facts);
    m_plot->show(m_facts, m_session.time());
    // What stands still says more over U than over time.
    if (!m_axisChosen && facts.width && !facts.movesWithTime && m_axis->currentIndex() == 0) {
        m_axisChosen = true;
        m_axis->setCurrentIndex(1);
        ask();
    }
}

QString TapPanel::numbers() const {
    if (!m_facts.width) return tr("The card gives nothing here. See the problems.");
    QStringList lines;
    for (int c = 0; c < m_facts.width; ++c) {
        const auto k = size_t(c);
        const QString name = m_facts.width == 1 ? QString() : QString(kNames[c]) + " ";
        lines << name + tr("%1 .. %2\n  mean %3").arg(number(m_facts.least[k]), number(m_facts.most[k]), number(m_facts.mean[k]));
        if (m_facts.outside[k] > 0) lines << tr("  outside %1 %").arg(double(m_facts.outside[k]) * 100, 0, 'f', 1);
        if (m_facts.broken[k] > 0) lines << tr("  invalid %1 %").arg(double(m_facts.broken[k]) * 100, 0, 'f', 1);
    }
    return lines.join('\n');
}

} // namespace hue
