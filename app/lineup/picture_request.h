#pragma once
// What is asked of those who draw specimens.
#include "app/session/session.h"
#include "core/picture/picture_settings.h"

namespace hue {

struct PictureRequest {
    ProjectFilesPtr files;
    Snapshot snapshot;
    size_t index = 0; ///< of the specimen in the lineup
    Specimen specimen;
    RenderSettings settings;
    double time = 0;
    quint64 serial = 0; ///< grows with every request
    bool yardstick = false;
    bool moving = false; ///< more requests are sure to follow: fewer pixels when they would come too slowly
    /// Of a list's small pictures nobody sees more samples, and dozens of stand-ins would keep everything else waiting.
    bool small() const { return settings.width < 64; }
};

} // namespace hue
