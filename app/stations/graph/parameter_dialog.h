#pragma once
// Asks for all that a parameter has: names, kind, range, options, when it is shown.
#include "app/session/session.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;

namespace hue {

class ParameterDialog : public QDialog {
    Q_OBJECT

  public:
    /// Of the board that the session shows.
    ParameterDialog(Session& session, const Parameter& parameter, QWidget* parent);

  private:
    /// Fields that the chosen kind has; the others are hidden.
    void showFields();
    /// What is entered; says what cannot be read.
    std::optional<Parameter> entered() const;
    void change();
    ParameterType kind() const;

    Session& m_session;
    const Parameter m_before;
    QFormLayout* m_form;
    QLineEdit *m_name, *m_code, *m_group, *m_description, *m_unit, *m_options, *m_soft, *m_step, *m_hard, *m_components, *m_strongest, *m_pixels, *m_channels;
    QComboBox *m_kind, *m_curve, *m_shown, *m_follows;
    QCheckBox *m_build, *m_alpha;
    QLabel* m_cost;
};

/// Opens it for a parameter of the shown board; nothing where that has none such.
void editParameter(Session& session, const Id& parameter, QWidget* parent);

} // namespace hue
