#pragma once
// The budget: what is worn against a target, where its cost goes, and ways to make it cheaper.
#include "app/session/budget_service.h"
#include "app/stations/station.h"

class QButtonGroup;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedWidget;
class QTreeWidget;
class QTreeWidgetItem;

namespace hue {

class FitPlot;
class HistoryView;
class LineupCostView;
class LimitsPanel;
class SuggestionList;

class BudgetPage : public Station {
    Q_OBJECT

  public:
    explicit BudgetPage(Workplace& place);
    void arrive() override;
    int stripHeight() const override { return 150; } // tables need room
    void addCommands() override;
    QTreeWidget* ledger() const { return m_ledger; }
    QTreeWidget* matrix() const { return m_matrix; }
    QTreeWidget* maps() const { return m_maps; }
    HistoryView* history() const { return m_history; }
    LineupCostView* picture() const { return m_picture; }

  protected:
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override;

  private:
    void showFacts();
    void showFit();
    void showBusy(float share);
    void fillLedger();
    void fillMatrix();
    void fillMaps();
    void filter();
    void copy();
    void lead(const QTreeWidgetItem* item);
    Family family() const;

    Session& m_session;
    BudgetService& m_budget;
    LimitsPanel* m_limits;
    QLabel *m_head, *m_kinds, *m_hint;
    QComboBox* m_family;
    QLineEdit* m_filter;
    QButtonGroup* m_views;
    QStackedWidget* m_pages;
    QTreeWidget *m_ledger, *m_matrix, *m_maps;
    QPushButton *m_rests, *m_find, *m_fit, *m_takeFit, *m_stop;
    QLabel* m_fitWords;
    SuggestionList* m_suggestions;
    FitPlot* m_plot;
    LineupCostView* m_picture;
    HistoryView* m_history;
};

} // namespace hue
