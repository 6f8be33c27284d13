#pragma once
// Live rules of paintworks follow what they read, in the background and as no step of undo, whichever station is in sight.
#include "app/session/session.h"

#include <QTimer>
#include <set>

namespace hue {

class LivePaintService : public QObject {
    Q_OBJECT

  public:
    explicit LivePaintService(Session& session, QObject* parent = nullptr);
    bool settled() const;

  private:
    void reckon();

    Session& m_session;
    QTimer m_settled;
    std::set<std::string> m_told; ///< sentences on what could not be reckoned
};

} // namespace hue
