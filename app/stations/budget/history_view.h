#pragma once
// What something cost each time it was recorded.
#include "app/session/budget_service.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;

namespace hue {

/// Figures in their order, as a line over the limit.
class HistoryPlot : public QWidget {
    Q_OBJECT

  public:
    explicit HistoryPlot(QWidget* parent = nullptr);
    struct Point {
        QString when;
        double figure = 0;
    };
    void set(std::vector<Point> points, double limit, const QString& unit);
    const std::vector<Point>& points() const { return m_points; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::vector<Point> m_points;
    double m_limit = 0;
    QString m_unit;
};

class HistoryView : public QWidget {
    Q_OBJECT

  public:
    HistoryView(Session& session, BudgetService& budget, QWidget* parent = nullptr);
    HistoryPlot* plot() const { return m_plot; }
    void refresh();

  private:
    void record();
    Session& m_session;
    BudgetService& m_budget;
    QComboBox* m_figure;
    HistoryPlot* m_plot;
    QPushButton* m_record;
    QLabel* m_words;
};

} // namespace hue
