#include "app/parts/drawn_field.h"

#include "app/parts/fields.h"
#include "app/parts/theme.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolButton>
#include <algorithm>
#include <cmath>

namespace hue {
namespace {

constexpr int kStrip = 18, kPlot = 96, kTools = 72;

float encodedByte(float x) { return std::clamp(linearToSrgb(std::max(x, 0.f)), 0.f, 1.f) * 255; }

} // namespace

QImage stripOf(const Drawn& d, int width) {
    QImage out(std::max(width, 1), 1, QImage::Format_RGB32);
    for (int x = 0; x < out.width(); ++x) {
        const auto v = valueAt(d, out.width() > 1 ? float(x) / float(out.width() - 1) : 0);
        out.setPixel(x, 0, qRgb(int(encodedByte(v[0])), int(encodedByte(v[1])), int(encodedByte(v[2]))));
    }
    return out;
}

DrawnPlot::DrawnPlot(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("Drag a point. Double click sets one, Delete takes it away; arrows move the chosen one, Page Up and Page Down choose."));
}

void DrawnPlot::setDrawn(const Drawn& drawn) {
    if (m_dragging || drawn == m_drawn) return;
    m_drawn = drawn;
    m_chosen = std::min(m_chosen, m_drawn.points.empty() ? 0 : m_drawn.points.size() - 1);
    update();
    Q_EMIT chosenChanged();
}

void DrawnPlot::setQuiet(bool quiet) {
    m_quiet = quiet;
    update();
}

void DrawnPlot::choose(size_t point) {
    m_chosen = std::min(point, m_drawn.points.size() - 1);
    update();
    Q_EMIT chosenChanged();
}

std::pair<float, float> DrawnPlot::range() const {
    if (m_dragging) return m_rangeOfDrag;
    float low = 0, high = 1;
    for (const DrawnPoint& p : m_drawn.points) low = std::min(low, p.value[0]), high = std::max(high, p.value[0]);
    return {low, high};
}

QRectF DrawnPlot::plot() const {
    // Folded there is no room for points.
    return height() <= kStrip ? QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5) : QRectF(rect()).adjusted(5.5, 5.5, -5.5, -5.5);
}

QPointF DrawnPlot::placeOf(size_t point) const {
    const QRectF r = plot();
    const DrawnPoint& p = m_drawn.points[point];
    const auto [low, high] = range();
    const double y = m_drawn.kind == Drawn::Kind::Gradient ? 0.5 : (p.value[0] - low) / (high - low);
    return {r.left() + p.at * r.width(), r.bottom() - y * r.height()};
}

DrawnPoint DrawnPlot::under(QPointF at) const {
    const QRectF r = plot();
    const auto [low, high] = range();
    DrawnPoint out = m_drawn.points[m_chosen];
    out.at = float(std::clamp((at.x() - r.left()) / r.width(), 0.0, 1.0));
    if (m_drawn.kind == Drawn::Kind::Curve)
        out.value[0] = low + float(std::clamp((r.bottom() - at.y()) / r.height(), 0.0, 1.0)) * (high - low);
    return out;
}

void DrawnPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const QRectF r = plot();
    const bool small = height() <= kStrip;
    p.fillRect(r, t.card);
    if (m_drawn.kind == Drawn::Kind::Gradient) p.drawImage(r, stripOf(m_drawn, int(r.width())));
    p.setPen(QPen(m_quiet ? t.hairline : t.ink2, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(r);
    p.setRenderHint(QPainter::Antialiasing);
    if (m_drawn.kind == Drawn::Kind::Curve) {
        const auto [low, high] = range();
        QPolygonF line;
        const int steps = std::max(2, int(r.width()));
        for (int k = 0; k <= steps; ++k) {
            const float at = float(k) / float(steps);
            line << QPointF(r.left() + at * r.width(), r.bottom() - double((valueAt(m_drawn, at)[0] - low) / (high - low)) * r.height());
        }
        p.setPen(QPen(m_quiet ? t.ink2 : t.ink, small ? 1.2 : 1.6));
        p.drawPolyline(line);
    }
    if (!small)
        for (size_t k = 0; k < m_drawn.points.size(); ++k) {
            const QPointF at = placeOf(k);
            // An ink square in a light frame is seen on any color.
            p.setPen(QPen(t.card, 1));
            p.setBrush(t.ink);
            const double half = k == m_chosen ? 4.5 : 3;
            p.drawRect(QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half));
            if (k == m_chosen) p.fillRect(QRectF(at.x() - 2, at.y() - 2, 4, 4), t.card);
        }
    p.setRenderHint(QPainter::Antialiasing, false);
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void DrawnPlot::take(Drawn drawn) {
    m_drawn = std::move(drawn);
    update();
    Q_EMIT edited();
    Q_EMIT chosenChanged();
}

void DrawnPlot::change(const DrawnPoint& wanted) {
    Drawn d = m_drawn;
    DrawnPoint& p = d.points[m_chosen];
    p = wanted;
    // Two points at one place would be one.
    constexpr float kGap = 0.002f;
    const float least = m_chosen ? d.points[m_chosen - 1].at + kGap : 0,
                most = m_chosen + 1 < d.points.size() ? d.points[m_chosen + 1].at - kGap : 1;
    p.at = std::clamp(p.at, std::min(least, most), std::max(least, most));
    if (d == m_drawn) return;
    take(inOrder(std::move(d)));
}

void DrawnPlot::setBetween(Between between) {
    if (m_drawn.between == between) return;
    Drawn d = m_drawn;
    d.between = between;
    take(std::move(d));
}

void DrawnPlot::addAt(float at) {
    if (m_drawn.points.size() >= Drawn::kMostPoints) return;
    Drawn d = m_drawn;
    d.points.push_back({at, valueAt(m_drawn, at)});
    d = inOrder(std::move(d));
    const auto made = std::find_if(d.points.begin(), d.points.end(), [&](const DrawnPoint& p) { return p.at == at; });
    m_chosen = size_t(made - d.points.begin());
    take(std::move(d));
}

void DrawnPlot::addPoint() {
    const auto& p = m_drawn.points;
    std::pair<float, float> widest{0, p.front().at};
    for (size_t k = 0; k + 1 < p.size(); ++k)
        if (p[k + 1].at - p[k].at > widest.second - widest.first) widest = {p[k].at, p[k + 1].at};
    if (1 - p.back().at > widest.second - widest.first) widest = {p.back().at, 1.f};
    addAt((widest.first + widest.second) / 2);
    Q_EMIT editingDone();
}

void DrawnPlot::removePoint() {
    if (m_drawn.points.size() < 2) return;
    Drawn d = m_drawn;
    d.points.erase(d.points.begin() + long(m_chosen));
    m_chosen = std::min(m_chosen, d.points.size() - 1);
    take(std::move(d));
    Q_EMIT editingDone();
}

void DrawnPlot::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || height() <= kStrip) return e->ignore();
    size_t nearest = 0;
    double best = 1e9;
    for (size_t k = 0; k < m_drawn.points.size(); ++k) {
        const QPointF d = placeOf(k) - e->position();
        const double away = m_drawn.kind == Drawn::Kind::Gradient ? std::fabs(d.x()) : std::hypot(d.x(), d.y());
        if (away < best) best = away, nearest = k;
    }
    if (best > 9) return;
    choose(nearest);
    m_rangeOfDrag = range();
    m_dragging = true;
    m_moved = false;
}

void DrawnPlot::mouseMoveEvent(QMouseEvent* e) {
    if (!m_dragging) return;
    m_moved = true;
    change(under(e->position()));
}

void DrawnPlot::mouseReleaseEvent(QMouseEvent*) {
    if (!m_dragging) return;
    m_dragging = false;
    update();
    if (m_moved) Q_EMIT editingDone();
}

void DrawnPlot::mouseDoubleClickEvent(QMouseEvent* e) {
    if (height() <= kStrip) return e->ignore();
    m_dragging = false;
    const DrawnPoint at = under(e->position());
    const bool taken =
        std::any_of(m_drawn.points.begin(), m_drawn.points.end(), [&](const DrawnPoint& p) { return std::fabs(p.at - at.at) < 0.01f; });
    if (taken) return;
    addAt(at.at);
    if (m_drawn.kind == Drawn::Kind::Curve) change(at);
    Q_EMIT editingDone();
}

void DrawnPlot::keyPressEvent(QKeyEvent* e) {
    if (height() <= kStrip || m_drawn.points.empty()) return QWidget::keyPressEvent(e);
    DrawnPoint p = m_drawn.points[m_chosen];
    const auto [low, high] = range();
    const float step = e->modifiers() & Qt::ShiftModifier ? 0.002f : 0.02f;
    switch (e->key()) {
    case Qt::Key_Left: p.at -= step; break;
    case Qt::Key_Right: p.at += step; break;
    case Qt::Key_Up: p.value[0] += m_drawn.kind == Drawn::Kind::Curve ? step * (high - low) : 0; break;
    case Qt::Key_Down: p.value[0] -= m_drawn.kind == Drawn::Kind::Curve ? step * (high - low) : 0; break;
    case Qt::Key_PageUp: return choose(m_chosen ? m_chosen - 1 : m_drawn.points.size() - 1);
    case Qt::Key_PageDown: return choose(m_chosen + 1 < m_drawn.points.size() ? m_chosen + 1 : 0);
    case Qt::Key_Insert:
    case Qt::Key_Plus: return addPoint();
    case Qt::Key_Delete:
    case Qt::Key_Backspace: return removePoint();
    default: return QWidget::keyPressEvent(e);
    }
    change(p);
    Q_EMIT editingDone();
}

DrawnField::DrawnField(QWidget* parent) : QWidget(parent) {
    m_plot = new DrawnPlot(this);
    m_plot->setFocusPolicy(Qt::NoFocus);
    m_fold = new QToolButton(this);
    m_fold->setObjectName("drawnFold");
    m_fold->setToolTip(tr("Shows its points, to be moved"));
    m_tools = new QWidget(this);
    auto* column = new QVBoxLayout(m_tools);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(2);
    auto* above = new QHBoxLayout;
    auto* beneath = new QHBoxLayout;
    m_between = new QComboBox;
    m_between->setObjectName("drawnBetween");
    m_between->setToolTip(tr("How it gets from one point to the next"));
    m_between->setAccessibleName(tr("Between points"));
    m_between->addItems({tr("straight"), tr("smooth"), tr("steps")});
    above->addWidget(m_between, 1);
    const auto tool = [&](const QString& words, const QString& tip, auto act) {
        auto* b = new QToolButton;
        b->setText(words);
        b->setToolTip(tip);
        b->setAccessibleName(tip);
        connect(b, &QToolButton::clicked, m_plot, act);
        above->addWidget(b);
    };
    tool("+", tr("Set a point in the widest gap"), &DrawnPlot::addPoint);
    tool("\u2212", tr("Take the chosen point away"), &DrawnPlot::removePoint);
    const auto field = [&](const char* name, const QString& words, int stretch) {
        auto* f = new ValueField;
        f->setObjectName(name);
        f->setAccessibleName(words);
        f->setToolTip(words);
        beneath->addWidget(f, stretch);
        connect(f, &ValueField::editingDone, this, &DrawnField::editingDone);
        return f;
    };
    m_at = field("drawnAt", tr("Place of the chosen point"), 1);
    m_value = field("drawnValue", tr("Value of the chosen point"), 1);
    m_alpha = field("drawnAlpha", tr("Alpha of the chosen point"), 1);
    m_at->setRange(0, 1);
    m_alpha->setRange(0, 1);
    m_at->setUnit(tr("at"));
    m_alpha->setUnit(tr("alpha"));
    column->addLayout(above);
    column->addLayout(beneath);
    m_tools->hide();
    connect(m_fold, &QToolButton::clicked, this, [this] { setUnfolded(!isUnfolded()); });
    connect(m_plot, &DrawnPlot::edited, this, [this] { Q_EMIT edited(textOf(m_plot->drawn())); });
    connect(m_plot, &DrawnPlot::editingDone, this, &DrawnField::editingDone);
    connect(m_plot, &DrawnPlot::chosenChanged, this, &DrawnField::showChosen);
    connect(m_between, &QComboBox::activated, this, [this](int k) {
        m_plot->setBetween(Between(k));
        Q_EMIT editingDone();
    });
    const auto change = [this](const std::function<void(DrawnPoint&)>& set) {
        if (m_showing) return;
        DrawnPoint p = m_plot->drawn().points[m_plot->chosen()];
        set(p);
        m_plot->change(p);
    };
    connect(m_at, &ValueField::edited, this, [=](const Value& v) { change([&](DrawnPoint& p) { p.at = v[0]; }); });
    connect(m_value, &ValueField::edited, this,
            [=](const Value& v) { change([&](DrawnPoint& p) { std::copy_n(v.v.begin(), size_t(v.width), p.value.begin()); }); });
    connect(m_alpha, &ValueField::edited, this, [=](const Value& v) { change([&](DrawnPoint& p) { p.value[3] = v[0]; }); });
    setUnfolded(false);
    showChosen();
}

void DrawnField::setName(const QString& name) {
    m_plot->setAccessibleName(name);
    m_fold->setAccessibleName(tr("Points of %1").arg(name));
}

void DrawnField::setDrawn(const Drawn& drawn) {
    m_plot->setDrawn(drawn);
    showChosen();
}

void DrawnField::setQuiet(bool quiet) {
    m_plot->setQuiet(quiet);
    for (ValueField* f : {m_at, m_value, m_alpha}) f->setQuiet(quiet);
}

bool DrawnField::isUnfolded() const { return m_tools->isVisibleTo(this); }

int DrawnField::neededHeight() const { return isUnfolded() ? kPlot + kTools : kStrip; }

void DrawnField::setUnfolded(bool unfolded) {
    m_tools->setVisible(unfolded);
    m_plot->setFocusPolicy(unfolded ? Qt::StrongFocus : Qt::NoFocus);
    m_fold->setText(unfolded ? "\u25B4" : "\u25BE");
    setFixedHeight(neededHeight());
    resizeEvent(nullptr);
    Q_EMIT folded();
}

void DrawnField::resizeEvent(QResizeEvent*) {
    m_fold->setGeometry(width() - kStrip, 0, kStrip, kStrip);
    m_fold->setStyleSheet("padding: 0;");
    m_plot->setGeometry(0, 0, width() - kStrip - 2, isUnfolded() ? kPlot : kStrip);
    m_tools->setGeometry(0, kPlot, width(), kTools);
}

void DrawnField::showChosen() {
    const Drawn& d = m_plot->drawn();
    if (d.points.empty()) return;
    m_showing = true;
    const DrawnPoint& p = d.points[std::min(m_plot->chosen(), d.points.size() - 1)];
    const bool gradient = d.kind == Drawn::Kind::Gradient;
    m_between->setCurrentIndex(int(d.between));
    m_at->setValue(Value::number(p.at));
    m_value->setColor(gradient);
    m_value->setRange(0, 1);
    m_value->setValue(gradient ? Value::vec3(p.value[0], p.value[1], p.value[2]) : Value::number(p.value[0]));
    m_alpha->setVisible(gradient);
    m_alpha->setValue(Value::number(p.value[3]));
    m_showing = false;
}

} // namespace hue
