#pragma once
// For harnesses of files that are JSON: mostly the tree changes, sometimes the bytes do.
#include "tests/fuzz/fuzz.h"

extern "C" size_t LLVMFuzzerCustomMutator(uint8_t* data, size_t size, size_t room, unsigned seed) {
    if (seed % 4)
        if (const size_t changed = hue::fuzz::changedText(hue::fuzz::textOf(data, size), data, room, seed)) return changed;
    return LLVMFuzzerMutate(data, size, room);
}
