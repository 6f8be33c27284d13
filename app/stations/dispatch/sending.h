#pragma once
// What the station Dispatch does in the background.
// Threads: any. Nothing is kept between calls.
#include "core/dispatch/dispatch.h"

#include <QStringList>

namespace hue {

struct Sending {
    enum class What {
        Worn,     ///< on a mesh of choice
        Specimen, ///< as it stands
        Decals    ///< of a specimen, by themselves
    } what = What::Worn;
    bool glb = false; ///< else maps in a folder
    Id worn, mesh;
    Specimen specimen{};
    int size = 1024, uvSet = 0;
    double time = 0;
    std::string file; ///< without a suffix; the folder of the maps
};

struct Sent {
    bool ok = true;
    QStringList lines; ///< what was written and what to know of it, or what went wrong
};
Sent send(const Project& project, Assets& assets, const Sending& what, const Work& work);

} // namespace hue
