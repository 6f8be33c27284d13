#pragma once
// What a driver says of a stage that it refuses, and which card that is about.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

#include <string>
#include <string_view>

namespace hue {

struct DriverComplaint {
    int line = 0;     ///< of the stage, from 1; 0 where the driver names none
    Id card;          ///< that the line comes from; empty for lines that come from no card
    std::string says; ///< the first complaint, without where it is
};
/// `stage`: the text that was given to the driver, written from the Program. Drivers write where an error is in one of three ways:
/// "0:12(34): error: ...", "0(12) : error C1101: ..." and "ERROR: 0:12: ...".
DriverComplaint complaintOf(const Program& program, std::string_view stage, std::string_view log);

} // namespace hue
