#pragma once
// How a specimen repeats its mesh; what is set shows at once.
#include "app/session/session.h"

#include <QDialog>

class QComboBox;
class QDoubleSpinBox;
class QSpinBox;

namespace hue {

class PlacementsDialog : public QDialog {
    Q_OBJECT

  public:
    PlacementsDialog(Session& session, size_t specimen, QWidget* parent);

  private:
    /// What the fields say; none for one that stands once.
    std::optional<Placements> placements() const;
    void fill(const std::optional<Placements>& placements);
    void apply();

    Session& m_session;
    size_t m_specimen;
    std::string m_extra; ///< what the placements hold that this version does not know
    QComboBox* m_form;
    QSpinBox *m_count, *m_rows;
    QDoubleSpinBox *m_spacing, *m_turn, *m_lift, *m_size;
    bool m_showing = false;
};

} // namespace hue
