#include "app/stations/maps/lane_pictures.h"

#include "core/make/made_maps.h"

namespace hue {

constexpr int kSide = 384; ///< pixels of the longer side; panes show them at about half

LanePictures::LanePictures(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    m_settle.setSingleShot(true);
    m_settle.setInterval(60);
    connect(&m_settle, &QTimer::timeout, this, &LanePictures::begin);
}

void LanePictures::ask(const Packing& packing) {
    m_wanted = packing;
    m_settle.start();
}

void LanePictures::begin() {
    m_session.runner().run(
        {.owner = this, .kind = "lanes"},
        [packing = m_wanted, snapshot = m_session.snapshot(), files = m_session.files()](const Work& work) {
            auto request = requestOf(*snapshot, files->assets, packing);
            if (!request) return std::make_shared<Result<Image>>(request.error());
            request->cancelled = work.cancelled;
            return std::make_shared<Result<Image>>(packPreview(std::move(*request), kSide));
        },
        [this](const std::shared_ptr<Result<Image>>& image) {
            if (*image) Q_EMIT ready(std::make_shared<const Image>(std::move(**image)), {});
            else Q_EMIT ready(nullptr, QString::fromStdString(image->error().sentence));
        });
}

} // namespace hue
