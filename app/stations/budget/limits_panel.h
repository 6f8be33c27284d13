#pragma once
// The left of the budget: limits of the target, what a compiler measured, versions that are kept.
#include "app/session/budget_service.h"

#include <QWidget>

class QLabel;
class QListWidget;
class QTreeWidget;
class QVBoxLayout;

namespace hue {

/// One limit: its name, the figure against it, and a bar that is hatched when over.
class LimitBar : public QWidget {
    Q_OBJECT

  public:
    explicit LimitBar(QWidget* parent = nullptr);
    void set(const Against& against);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QString m_name, m_figure;
    double m_share = 0;
    bool m_over = false, m_limited = false;
};

class LimitsPanel : public QWidget {
    Q_OBJECT

  public:
    LimitsPanel(Session& session, BudgetService& budget, QWidget* parent = nullptr);

  private:
    void showLimits();
    void showFamilies();
    void showVersions();
    void keep();
    void compareVersion(int k);
    Session& m_session;
    BudgetService& m_budget;
    QLabel *m_target, *m_formats, *m_steps;
    QTreeWidget* m_families;
    QVBoxLayout* m_bars;
    std::vector<LimitBar*> m_rows;
    QListWidget* m_versions;
};

} // namespace hue
