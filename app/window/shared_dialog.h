#pragma once
// The shared parameters of a project: what each is, whether it moves, and who follows it.
#include "app/session/session.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QWidget;

namespace hue {

class ValueField;

class SharedDialog : public QDialog {
    Q_OBJECT

  public:
    SharedDialog(Session& session, QWidget* parent);

  private:
    const SharedParameter* chosen() const;
    void refresh();
    void showChosen();
    void add(ParameterType type);
    /// One step of undo for a row of changes of one kind.
    void change(const QString& what, const std::function<void(SharedParameter&)>& take);

    Session& m_session;
    QListWidget* m_list;
    QWidget* m_fields;
    QLineEdit *m_name, *m_unit, *m_range, *m_period;
    ValueField *m_value, *m_until;
    QComboBox* m_moves;
    QLabel* m_followers;
    QPushButton* m_remove;
};

} // namespace hue
