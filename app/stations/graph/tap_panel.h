#pragma once
// Shows what a wire carries: flat, as histogram, as plot, in numbers.
#include "app/parts/commands.h"
#include "app/session/session.h"
#include "core/tap/tap.h"

#include <QImage>
#include <QWidget>

class QComboBox;
class QLabel;
class QToolButton;

namespace hue {

/// Curves of the components over an axis; dragging over a time axis moves the clock.
class CoursePlot : public QWidget {
    Q_OBJECT

  public:
    explicit CoursePlot(QWidget* parent = nullptr);
    void show(const TapFacts& facts, double now);
    /// The value at a share of the axis, as the readout says it.
    QString readoutAt(double share) const;
    QSize sizeHint() const override { return {230, 116}; }

  Q_SIGNALS:
    void scrubbed(double share);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    QRectF box() const;
    TapFacts m_facts;
    double m_now = 0, m_hover = -1;
};

class SharesPlot : public QWidget {
    Q_OBJECT

  public:
    explicit SharesPlot(QWidget* parent = nullptr);
    void show(const TapFacts& facts);
    QSize sizeHint() const override { return {230, 76}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    TapFacts m_facts;
};

class TapPanel : public QWidget {
    Q_OBJECT

  public:
    TapPanel(Session& session, Commands& commands, QWidget* parent = nullptr);
    void tap(const Source& wire);
    const Source& wire() const { return m_wire; }
    const TapFacts& facts() const { return m_facts; }
    bool upToDate() const;
    QComboBox* axisBox() const { return m_axis; }
    CoursePlot* plot() const { return m_plot; }
    QString numbers() const;

  Q_SIGNALS:
    /// The wire should show on the mesh, or no longer.
    void meshWanted(const hue::Source& wire);
    void closed();

  protected:
    void showEvent(QShowEvent*) override { ask(); }

  private:
    void ask();
    void receive(const TapFacts& facts);
    void fillAxes();
    TapAxis axis() const;

    Session& m_session;
    Source m_wire;
    TapFacts m_facts;
    bool m_axisChosen = false;
    QLabel *m_title, *m_picture, *m_numbers;
    QComboBox* m_axis;
    SharesPlot* m_shares;
    CoursePlot* m_plot;
};

} // namespace hue
