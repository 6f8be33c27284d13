#pragma once
// A map out of a wire: size, format, seamless; and whether it takes the wire's place.
#include "app/session/map_service.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;

namespace hue {

class MakeMapDialog : public QDialog {
    Q_OBJECT

  public:
    MakeMapDialog(Session& session, MapService& service, const Source& wire, QWidget* parent = nullptr);
    void accept() override;

  private:
    void estimate();
    Session& m_session;
    MapService& m_service;
    Source m_wire;
    int m_width = 0;
    QLineEdit* m_name;
    QComboBox *m_size, *m_samples;
    QCheckBox *m_seamless, *m_replace;
    QLabel* m_said;
};

} // namespace hue
