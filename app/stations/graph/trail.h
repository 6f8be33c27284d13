#pragma once
// Above the board of an assembly: the way there, each step a button that leads back.
#include "app/session/session.h"

#include <QWidget>

class QHBoxLayout;

namespace hue {

class Trail : public QWidget {
    Q_OBJECT

  public:
    explicit Trail(Session& session, QWidget* parent = nullptr);

  private:
    void refresh();

    Session& m_session;
    QHBoxLayout* m_row;
};

} // namespace hue
