#include "tests/places.h"

namespace hue::test {

const std::string& sourceFolder() {
    static const std::string folder = HUE_SOURCE_DIR;
    return folder;
}
const std::string& depotFolder() {
    static const std::string folder = sourceFolder() + "/demo/depot";
    return folder;
}
const std::string& depotFile() {
    static const std::string file = depotFolder() + "/depot.huestack";
    return file;
}
const std::string& hskProgram() {
    static const std::string program = HUE_HSK;
    return program;
}
const std::string& depotMaker() {
    static const std::string program = HUE_MAKE_DEPOT;
    return program;
}
const std::string& faultsLibrary() {
    static const std::string library = HUE_FAULTS;
    return library;
}

} // namespace hue::test
