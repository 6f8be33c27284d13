#pragma once
// Pictures of all masters and instances, kept in a folder to be compared with later.
#include "cli/opened.h"

#include <string>

namespace CLI {
class App;
}

namespace hue::cli {

struct PictureCheck {
    std::string folder; ///< of the kept pictures
    std::string sheet;  ///< FILE.png: those that differ, as they were kept and as they are
    bool keep = false;  ///< draw and keep them, whatever was there
    double limit = 1;   ///< CIEDE2000, mean over the picture
};
/// Every master and instance against its kept picture; prints what differs beyond the limit, the most first, what is new and what is gone.
/// 0 where nothing differs, 1 where something does, 2 where it cannot be done.
int checkPictures(Opened& opened, const PictureCheck& check);

} // namespace hue::cli
