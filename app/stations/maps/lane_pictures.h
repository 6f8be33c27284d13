#pragma once
// Small pictures of what the lanes of a recipe would hold, made in the background; only the newest wish counts.
#include "app/session/session.h"
#include "core/images/image.h"

#include <QTimer>

namespace hue {

class LanePictures : public QObject {
    Q_OBJECT

  public:
    explicit LanePictures(Session& session, QObject* parent = nullptr);
    /// Asks for pictures soon; further wishes within a moment take the place of this one.
    void ask(const Packing& packing);

  Q_SIGNALS:
    /// The packed map in small, 8-bit; or why there is none.
    void ready(std::shared_ptr<const Image> image, const QString& problem);

  private:
    void begin();

    Session& m_session;
    Packing m_wanted;
    QTimer m_settle;
};

} // namespace hue
