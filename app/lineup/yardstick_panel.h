#pragma once
// What the specimens are compared against, how it is shown, and the numbers.
#include "app/session/session.h"
#include "core/compare/compare.h"

#include <QFrame>

class QComboBox;
class QLabel;

namespace hue {

class LineupView;
class ValueField;

/// Both pictures' histograms in one plot, component by component.
class HistogramPlot : public QWidget {
    Q_OBJECT

  public:
    explicit HistogramPlot(QWidget* parent = nullptr);
    void show(const std::optional<Comparison>& comparison);
    QSize sizeHint() const override { return {300, 150}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::optional<Comparison> m_comparison;
};

class YardstickPanel : public QFrame {
    Q_OBJECT

  public:
    YardstickPanel(Session& session, LineupView& lineup);
    void refresh();
    void showNumbers();
    QComboBox* whatBox() const { return m_what; }
    QComboBox* showBox() const { return m_show; }

  protected:
    void showEvent(QShowEvent*) override { refresh(); }

  private:
    void choose(int index);

    Session& m_session;
    LineupView& m_lineup;
    QComboBox *m_what, *m_show;
    std::array<QComboBox*, 4> m_maps;
    std::array<QLabel*, 4> m_mapNames;
    ValueField* m_gain;
    QLabel *m_gainName, *m_numbers;
    HistogramPlot* m_plot;
    std::vector<Yardstick> m_choices;
};

} // namespace hue
