#pragma once
// Projects of older formats, as they mean the same today.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Changes what a project of that format holds, so that it looks as it did.
void upgrade(Project& project, int format);

} // namespace hue
