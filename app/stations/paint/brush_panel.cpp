#include "app/stations/paint/brush_panel.h"

#include "app/parts/theme.h"
#include "app/stations/paint/choice_button.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {

ProfileField::ProfileField(QWidget* parent) : QWidget(parent) {
    setObjectName("brushProfile");
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(80);
    setAccessibleName(tr("Profile of the brush: weight over distance"));
    setToolTip(tr("Weight over the distance from the middle. Drag up and down for the weight, left and right for where the soft edge "
                  "begins; arrows do the same."));
}

void ProfileField::setBrush(const Brush& brush) {
    m_brush = brush;
    update();
}

QRectF ProfileField::plot() const { return QRectF(rect()).adjusted(7, 8, -7, -8); }

void ProfileField::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.fillRect(rect(), t.card);
    const QRectF r = plot();
    const auto at = [&](float distance, float weight) {
        return QPointF(r.left() + double(distance) * r.width(), r.bottom() - double(weight) * r.height());
    };
    QPolygonF area;
    area << at(0, 0);
    for (int k = 0; k <= 64; ++k) area << at(float(k) / 64, m_brush.weight * brushProfile(float(k) / 64, m_brush.softEdge));
    area << at(1, 0);
    p.setPen(Qt::NoPen);
    p.setBrush(hatch(t.ink2));
    p.drawPolygon(area);
    p.setPen(QPen(t.hairline, 1));
    p.drawLine(at(0, 1), at(1, 1));
    p.setPen(QPen(t.ink, 1.5));
    p.setBrush(Qt::NoBrush);
    area.removeFirst();
    area.removeLast();
    p.drawPolyline(area);
    p.setBrush(t.ink);
    p.drawRect(QRectF(at(1 - m_brush.softEdge, m_brush.weight) - QPointF(3, 3), QSizeF(6, 6)));
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setBrush(Qt::NoBrush);
    p.setPen(hasFocus() ? QPen(t.ink, 1, Qt::DotLine) : QPen(t.hairline, 1));
    p.drawRect(rect().adjusted(0, 0, -1, -1));
}

void ProfileField::drag(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) return;
    const QRectF r = plot();
    const double along = (e->position().x() - r.left()) / r.width(), up = (r.bottom() - e->position().y()) / r.height();
    Q_EMIT edited(float(std::clamp(up, 0.0, 1.0)), float(std::clamp(1 - along, 0.0, 1.0)));
}

void ProfileField::keyPressEvent(QKeyEvent* e) {
    constexpr float kStep = 0.05f;
    float weight = m_brush.weight, soft = m_brush.softEdge;
    switch (e->key()) {
    case Qt::Key_Up: weight += kStep; break;
    case Qt::Key_Down: weight -= kStep; break;
    case Qt::Key_Left: soft += kStep; break;
    case Qt::Key_Right: soft -= kStep; break;
    default: return QWidget::keyPressEvent(e);
    }
    Q_EMIT edited(std::clamp(weight, 0.f, 1.f), std::clamp(soft, 0.f, 1.f));
}

BrushPanel::BrushPanel(PaintDesk& desk, QWidget* parent) : QWidget(parent), m_desk(desk) {
    setFixedWidth(206);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 10, 8);
    column->setSpacing(6);
    m_does = new QButtonGroup(this);
    auto* row = new QGridLayout;
    row->setSpacing(2);
    const std::tuple<Brush::Does, QString, const char*, QString> all[] = {
        {Brush::Does::Add, tr("add"), "brushAdd", tr("Adds the target, up to 1; with Ctrl takes it away")},
        {Brush::Does::TakeAway, tr("take away"), "brushTakeAway", tr("Takes the target away, down to 0; with Ctrl adds it")},
        {Brush::Does::Set, tr("set"), "brushSet", tr("Brings what is there to the target")},
        {Brush::Does::Smooth, tr("smooth"), "brushSmooth", tr("Brings each vertex nearer to the mean of its neighbours")},
        {Brush::Does::Smear, tr("smear"), "brushSmear", tr("Takes along what the brush has come from")}};
    for (const auto& [does, name, object, tip] : all) {
        QToolButton* b = choiceButton(name, object, tip);
        const int k = m_does->buttons().size();
        m_does->addButton(b, int(does));
        row->addWidget(b, k / 3, k % 3);
    }
    connect(m_does, &QButtonGroup::idClicked, this, [this](int id) { change([&](Brush& b) { b.does = Brush::Does(id); }); });
    column->addLayout(row);
    m_profile = new ProfileField;
    connect(m_profile, &ProfileField::edited, this,
            [this](float weight, float soft) { change([&](Brush& b) { b.weight = weight, b.softEdge = soft; }); });
    column->addWidget(m_profile);

    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    const auto field = [&](const QString& name, const char* object, const QString& tip, auto edited) {
        auto* f = new ValueField;
        f->setObjectName(object);
        f->setAccessibleName(name);
        f->setToolTip(tip);
        f->setFixedHeight(28);
        auto* label = new QLabel(name);
        label->setBuddy(f);
        const int at = grid->rowCount();
        grid->addWidget(label, at, 0);
        grid->addWidget(f, at, 1);
        connect(f, &ValueField::edited, this, [this, edited](const Value& v) {
            if (!m_refreshing) edited(v[0]);
        });
        return f;
    };
    const auto brushValue = [this](float Brush::*member) { return [this, member](float x) { change([&](Brush& b) { b.*member = x; }); }; };
    m_size = field(tr("size"), "brushSize", tr("How far the brush reaches from its middle"), [this](float x) {
        if (m_desk.sizedByView()) m_desk.setViewShare(x / 100);
        else change([&](Brush& b) { b.radius = x; });
    });
    m_weight = field(tr("weight"), "brushWeight", tr("What a touch leaves in its middle"), brushValue(&Brush::weight));
    m_soft = field(tr("soft edge"), "brushSoft", tr("Share of the size over which the weight falls off"), brushValue(&Brush::softEdge));
    m_build = field(tr("build-up"), "brushBuildUp", tr("0: one stroke leaves as much as one touch; 1: every touch adds"),
                    brushValue(&Brush::buildUp));
    m_target = field(tr("target"), "brushTarget", tr("What is added, taken away or set"), brushValue(&Brush::target));
    m_sizeUnit = new QToolButton;
    m_sizeUnit->setObjectName("brushSizeUnit");
    m_sizeUnit->setToolTip(tr("Whether the size is in metres of the mesh, or a share of the view that follows the camera"));
    connect(m_sizeUnit, &QToolButton::clicked, this, [this] { m_desk.setSizedByView(!m_desk.sizedByView()); });
    grid->addWidget(m_sizeUnit, 1, 2);
    grid->setColumnStretch(1, 1);
    column->addLayout(grid);

    auto* keeps = new QLabel(tr("The hand keeps to"));
    keeps->setProperty("second", true);
    column->addWidget(keeps);
    const auto check = [&](const QString& name, const char* object, const QString& tip, bool Brush::*member) {
        auto* c = new QCheckBox(name);
        c->setObjectName(object);
        c->setToolTip(tip);
        connect(c, &QCheckBox::toggled, this, [this, member](bool on) {
            if (!m_refreshing) change([&](Brush& b) { b.*member = on; });
        });
        column->addWidget(c);
        return c;
    };
    m_facing = check(tr("what looks at you"), "brushFacing", tr("Leaves alone what looks away from the viewer"), &Brush::facing);
    m_connected = check(tr("what hangs together"), "brushConnected", tr("Leaves alone what is near in space but not along the surface"),
                        &Brush::connected);
    auto* choices = new QGridLayout;
    choices->setHorizontalSpacing(6);
    choices->setVerticalSpacing(3);
    choices->setColumnStretch(1, 1);
    const auto combo = [&](const QString& name, const char* object, const QString& tip, auto chosen) {
        auto* c = new QComboBox;
        c->setObjectName(object);
        c->setAccessibleName(name);
        c->setToolTip(tip);
        auto* label = new QLabel(name);
        label->setBuddy(c);
        const int at = choices->rowCount();
        choices->addWidget(label, at, 0);
        choices->addWidget(c, at, 1);
        connect(c, &QComboBox::currentIndexChanged, this, [this, c, chosen](int) {
            if (!m_refreshing) chosen(c->currentData().toInt());
        });
        return c;
    };
    const auto brushChoice = [this](int Brush::*member) { return [this, member](int x) { change([&](Brush& b) { b.*member = x; }); }; };
    m_slot = combo(tr("slot"), "brushSlot", tr("Only vertices of one slot of the mesh"), brushChoice(&Brush::slot));
    m_mask = combo(tr("masked"), "brushMask", tr("Only where another channel lies between two values"), brushChoice(&Brush::maskChannel));
    auto* between = new QHBoxLayout;
    between->setSpacing(4);
    const auto end = [&](const char* object, const QString& name, float Brush::*member) {
        auto* f = new ValueField;
        f->setObjectName(object);
        f->setAccessibleName(name);
        f->setToolTip(name);
        f->setFixedHeight(28);
        connect(f, &ValueField::edited, this, [this, member](const Value& v) {
            if (!m_refreshing) change([&](Brush& b) { b.*member = v[0]; });
        });
        between->addWidget(f);
        return f;
    };
    m_maskLow = end("brushMaskLow", tr("lowest value of the mask"), &Brush::maskLow);
    m_maskHigh = end("brushMaskHigh", tr("highest value of the mask"), &Brush::maskHigh);
    choices->addLayout(between, choices->rowCount(), 1);
    m_mirror = combo(tr("mirror"), "brushMirror", tr("The same on the other side of the mesh's middle, across an axis"),
                     brushChoice(&Brush::mirror));
    m_pressure = combo(tr("pressure"), "brushPressure", tr("What the pressure of a pen changes"),
                       [this](int x) { m_desk.setPressure(PaintDesk::Pressure(x)); });
    column->addLayout(choices);
    column->addStretch();

    m_mirror->addItem(tr("nowhere"), -1);
    for (int axis = 0; axis < 3; ++axis) m_mirror->addItem(tr("across %1").arg(QString("XYZ")[axis]), axis);
    m_pressure->addItem(tr("nothing"), int(PaintDesk::Pressure::Nothing));
    m_pressure->addItem(tr("size"), int(PaintDesk::Pressure::Size));
    m_pressure->addItem(tr("weight"), int(PaintDesk::Pressure::Weight));
    connect(&desk, &PaintDesk::changed, this, &BrushPanel::refresh);
    connect(&desk, &PaintDesk::brushChanged, this, &BrushPanel::refresh);
    connect(&desk, &PaintDesk::surfaceChanged, this, &BrushPanel::refresh);
    refresh();
}

void BrushPanel::change(const std::function<void(Brush&)>& how) {
    Brush b = m_desk.brush();
    how(b);
    m_desk.setBrush(b);
}

void BrushPanel::refresh() {
    m_refreshing = true;
    const Brush& b = m_desk.brush();
    if (QAbstractButton* its = m_does->button(int(b.does))) its->setChecked(true);
    m_profile->setBrush(b);
    const bool byView = m_desk.sizedByView();
    m_sizeUnit->setText(byView ? tr("%") : tr("m"));
    m_sizeUnit->setAccessibleName(byView ? tr("Size in hundredths of the view") : tr("Size in metres"));
    const float whole = m_desk.surface() ? std::max(m_desk.surface()->bounds().radius(), 1e-3f) : 1;
    m_size->setRange(0, byView ? 50 : whole);
    m_size->setValue(Value::number(byView ? m_desk.viewShare() * 100 : b.radius));
    m_weight->setValue(Value::number(b.weight));
    m_soft->setValue(Value::number(b.softEdge));
    m_build->setValue(Value::number(b.buildUp));
    m_target->setValue(Value::number(b.target));
    const bool reads = b.does == Brush::Does::Smooth || b.does == Brush::Does::Smear;
    m_target->setEnabled(!reads);
    m_build->setEnabled(!reads);
    m_facing->setChecked(b.facing);
    m_connected->setChecked(b.connected);
    const auto fill = [](QComboBox* c, const QStringList& names, const QString& none, int chosen) {
        const QSignalBlocker quiet(c);
        c->clear();
        c->addItem(none, -1);
        for (int i = 0; i < names.size(); ++i) c->addItem(names[i], i);
        c->setCurrentIndex(std::max(0, c->findData(chosen)));
    };
    QStringList slots_, channels;
    if (m_desk.surface())
        for (const MeshSlot& s : m_desk.surface()->mesh()->slots) slots_ << QString::fromStdString(s.name);
    for (int c = 0; c < PaintData::kChannels; ++c) channels << m_desk.channelName(c);
    fill(m_slot, slots_, tr("all"), b.slot);
    fill(m_mask, channels, tr("everywhere"), b.maskChannel);
    m_maskLow->setVisible(b.maskChannel >= 0);
    m_maskHigh->setVisible(b.maskChannel >= 0);
    m_maskLow->setValue(Value::number(b.maskLow));
    m_maskHigh->setValue(Value::number(b.maskHigh));
    m_mirror->setCurrentIndex(std::max(0, m_mirror->findData(b.mirror)));
    m_pressure->setCurrentIndex(std::max(0, m_pressure->findData(int(m_desk.pressure()))));
    m_refreshing = false;
}

} // namespace hue
