#pragma once
// The scene that all specimens stand in: light, its turn, sun, exposure, tone curve, glare, backdrop.
#include "app/session/session.h"

#include <QFrame>

class QComboBox;

namespace hue {

class LineupView;
class ValueField;

class ScenePanel : public QFrame {
    Q_OBJECT

  public:
    ScenePanel(Session& session, LineupView& lineup);
    void refresh();
    QComboBox* lightBox() const { return m_light; }
    QComboBox* toneBox() const { return m_tone; }
    QComboBox* backdropBox() const { return m_backdrop; }
    ValueField* field(const QString& key) const { return m_fields.at(key); }

  protected:
    void showEvent(QShowEvent*) override { refresh(); }

  private:
    void chooseLight(int index);

    Session& m_session;
    LineupView& m_lineup;
    QComboBox *m_light, *m_tone, *m_backdrop;
    std::map<QString, ValueField*> m_fields;
};

} // namespace hue
