#include "app/stations/maps/lane_pictures.h"

#include "core/make/made_maps.h"

#include <QPointer>
#include <QThreadPool>

namespace hue {

constexpr int kSide = 384; ///< pixels of the longer side; panes show them at about half

LanePictures::LanePictures(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    m_settle.setSingleShot(true);
    m_settle.setInterval(60);
    connect(&m_settle, &QTimer::timeout, this, &LanePictures::begin);
}

LanePictures::~LanePictures() {
    if (m_job) *m_job = true;
    // The work holds on to the project's files.
    QThreadPool::globalInstance()->waitForDone();
}

void LanePictures::ask(const Packing& packing) {
    m_wanted = packing;
    m_settle.start();
}

void LanePictures::begin() {
    m_again = m_job != nullptr;
    if (m_again) {
        *m_job = true;
        return;
    }
    m_job = std::make_shared<std::atomic<bool>>(false);
    QThreadPool::globalInstance()->start([self = QPointer<LanePictures>(this), this, job = m_job, packing = m_wanted,
                                          snapshot = m_session.snapshot(), &assets = m_session.assets()] {
        Result<Image> image = Image{};
        if (auto request = requestOf(*snapshot, assets, packing); request) {
            request->cancelled = job.get();
            image = packPreview(std::move(*request), kSide);
        } else {
            image = request.error();
        }
        auto picture = image ? std::make_shared<const Image>(std::move(*image)) : nullptr;
        const QString problem = image ? QString() : QString::fromStdString(image.error().sentence);
        if (!self) return;
        QMetaObject::invokeMethod(this, [this, picture, problem, stopped = job->load()] {
            m_job = nullptr;
            if (!stopped) Q_EMIT ready(picture, problem);
            if (m_again) begin();
        });
    });
}

} // namespace hue
