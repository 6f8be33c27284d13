#pragma once
// Editors of values: a number with a bar to drag, one of a few names, and a color.
#include "core/base/value.h"
#include "core/document/slider.h"

#include <QWidget>
#include <functional>

class QLineEdit;

namespace hue {

/// Shows a value as a figure over a bar. Drag to change, Shift for fine steps; double click or Enter to type; arrows
/// step. Vectors show their components and are typed. One of a few names has a bar of as many parts.
class ValueField : public QWidget {
    Q_OBJECT

  public:
    explicit ValueField(QWidget* parent = nullptr);
    void setRange(float low, float high) { m_slider = {low, high}; }
    void setSlider(const Slider& slider) { m_slider = slider; }
    /// Names of the values 0, 1, ...; none for numbers.
    void setOptions(const QStringList& options);
    void setUnit(const QString& unit) { m_unit = unit; }
    /// Names before the numbers of a vector; none for others.
    void setComponents(const QStringList& names) { m_components = names; }
    /// Colors show a filled bar and their hex code; a click opens the color picker.
    void setColor(bool color) { m_color = color; }
    bool isColor() const { return m_color; }
    /// Known values, offered by the context menu.
    void setKnown(std::vector<std::pair<QString, Value>> known) { m_known = std::move(known); }
    /// Takes a value as if it had been edited.
    void take(const Value& value);
    /// What a color field calls to take a color from a specimen.
    static void setPicker(std::function<void(ValueField*)> picker);
    void setValue(const Value& value);
    /// Ink for own values, second ink for inherited ones.
    void setQuiet(bool quiet);
    /// Only figure and bar take the mouse, so that a name can stand on the line of the figure.
    void setBesideName(bool beside);
    int figureWidth() const;
    const Value& value() const { return m_value; }
    QString figure() const;
    QSize sizeHint() const override { return {90, 30}; }

  Q_SIGNALS:
    void edited(const hue::Value& value);
    void editingDone();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    void type();
    void acceptTyped();
    void pickColor();
    void pickOption();
    /// Chooses the part of the bar under the mouse.
    void takePart(qreal x);
    void change(const Value& value);

    std::vector<std::pair<QString, Value>> m_known;
    Value m_value, m_from;
    Slider m_slider;
    QStringList m_options, m_components;
    QString m_unit;
    bool m_besideName = false, m_color = false, m_quiet = false, m_dragged = false, m_pressed = false;
    QPointF m_press;
    QLineEdit* m_editor = nullptr;
};

} // namespace hue
