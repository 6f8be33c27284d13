#pragma once
// Where this was built from, and what was built with it. Asked of one file, so that all others compile to the same in every checkout.
#include <string>

namespace hue::test {

const std::string& sourceFolder();
const std::string& depotFolder(); ///< of the demo
const std::string& depotFile();   ///< its project
const std::string& hskProgram();
const std::string& depotMaker();
const std::string& faultsLibrary(); ///< makes calls fail in a program that is started with it

} // namespace hue::test
