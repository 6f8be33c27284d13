#pragma once
// Editors of values: a number with a bar to drag, and a color.
#include "core/base/value.h"

#include <QWidget>
#include <functional>

class QLineEdit;

namespace hue {

/// Shows a value as a figure over a bar. Drag to change, Shift for fine steps; double click or Enter to type; arrows
/// step. Vectors show their components and are typed.
class ValueField : public QWidget {
    Q_OBJECT

  public:
    explicit ValueField(QWidget* parent = nullptr);
    void setRange(float low, float high) { m_low = low, m_high = high; }
    void setUnit(const QString& unit) { m_unit = unit; }
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
    void change(const Value& value);

    std::vector<std::pair<QString, Value>> m_known;
    Value m_value, m_from;
    float m_low = 0, m_high = 1;
    QString m_unit;
    bool m_besideName = false, m_color = false, m_quiet = false, m_dragged = false, m_pressed = false;
    QPointF m_press;
    QLineEdit* m_editor = nullptr;
};

} // namespace hue
