#pragma once
// Renders specimens on a thread of its own, so that neither a slow frame nor a driver's link ever holds up the window.
#include "app/lineup/picture_request.h"
#include "app/lineup/stand_ins.h"
#include "preview/lineup_pictures.h"

#include <QElapsedTimer>
#include <QImage>
#include <atomic>
#include <condition_variable>
#include <optional>
#include <thread>

namespace hue {

struct FinishedPicture {
    QImage picture;   ///< null when there is a problem; then the last good picture should stay
    QImage yardstick; ///< of the same size, when there is one
    QImage difference;
    std::optional<Comparison> comparison;
    QString problem;
    bool animated = false, fromEvaluator = false, fine = false;
    bool refined = false;             ///< the same once more, with more samples
    bool standIn = false;             ///< the driver's picture of the same request is still to come
    bool encoded = false;             ///< the view shows colors, encoded for the screen
    std::optional<UvDensity> density; ///< of views of a UV set
    float peak = 0;                   ///< of views that count
    float scale = 1;                  ///< share of the pixels a side that were drawn
    double seconds = 0;
    quint64 serial = 0;
};

class PictureService : public QObject {
    Q_OBJECT

  public:
    PictureService();
    ~PictureService() override;
    /// The newest request of a place in the lineup replaces older ones. After a short rest it is drawn finely: with four samples a pixel,
    /// and then with sixteen, unless something newer comes.
    void request(int place, PictureRequest request);
    /// Exact values under a pixel; the newest wish replaces older ones.
    void probe(int place, PictureRequest request, int x, int y);
    /// How much the first and the last frame of the loop differ (mean CIEDE2000 of the specimens that move).
    void measureSeam(ProjectFilesPtr files, Snapshot snapshot, QSize size);
    /// What was asked for of another project is not drawn any more, and its files are let go.
    void forget();
    int links() const { return m_links; }
    /// Nothing is being drawn and nothing waits for it, for a build or for being drawn finely.
    bool idle() const;

  Q_SIGNALS:
    void ready(int place, const hue::FinishedPicture& picture);
    void probed(int place, int x, int y, const hue::Probe& probe);
    void seamMeasured(float difference);

  private:
    struct ProbeWish {
        int place, x, y;
        PictureRequest request;
    };
    struct SeamWish {
        ProjectFilesPtr files;
        Snapshot snapshot;
        QSize size;
    };
    void run();
    void draw(Renderer& renderer, int place, PictureRequest& request, bool fine);
    /// One more pass of what is drawn finely.
    void refine(Renderer& renderer, int place);
    void answer(Renderer& renderer, const ProbeWish& wish);
    void measure(Renderer& renderer, const SeamWish& wish);

    mutable std::mutex m_mutex;
    std::condition_variable m_wake;
    std::map<int, PictureRequest> m_requests;
    std::map<int, PictureRequest> m_unlinked; ///< drawn by the evaluator, or not yet; again when a build is done
    std::map<int, PictureRequest> m_toRefine; ///< once more, with four samples a pixel, when nothing newer comes
    /// What is shown finely, and the passes so far.
    struct Refining {
        PictureRequest request;
        FinishedPicture shown;
        PictureMean mean;
    };
    std::map<int, Refining> m_refining;
    struct Pace {
        double seconds = 0;  ///< of a whole frame, smoothed
        QElapsedTimer since; ///< the last frame of something that moves
    };
    std::map<int, Pace> m_pace; ///< by place
    std::optional<ProbeWish> m_probe;
    std::optional<SeamWish> m_seam;
    bool m_built = false;
    bool m_working = false; ///< something was taken and is not done
    std::atomic<int> m_links = 0;
    bool m_quit = false;
    std::mutex m_driver;
    QString m_withoutDriver; ///< why there is none; under m_driver
    StandIns m_standIns;
    std::thread m_thread;
};

} // namespace hue
