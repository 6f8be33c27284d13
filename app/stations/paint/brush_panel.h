#pragma once
// The brush in hand: what it does, its profile and values, and what the hand keeps to.
#include "app/parts/fields.h"
#include "app/stations/paint/paint_desk.h"

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QToolButton;

namespace hue {

/// Weight over distance from the middle. Dragging up and down sets the weight, left and right where the edge begins.
class ProfileField : public QWidget {
    Q_OBJECT

  public:
    explicit ProfileField(QWidget* parent = nullptr);
    void setBrush(const Brush& brush);
    QSize sizeHint() const override { return {170, 96}; }

  Q_SIGNALS:
    void edited(float weight, float softEdge);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override { drag(e); }
    void mouseMoveEvent(QMouseEvent* e) override { drag(e); }
    void keyPressEvent(QKeyEvent*) override;

  private:
    void drag(QMouseEvent*);
    QRectF plot() const;
    Brush m_brush;
};

class BrushPanel : public QWidget {
    Q_OBJECT

  public:
    BrushPanel(PaintDesk& desk, QWidget* parent = nullptr);
    ProfileField& profile() { return *m_profile; }

  private:
    void refresh();
    void change(const std::function<void(Brush&)>& how);

    PaintDesk& m_desk;
    QButtonGroup* m_does;
    ProfileField* m_profile;
    QToolButton* m_sizeUnit;
    ValueField *m_size, *m_weight, *m_soft, *m_build, *m_target, *m_maskLow, *m_maskHigh;
    QCheckBox *m_facing, *m_connected;
    QComboBox *m_slot, *m_mask, *m_mirror, *m_pressure;
    bool m_refreshing = false;
};

} // namespace hue
