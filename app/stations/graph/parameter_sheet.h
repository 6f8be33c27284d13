#pragma once
// The parameters of the shown master, for itself or for one of its instances.
#include "app/parts/commands.h"
#include "app/session/session.h"

#include <QWidget>
#include <set>

class QComboBox;
class QLabel;
class QMenu;
class QScrollArea;
class QVBoxLayout;
class QPushButton;
class QToolButton;

namespace hue {

class ValueField;
class ParameterRow;

class ParameterSheet : public QWidget {
    Q_OBJECT

  public:
    ParameterSheet(Session& session, Commands& commands, QWidget* parent = nullptr);
    ParameterRow* row(const Id& parameter) const;
    /// Of the shown build: parameters that nothing of it reads. They are struck through.
    void setIdle(std::set<Id> idle);

  private:
    void rebuild();
    void refresh();
    void fillPresets(QMenu* menu);
    void fillSets(QMenu* menu);
    void findWarnings();
    /// Hides what another parameter hides.
    void showRows();
    /// Whether the rows are those of the shown master.
    bool rowsFit() const;

    Session& m_session;
    QComboBox* m_target;
    QLabel* m_worn;
    QWidget* m_body;
    QVBoxLayout* m_column;
    std::vector<ParameterRow*> m_rows;
    bool m_hasHint = false; ///< in the place of rows
    std::set<Id> m_idle;
    std::map<Id, QStringList> m_warnings;                     ///< of the ranges, by parameter
    std::vector<std::pair<QWidget*, std::string>> m_headings; ///< by group
    QComboBox* m_changes;                                     ///< who gets what is changed; hidden unless several wear the instance
    QToolButton *m_presets, *m_sets;
    QToolButton* m_builds; ///< how many of its builds are in use; hidden for a master without build choices
    QWidget* m_ownSurface;
    QToolButton *m_alphaMode, *m_sides;
    ValueField* m_cutoff;
};

} // namespace hue
