// Any bytes as a DDS file.
#include "tests/fuzz/block_file.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    hue::fuzz::blockFile(hue::readDds({reinterpret_cast<const std::byte*>(data), size}, "input"));
    return 0;
}
