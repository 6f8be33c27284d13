#pragma once
// A curve or a gradient: a strip that shows it, and beneath, when unfolded, its points to be moved.
#include "core/document/drawn.h"

#include <QWidget>

class QComboBox;
class QToolButton;

namespace hue {

class ValueField;

/// The plot with its points. Drag moves a point, a double click sets one, Delete takes it away; arrows move the chosen one (Shift: fine
/// steps), Page Up and Page Down choose its neighbours.
class DrawnPlot : public QWidget {
    Q_OBJECT

  public:
    explicit DrawnPlot(QWidget* parent = nullptr);
    void setDrawn(const Drawn& drawn);
    const Drawn& drawn() const { return m_drawn; }
    size_t chosen() const { return m_chosen; }
    void choose(size_t point);
    /// In the middle of the widest gap, with the value there, chosen.
    void addPoint();
    void removePoint();
    /// Replaces the chosen one; it keeps between its neighbours.
    void change(const DrawnPoint& point);
    void setBetween(Between between);
    void setQuiet(bool quiet);
    /// Where a point is drawn.
    QPointF placeOf(size_t point) const;

  Q_SIGNALS:
    void edited();
    void editingDone();
    void chosenChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    QRectF plot() const;
    /// Lowest and highest value that it shows; they stay while a point is dragged.
    std::pair<float, float> range() const;
    DrawnPoint under(QPointF at) const;
    void addAt(float at);
    void take(Drawn drawn);

    Drawn m_drawn = plainDrawn(Drawn::Kind::Curve);
    size_t m_chosen = 0;
    bool m_dragging = false, m_moved = false, m_quiet = false;
    std::pair<float, float> m_rangeOfDrag;
};

class DrawnField : public QWidget {
    Q_OBJECT

  public:
    explicit DrawnField(QWidget* parent = nullptr);
    void setName(const QString& name);
    void setDrawn(const Drawn& drawn);
    void setQuiet(bool quiet);
    bool isUnfolded() const;
    void setUnfolded(bool unfolded);
    /// What it takes, folded or unfolded.
    int neededHeight() const;
    DrawnPlot* plot() const { return m_plot; }

  Q_SIGNALS:
    /// With the text of the curve or gradient.
    void edited(const std::string& text);
    void editingDone();
    void folded();

  protected:
    void resizeEvent(QResizeEvent*) override;

  private:
    void showChosen();
    DrawnPlot* m_plot;
    QToolButton* m_fold;
    QWidget* m_tools;
    QComboBox* m_between;
    ValueField *m_at, *m_value, *m_alpha;
    bool m_showing = false; ///< what comes from the plot is no edit
};

/// A picture of it, as a strip.
QImage stripOf(const Drawn& drawn, int width);

} // namespace hue
