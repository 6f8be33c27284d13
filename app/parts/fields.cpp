#include "app/parts/fields.h"

#include "app/parts/theme.h"
#include "app/parts/value_text.h"

#include <QColorDialog>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>

namespace hue {
namespace {

QColor encoded(const Value& v) {
    auto byte = [](float x) { return int(std::lround(std::clamp(linearToSrgb(std::max(x, 0.f)), 0.f, 1.f) * 255)); };
    return QColor(byte(v[0]), byte(v[1]), byte(v[2]));
}

} // namespace

ValueField::ValueField(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::SizeHorCursor);
    setFixedHeight(30);
}

void ValueField::setValue(const Value& value) {
    m_value = value;
    setCursor(m_color || !m_options.isEmpty() ? Qt::PointingHandCursor : value.width == 1 ? Qt::SizeHorCursor : Qt::IBeamCursor);
    if (m_besideName && !(m_editor && m_editor->isVisible())) resizeEvent(nullptr);
    update();
}

void ValueField::setQuiet(bool quiet) {
    m_quiet = quiet;
    update();
}

void ValueField::setBesideName(bool beside) {
    m_besideName = beside;
    resizeEvent(nullptr);
}

void ValueField::resizeEvent(QResizeEvent*) {
    if (!m_besideName) return clearMask();
    setMask(QRegion(0, height() - 12, width(), 12) | QRegion(width() - figureWidth(), 0, figureWidth(), height()));
}

void ValueField::setOptions(const QStringList& options) {
    if (options == m_options) return;
    m_options = options;
    update();
}

QString ValueField::figure() const {
    if (!m_options.isEmpty()) return m_options.value(int(std::lround(m_value[0])));
    if (m_components.size() == m_value.width && m_value.width > 1) {
        QStringList parts;
        for (int c = 0; c < m_value.width; ++c) parts << m_components[c] + " " + numberText(m_value[c]);
        return parts.join("  ");
    }
    return valueText(m_value, m_color) + (m_unit.isEmpty() ? QString() : " " + m_unit);
}

int ValueField::figureWidth() const { return std::max(44, QFontMetrics(codeFont(12)).horizontalAdvance(figure()) + 8); }

void ValueField::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const QRectF bar(0.5, height() - 10.5, width() - 1, 8);
    p.setFont(codeFont(12));
    p.setPen(m_quiet ? t.ink2 : t.ink);
    p.drawText(QRect(0, 0, width(), height() - 11), Qt::AlignRight | Qt::AlignVCenter, figure());
    p.setPen(QPen(m_quiet ? t.hairline : t.ink2, 1));
    p.setBrush(m_color ? QBrush(encoded(m_value)) : QBrush(t.card));
    if (m_color || m_value.width == 1) p.drawRect(bar);
    if (!m_options.isEmpty()) {
        const qreal part = bar.width() / m_options.size();
        for (int k = 0; k < m_options.size(); ++k) {
            const QRectF here(bar.left() + k * part, bar.top(), part, bar.height());
            if (k > 0) p.drawLine(QPointF(here.left(), here.top()), QPointF(here.left(), here.bottom()));
            if (k == int(std::lround(m_value[0]))) p.fillRect(here.adjusted(0, 1, 0, 0), m_quiet ? t.hairline : t.ink);
        }
    } else if (!m_color && m_value.width == 1 && m_slider.high > m_slider.low) {
        const qreal part = placeOn(m_slider, m_value[0]);
        p.fillRect(QRectF(bar.left(), bar.top() + 1, bar.width() * part, bar.height() - 1), m_quiet ? t.hairline : t.ink);
    }
    if (hasFocus()) {
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(m_besideName ? QRect(width() - figureWidth(), 0, figureWidth() - 1, height() - 1) : rect().adjusted(0, 0, -1, -1));
    }
}

void ValueField::change(const Value& value) {
    if (value == m_value) return;
    m_value = value;
    update();
    Q_EMIT edited(m_value);
}

void ValueField::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    m_press = e->position();
    m_from = m_value;
    m_dragged = false;
    m_pressed = true;
    if (!m_options.isEmpty() && e->position().y() >= height() - 13) takePart(e->position().x());
}

void ValueField::takePart(qreal x) {
    const int part = int(std::clamp(x / std::max(width(), 1), 0.0, 0.999) * double(m_options.size()));
    change(Value::number(float(part)));
}

void ValueField::mouseMoveEvent(QMouseEvent* e) {
    if (!m_pressed || m_color || m_value.width != 1) return;
    const qreal moved = e->position().x() - m_press.x();
    if (!m_dragged && std::fabs(moved) < 3) return;
    m_dragged = true;
    if (!m_options.isEmpty()) return takePart(e->position().x());
    const float fine = e->modifiers() & Qt::ShiftModifier ? 0.1f : 1.f;
    const float way = float(moved) / float(std::max(width(), 60)) * fine;
    change(Value::number(valueAt(m_slider, placeOn(m_slider, m_from[0]) + way)));
}

void ValueField::mouseReleaseEvent(QMouseEvent* e) {
    if (m_pressed && !m_dragged && m_color) pickColor();
    if (m_pressed && !m_dragged && !m_options.isEmpty()) {
        if (e->position().y() < height() - 13) pickOption();
        else Q_EMIT editingDone();
    }
    if (m_dragged) Q_EMIT editingDone();
    m_pressed = m_dragged = false;
}

void ValueField::mouseDoubleClickEvent(QMouseEvent*) {
    m_pressed = false;
    if (!m_color && m_options.isEmpty()) type();
}

void ValueField::keyPressEvent(QKeyEvent* e) {
    const int direction = e->key() == Qt::Key_Right || e->key() == Qt::Key_Up    ? 1
                          : e->key() == Qt::Key_Left || e->key() == Qt::Key_Down ? -1
                                                                                 : 0;
    if (direction && m_value.width == 1 && !m_color) {
        if (!m_options.isEmpty())
            change(Value::number(std::clamp(std::round(m_value[0]) + float(direction), 0.f, float(m_options.size() - 1))));
        else change(Value::number(stepped(m_slider, m_value[0], direction, e->modifiers() & Qt::ShiftModifier)));
    } else if (!m_options.isEmpty() && e->key() == Qt::Key_Space) {
        change(Value::number(float((int(std::lround(m_value[0])) + 1) % m_options.size())));
    } else if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
        if (m_options.isEmpty()) type();
        else pickOption();
    } else if (e->key() == Qt::Key_Space && m_color) {
        pickColor();
    } else {
        QWidget::keyPressEvent(e);
    }
}

void ValueField::type() {
    if (!m_editor) {
        m_editor = new QLineEdit(this);
        m_editor->setFont(codeFont());
        m_editor->setAlignment(Qt::AlignRight);
        connect(m_editor, &QLineEdit::editingFinished, this, &ValueField::acceptTyped);
    }
    const int w = m_besideName ? std::max(92, figureWidth()) : width();
    clearMask();
    m_editor->setGeometry(width() - w, 0, w, height() - 4);
    m_editor->setText(valueText(m_value, m_color));
    m_editor->selectAll();
    m_editor->show();
    m_editor->setFocus();
}

void ValueField::acceptTyped() {
    if (!m_editor->isVisible()) return;
    m_editor->hide();
    resizeEvent(nullptr);
    setFocus();
    Value value;
    // Typing may leave the slider's range; hard limits are kept where the value goes.
    if (valueFromText(m_editor->text(), m_value.width, value)) change(value);
    Q_EMIT editingDone();
}

namespace {
std::function<void(ValueField*)> g_picker;
}

void ValueField::setPicker(std::function<void(ValueField*)> picker) { g_picker = std::move(picker); }

void ValueField::take(const Value& value) {
    change(value);
    Q_EMIT editingDone();
}

void ValueField::contextMenuEvent(QContextMenuEvent* e) {
    if (!m_color && m_known.empty()) return QWidget::contextMenuEvent(e);
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    if (m_color) {
        menu->addAction(tr("Choose a color"), this, &ValueField::pickColor);
        menu->addAction(tr("Take from a specimen (Ctrl+K)"), this, [this] {
            if (g_picker) g_picker(this);
        });
    }
    if (!m_known.empty()) menu->addSeparator();
    for (const auto& [name, value] : m_known) menu->addAction(name, this, [this, v = value] { take(v); });
    menu->popup(e->globalPos());
}

void ValueField::pickOption() {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (int k = 0; k < m_options.size(); ++k) {
        QAction* option = menu->addAction(m_options[k], this, [this, k] { take(Value::number(float(k))); });
        option->setCheckable(true);
        option->setChecked(k == int(std::lround(m_value[0])));
        if (option->isChecked()) menu->setActiveAction(option);
    }
    menu->popup(mapToGlobal(QPoint(width() - std::min(width(), 140), height())));
}

void ValueField::pickColor() {
    auto* dialog = new QColorDialog(encoded(m_value), window());
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QColorDialog::DontUseNativeDialog);
    dialog->setWindowTitle(tr("Choose a color"));
    const Value before = m_value;
    connect(dialog, &QColorDialog::currentColorChanged, this, [this](const QColor& c) {
        change(Value::vec3(srgbToLinear(float(c.redF())), srgbToLinear(float(c.greenF())), srgbToLinear(float(c.blueF()))));
    });
    connect(dialog, &QColorDialog::rejected, this, [this, before] { change(before); });
    connect(dialog, &QColorDialog::finished, this, &ValueField::editingDone);
    dialog->open();
}

} // namespace hue
