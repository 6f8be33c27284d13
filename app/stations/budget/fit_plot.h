#pragma once
// Cost over difference: a dot for every state on the way to a target.
#include "core/suggest/suggest.h"

#include <QWidget>

namespace hue {

class FitPlot : public QWidget {
    Q_OBJECT

  public:
    explicit FitPlot(QWidget* parent = nullptr);
    void set(const std::optional<Fit>& fit);
    int chosen() const { return m_chosen; }

  Q_SIGNALS:
    void chosenChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QPointF placeOf(size_t step) const;
    void choose(int step);
    std::optional<Fit> m_fit;
    int m_chosen = -1;
    double m_mostSeen = 1, m_mostCost = 1;
};

} // namespace hue
