#pragma once
// Names that people give, and those that follow from them.
// Threads: any. Nothing is kept between calls.
#include <string>
#include <vector>

namespace hue {

/// A name that no entry of the list bears yet: the wanted one, or with the next number behind that is free.
std::string freeName(const std::vector<std::string>& taken, const std::string& wanted);
/// A name in code that no entry of the list bears yet: the wanted one, or with "_2" behind.
std::string freeCodeName(const std::vector<std::string>& taken, std::string wanted);
/// "Panel width" -> "panel_width".
std::string codeNameFrom(const std::string& name);

} // namespace hue
