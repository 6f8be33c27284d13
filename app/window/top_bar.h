#pragma once
// Name of the project, stations, masters, meters.
#include "app/stations/station.h"

#include <QWidget>

class QButtonGroup;
class QToolButton;
class QLabel;
class QComboBox;

namespace hue {

class TopBar : public QWidget {
    Q_OBJECT

  public:
    TopBar(Session& session, BoardService& service, BudgetService& budget, Commands& commands, const std::vector<StationDef>& stations,
           QWidget* parent = nullptr);
    void setMenu(class QMenu* menu);
    void setStation(int index);

  Q_SIGNALS:
    void stationChosen(int index);

  private:
    void refresh();
    /// One that comes along, or a file that is asked for; remembered from one run to the next.
    void chooseTarget(int index);
    /// Targets to choose from, as they are now.
    void fillTargets();
    Session& m_session;
    BoardService& m_service;
    BudgetService& m_budget;
    QToolButton* m_menu;
    QLabel* m_name;
    QButtonGroup* m_stations;
    QComboBox *m_master, *m_target;
    class Meter *m_operations, *m_fetches, *m_memory, *m_builds;
};

/// A figure over a bar; hatched when over its limit.
class Meter : public QWidget {
    Q_OBJECT

  public:
    Meter(const QString& name, QWidget* parent = nullptr);
    /// `least`: what stays at best, drawn apart from what comes on top of it.
    void set(double value, double limit, double least, const QString& text, const QString& tip);
    /// A mark at the most that anything of the project has; 0: none.
    void setMost(double figure, double limit);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QString m_name, m_text;
    double m_part = 0, m_least = 0, m_most = 0; ///< of the limit
};

} // namespace hue
