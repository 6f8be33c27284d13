#pragma once
// Renders specimens on a thread of its own, so that neither a slow frame nor a driver's link ever holds up the window.
#include "app/session.h"
#include "preview/renderer.h"

#include <QImage>
#include <condition_variable>
#include <thread>

namespace hue {

struct PictureRequest {
    Snapshot snapshot;
    Specimen specimen;
    RenderSettings settings;
    double time = 0;
    quint64 serial = 0; ///< grows with every request
};

class PictureService : public QObject {
    Q_OBJECT

  public:
    explicit PictureService(Session& session);
    ~PictureService() override;
    /// The newest request of a place in the lineup replaces older ones. After a short rest it is drawn finely.
    void request(int place, PictureRequest request);
    int links() const { return m_links; }

  Q_SIGNALS:
    /// `problem` is empty when all is well; then the picture is new. With a problem the last good picture should stay.
    void ready(int place, const QImage& picture, const QString& problem, bool animated, quint64 serial);

  private:
    void run();

    Session& m_session;
    std::mutex m_mutex;
    std::condition_variable m_wake;
    std::map<int, PictureRequest> m_requests;
    std::atomic<int> m_links = 0;
    bool m_quit = false;
    std::thread m_thread;
};

} // namespace hue
