#include "app/stations/maps/lane_editor.h"

#include "app/parts/map_canvas.h"
#include "core/pack/recipe.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

QString wordsOfOp(const LaneOp& op) {
    const QString name = QString::fromUtf8(nameOf(op.kind).data(), qsizetype(nameOf(op.kind).size()));
    switch (op.kind) {
    case LaneOp::Kind::Remap:
        return QObject::tr("remap %1 %2 to %3 %4").arg(double(op.low)).arg(double(op.high)).arg(double(op.newLow)).arg(double(op.newHigh));
    case LaneOp::Kind::Limit: return QObject::tr("limit %1 to %2").arg(double(op.low)).arg(double(op.high));
    case LaneOp::Kind::Blur:
    case LaneOp::Kind::Dilate: return QObject::tr("%1 %2 px").arg(name).arg(double(op.amount));
    case LaneOp::Kind::Curve: return QObject::tr("curve, %1 points").arg(op.points.size());
    default: return name;
    }
}

/// What an operation needs, as numbers in one line.
QString numbersOf(const LaneOp& op) {
    QStringList out;
    auto add = [&](float v) { out << QString::number(double(v)); };
    switch (op.kind) {
    case LaneOp::Kind::Remap: add(op.low), add(op.high), add(op.newLow), add(op.newHigh); break;
    case LaneOp::Kind::Limit: add(op.low), add(op.high); break;
    case LaneOp::Kind::Blur:
    case LaneOp::Kind::Dilate: add(op.amount); break;
    case LaneOp::Kind::Curve:
        for (const auto& [x, y] : op.points) add(x), add(y);
        break;
    default: break;
    }
    return out.join(' ');
}

bool setNumbers(LaneOp& op, const QString& line) {
    std::vector<float> v;
    for (const QString& word : line.split(' ', Qt::SkipEmptyParts)) {
        bool good = false;
        v.push_back(word.toFloat(&good));
        if (!good) return false;
    }
    switch (op.kind) {
    case LaneOp::Kind::Remap:
        if (v.size() != 4) return false;
        op.low = v[0], op.high = v[1], op.newLow = v[2], op.newHigh = v[3];
        return true;
    case LaneOp::Kind::Limit:
        if (v.size() != 2) return false;
        op.low = v[0], op.high = v[1];
        return true;
    case LaneOp::Kind::Blur:
    case LaneOp::Kind::Dilate:
        if (v.size() != 1) return false;
        op.amount = v[0];
        return true;
    case LaneOp::Kind::Curve:
        if (v.size() < 4 || v.size() % 2) return false;
        op.points.clear();
        for (size_t i = 0; i < v.size(); i += 2) op.points.emplace_back(v[i], v[i + 1]);
        return true;
    default: return true;
    }
}

void clear(QLayout* layout) {
    while (QLayoutItem* item = layout->takeAt(0)) {
        if (QWidget* w = item->widget()) w->deleteLater();
        delete item;
    }
}

} // namespace

LaneEditor::LaneEditor(int lane, Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    static constexpr const char* names[] = {QT_TR_NOOP("Red"), QT_TR_NOOP("Green"), QT_TR_NOOP("Blue"), QT_TR_NOOP("Alpha")};
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 10, 8);
    column->setSpacing(5);
    auto* title = new QLabel(tr(names[lane]));
    title->setProperty("title", true);
    column->addWidget(title);
    m_from = new QComboBox;
    m_from->addItems({tr("nothing"), tr("constant"), tr("map"), tr("wire")});
    m_from->setAccessibleName(tr("%1 comes from").arg(tr(names[lane])));
    column->addWidget(m_from);
    m_map = new QComboBox;
    m_map->setAccessibleName(tr("Map for %1").arg(tr(names[lane])));
    column->addWidget(m_map);
    m_take = new QComboBox;
    m_take->setAccessibleName(tr("What is taken for %1").arg(tr(names[lane])));
    for (const char* take : {"r", "g", "b", "a", "luma", "height", "occlusion", "curvature"})
        m_take->addItem(QStringLiteral(".") + take, take);
    m_take->setToolTip(tr("A component; luminance; or a height from normals, occlusion or curvature from a height"));
    column->addWidget(m_take);
    m_constant = new QDoubleSpinBox;
    m_constant->setRange(0, 1);
    m_constant->setSingleStep(0.05);
    m_constant->setAccessibleName(tr("Constant for %1").arg(tr(names[lane])));
    column->addWidget(m_constant);
    m_wire = new QLineEdit;
    m_wire->setPlaceholderText(tr("Master/Instance: card.port"));
    m_wire->setAccessibleName(tr("Wire for %1").arg(tr(names[lane])));
    column->addWidget(m_wire);
    m_ops = new QVBoxLayout;
    m_ops->setSpacing(2);
    column->addLayout(m_ops);
    m_add = new QToolButton;
    m_add->setText(tr("+ operation"));
    m_add->setPopupMode(QToolButton::InstantPopup);
    m_add->setToolTip(tr("Done to the lane in this order"));
    auto* menu = new QMenu(m_add);
    using K = LaneOp::Kind;
    for (K k : {K::Invert, K::Remap, K::Curve, K::Limit, K::Blur, K::Normalise, K::Dilate})
        menu->addAction(QString::fromUtf8(nameOf(k).data(), qsizetype(nameOf(k).size())), this, [this, k] { addOp(k); });
    m_add->setMenu(menu);
    column->addWidget(m_add);
    column->addSpacing(4);
    m_picture = new MapCanvas(tr("What %1 would hold").arg(tr(names[lane])));
    m_picture->setEmptyText(tr("nothing"));
    column->addWidget(m_picture, 1);
    // Long names must not push the window wide.
    for (QComboBox* box : {m_from, m_map, m_take}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(6);
    }
    m_constant->setButtonSymbols(QAbstractSpinBox::NoButtons);
    connect(m_from, &QComboBox::activated, this, [this](int i) {
        m_lane.from = Lane::From(i);
        // A lane of one's own is named after its place until a map gives it a role.
        if (m_lane.from == Lane::From::Map && m_lane.source.empty()) m_lane.source = "mask";
        refresh();
        Q_EMIT changed();
    });
    connect(m_map, &QComboBox::activated, this, [this] { Q_EMIT sourceChosen(text(m_lane.source), m_map->currentData().toString()); });
    connect(m_take, &QComboBox::activated, this, [this] {
        m_lane.take = m_take->currentData().toString().toStdString();
        Q_EMIT changed();
    });
    connect(m_constant, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        m_lane.constant = float(v);
        Q_EMIT changed();
    });
    connect(m_wire, &QLineEdit::editingFinished, this, [this] {
        m_lane.wire = m_wire->text().toStdString();
        Q_EMIT changed();
    });
}

Id LaneEditor::source() const { return m_source; }

void LaneEditor::set(const Lane& lane, const Id& source) {
    m_lane = lane;
    m_source = source;
    refresh();
}

void LaneEditor::refresh() {
    const QSignalBlocker a(m_constant), b(m_wire);
    m_from->setCurrentIndex(int(m_lane.from));
    const bool isMap = m_lane.from == Lane::From::Map;
    m_map->setVisible(isMap);
    m_take->setVisible(isMap);
    m_constant->setVisible(m_lane.from == Lane::From::Constant);
    m_wire->setVisible(m_lane.from == Lane::From::Wire);
    m_add->setVisible(m_lane.from != Lane::From::Nothing);
    m_map->clear();
    m_map->addItem(tr("%1: none yet").arg(text(m_lane.source)), QString());
    for (const auto& m : m_session.project().maps) m_map->addItem(text(m->name), text(m->id));
    m_map->setCurrentIndex(std::max(0, m_map->findData(text(m_source))));
    m_map->setToolTip(tr("The map that stands for %1").arg(text(m_lane.source)));
    m_take->setCurrentIndex(std::max(0, m_take->findData(text(m_lane.take))));
    m_constant->setValue(double(m_lane.constant));
    m_wire->setText(text(m_lane.wire));
    clear(m_ops);
    for (size_t i = 0; i < m_lane.ops.size(); ++i) {
        auto* b2 = new QToolButton;
        b2->setText(wordsOfOp(m_lane.ops[i]));
        b2->setToolTip(tr("Change or remove"));
        b2->setPopupMode(QToolButton::InstantPopup);
        auto* menu = new QMenu(b2);
        if (!numbersOf(m_lane.ops[i]).isEmpty()) menu->addAction(tr("Change"), this, [this, i] { editOp(i); });
        menu->addAction(tr("Remove"), this, [this, i] {
            m_lane.ops.erase(m_lane.ops.begin() + long(i));
            refresh();
            Q_EMIT changed();
        });
        b2->setMenu(menu);
        m_ops->addWidget(b2);
    }
}

void LaneEditor::addOp(LaneOp::Kind kind) {
    LaneOp op;
    op.kind = kind;
    if (kind == LaneOp::Kind::Curve) op.points = {{0, 0}, {0.5f, 0.5f}, {1, 1}};
    if (kind == LaneOp::Kind::Blur) op.amount = 1;
    m_lane.ops.push_back(op);
    refresh();
    Q_EMIT changed();
}

void LaneEditor::editOp(size_t index) {
    static constexpr const char* asks[] = {"",
                                           QT_TR_NOOP("From low, from high, to low, to high"),
                                           QT_TR_NOOP("Points: x y, x y, from left to right"),
                                           QT_TR_NOOP("Pixels"),
                                           "",
                                           QT_TR_NOOP("Pixels"),
                                           QT_TR_NOOP("Low, high")};
    LaneOp op = m_lane.ops[index];
    bool ok = false;
    const QString line = QInputDialog::getText(this, wordsOfOp(op), tr(asks[int(op.kind)]), QLineEdit::Normal, numbersOf(op), &ok);
    if (!ok) return;
    if (!setNumbers(op, line))
        return m_session.say(tr("%1 are not the numbers that this operation needs: %2.").arg(line, tr(asks[int(op.kind)])));
    m_lane.ops[index] = op;
    refresh();
    Q_EMIT changed();
}

} // namespace hue
