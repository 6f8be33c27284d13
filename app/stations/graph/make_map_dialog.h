#pragma once
// Maps out of wires: size, format, seamless; and whether they take the wires' places.
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
    MakeMapDialog(Session& session, MapService& service, std::vector<Source> wires, QWidget* parent = nullptr);
    void accept() override;

  private:
    void estimate();
    Session& m_session;
    MapService& m_service;
    std::vector<Source> m_wires;
    std::vector<int> m_widths; ///< components of each
    std::vector<QLineEdit*> m_names;
    QComboBox *m_size, *m_samples;
    QCheckBox *m_seamless, *m_replace;
    QLabel* m_said;
};

} // namespace hue
