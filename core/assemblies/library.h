#pragma once
// Assemblies that come with the program: what nearly every master of a scene needs once.
// Threads: any. Made once and never changed.
#include "core/document/project.h"

namespace hue {

/// Two moving normals, Edge glow, Height-aware border, Soft border by depth, Grime by height, Moving bands, Slow swell, Detail normal,
/// Packed map. A project gets one with the first card that stands for it, and may change it then.
const std::vector<AssemblyPtr>& assemblyLibrary();

} // namespace hue
