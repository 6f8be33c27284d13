#include "app/stations/maps/map_draw_pane.h"

#include "app/parts/theme.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>

namespace hue {

QPointF MaskCanvas::share(QPointF at) const {
    const QRectF r = pictureRect();
    return {(at.x() - r.left()) / r.width(), (at.y() - r.top()) / r.height()};
}

void MaskCanvas::setKind(MaskShape::Kind kind) {
    m_kind = kind;
    m_points.clear();
    update();
}

void MaskCanvas::paintEvent(QPaintEvent* e) {
    MapCanvas::paintEvent(e);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    // Seen on black and on white.
    const QRectF r = pictureRect();
    auto at = [&](const std::pair<float, float>& s) {
        return QPointF(r.left() + double(s.first) * r.width(), r.top() + double(s.second) * r.height());
    };
    for (const QPen& pen : {QPen(theme().card, 3), QPen(theme().ink, 1)}) {
        p.setPen(pen);
        if (m_dragging) {
            const QRectF box = QRectF(m_start, m_now).normalized();
            if (m_kind == MaskShape::Kind::Ellipse) p.drawEllipse(box);
            else p.drawRect(box);
        }
        for (size_t i = 0; i + 1 < m_points.size(); ++i) p.drawLine(at(m_points[i]), at(m_points[i + 1]));
        if (!m_points.empty()) p.drawLine(at(m_points.back()), m_now);
    }
}

void MaskCanvas::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (e->button() != Qt::LeftButton) return;
    m_now = e->position();
    if (m_kind == MaskShape::Kind::Polygon || m_kind == MaskShape::Kind::Line) {
        const QPointF s = share(e->position());
        m_points.emplace_back(float(s.x()), float(s.y()));
    } else {
        m_dragging = true;
        m_start = e->position();
    }
    update();
}

void MaskCanvas::mouseMoveEvent(QMouseEvent* e) {
    m_now = e->position();
    update();
}

void MaskCanvas::mouseReleaseEvent(QMouseEvent* e) {
    if (!m_dragging) return;
    m_dragging = false;
    const QPointF a = share(m_start), b = share(e->position());
    if (std::abs(a.x() - b.x()) < 0.004 || std::abs(a.y() - b.y()) < 0.004) return update();
    MaskShape s;
    s.kind = m_kind;
    s.x = float(std::min(a.x(), b.x())), s.y = float(std::min(a.y(), b.y()));
    s.width = float(std::abs(a.x() - b.x())), s.height = float(std::abs(a.y() - b.y()));
    Q_EMIT drawn(s);
}

void MaskCanvas::finish() {
    const size_t least = m_kind == MaskShape::Kind::Polygon ? 3 : 2;
    if (m_points.size() >= least) {
        MaskShape s;
        s.kind = m_kind;
        s.points = m_points;
        Q_EMIT drawn(s);
    }
    m_points.clear();
    update();
}

void MaskCanvas::mouseDoubleClickEvent(QMouseEvent*) {
    if (!m_points.empty()) finish();
}

void MaskCanvas::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) return finish();
    if (e->key() == Qt::Key_Escape) {
        m_points.clear();
        m_dragging = false;
        return update();
    }
    MapCanvas::keyPressEvent(e);
}

MapDrawPane::MapDrawPane(Session& session, MapService& service) : MapPane(session, service) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(2);
    m_canvas = new MaskCanvas(tr("Mask"));
    m_canvas->setObjectName("maskCanvas");
    m_canvas->setToolTip(tr(
        "Drag a rectangle, an ellipse or the box of a text; click the points of a polygon or line and end with a double click or Enter"));
    row->addWidget(m_canvas, 1);
    QFormLayout* form;
    QWidget* side = controlColumn(262, form);
    m_kinds = new QButtonGroup(this);
    auto* kinds = new QGridLayout;
    kinds->setSpacing(2);
    using K = MaskShape::Kind;
    static constexpr const char* names[] = {QT_TR_NOOP("Box"), QT_TR_NOOP("Ellipse"), QT_TR_NOOP("Polygon"), QT_TR_NOOP("Line"),
                                            QT_TR_NOOP("Text")};
    for (K k : {K::Rectangle, K::Ellipse, K::Polygon, K::Line, K::Text}) {
        auto* b = new QToolButton;
        b->setText(tr(names[int(k)]));
        b->setCheckable(true);
        m_kinds->addButton(b, int(k));
        kinds->addWidget(b, int(k) / 3, int(k) % 3);
    }
    m_kinds->button(0)->setChecked(true);
    form->addRow(kinds);
    m_text = new QLineEdit("LINE 4");
    m_text->setAccessibleName(tr("Text"));
    form->addRow(tr("Text"), m_text);
    auto slider = [&](const QString& name, int most, int value, const QString& tip) {
        auto* s = new QSlider(Qt::Horizontal);
        s->setRange(0, most);
        s->setValue(value);
        s->setAccessibleName(name);
        s->setToolTip(tip);
        form->addRow(name, s);
        return s;
    };
    m_soft = slider(tr("Soft edge"), 50, 0, tr("Hundredths of the height"));
    m_thickness = slider(tr("Line width"), 50, 4, tr("Half hundredths of the height"));
    m_black = new QCheckBox(tr("paints black"));
    form->addRow(m_black);
    m_seamless = new QCheckBox(tr("seamless"));
    m_seamless->setToolTip(tr("What leaves at one side comes in at the other"));
    form->addRow(m_seamless);
    m_size = new QComboBox;
    for (int s : {256, 512, 1024, 2048, 4096}) m_size->addItem(tr("%1 x %1 pixels").arg(s), s);
    m_size->setCurrentIndex(2);
    form->addRow(tr("Size"), m_size);
    m_name = new QLineEdit("mask");
    form->addRow(tr("Name"), m_name);
    auto* buttons = new QHBoxLayout;
    m_back = new QPushButton(tr("Take back"));
    m_back->setToolTip(tr("The last shape goes"));
    m_keep = new QPushButton(tr("Keep as a map"));
    m_keep->setObjectName("maskKeep");
    buttons->addWidget(m_back);
    buttons->addWidget(m_keep);
    form->addRow(buttons);
    row->addWidget(side);
    connect(m_kinds, &QButtonGroup::idClicked, this, [this](int id) { m_canvas->setKind(K(id)); });
    connect(m_canvas, &MaskCanvas::drawn, this, [this](MaskShape s) {
        s.soft = float(m_soft->value()) / 100;
        s.value = m_black->isChecked() ? 0.f : 1.f;
        s.thickness = float(std::max(1, m_thickness->value())) / 200;
        s.text = m_text->text().toStdString();
        m_drawing.shapes.push_back(s);
        redraw();
    });
    connect(m_soft, &QSlider::valueChanged, this, [this](int v) {
        // The last shape is the one that is being judged.
        if (!m_drawing.shapes.empty()) m_drawing.shapes.back().soft = float(v) / 100;
        redraw();
    });
    connect(m_thickness, &QSlider::valueChanged, this, [this](int v) {
        if (!m_drawing.shapes.empty()) m_drawing.shapes.back().thickness = float(std::max(1, v)) / 200;
        redraw();
    });
    connect(m_seamless, &QCheckBox::toggled, this, &MapDrawPane::redraw);
    connect(m_back, &QPushButton::clicked, this, [this] {
        if (!m_drawing.shapes.empty()) m_drawing.shapes.pop_back();
        redraw();
    });
    connect(m_keep, &QPushButton::clicked, this, &MapDrawPane::keep);
    redraw();
}

void MapDrawPane::show(const Id& id) { m_map = id; }

void MapDrawPane::redraw() {
    m_drawing.seamless = m_seamless->isChecked();
    MaskDrawing small = m_drawing;
    small.width = small.height = 384;
    const auto plane = drawMask(small);
    m_canvas->setImage(plane ? imageOfScreen(channelPicture(imageOf({*plane}, SampleType::U8), 0)) : QImage());
    m_canvas->setCaption(m_drawing.shapes.empty() ? tr("Drag on the black to paint white")
                                                  : counted(int(m_drawing.shapes.size()), tr("shape"), tr("shapes")));
    m_back->setEnabled(!m_drawing.shapes.empty());
    m_keep->setEnabled(!m_drawing.shapes.empty());
}

void MapDrawPane::keep() {
    MaskDrawing d = m_drawing;
    d.width = d.height = m_size->currentData().toInt();
    const std::string name = m_name->text().trimmed().isEmpty() ? "mask" : m_name->text().trimmed().toStdString();
    m_service.addMade(tr("draw mask"), [d, name](const Work&) -> Result<std::vector<NewMap>> {
        const auto plane = drawMask(d);
        if (!plane) return plane.error();
        return std::vector<NewMap>{{name, MapKind::Data, imageOf({*plane}, SampleType::U8), {}, "mask"}};
    });
}

} // namespace hue
