#pragma once
// What a graphics card's compiler makes of stages, on a machine that may have no card: Mesa's RADV driver compiles for a family that is
// named, and tells what it made. Each family is asked in a process of its own, which may crash or hang.
// Threads: any. Nothing is kept between calls.
#include "core/base/work.h"
#include "core/measure/deferred_stages.h"

#include <filesystem>
#include <map>
#include <span>

namespace hue {

/// A generation of graphics cards, by the name that the driver has for one of them.
struct Family {
    std::string_view key;  ///< as the driver takes it
    std::string_view name; ///< for people: what its compute units are called, and when it came
};
std::span<const Family> families();
/// Error: measure.family, with those there are.
Result<Family> findFamily(const std::string& key);

/// One stage, with figures under the driver's own names.
struct StageFigures {
    std::string name;
    std::map<std::string, double> figures;
    bool operator==(const StageFigures&) const = default;
};

/// What came of a pair of stages. Figures are 0 where the driver does not tell them.
struct Reading {
    std::vector<StageFigures> stages;
    const StageFigures* stage(std::string_view name) const;
    double pixel(const std::string& figure) const;  ///< of the fragment stage
    double vertex(const std::string& figure) const; ///< of the vertex stage
    bool operator==(const Reading&) const = default;
};

/// Figures of the driver that people ask for.
inline constexpr const char *kInstructions = "Instructions", *kVectorRegisters = "VGPRs", *kScalarRegisters = "SGPRs",
                            *kSpilledVectors = "Spilled VGPRs", *kOccupancy = "Subgroups per SIMD", *kLatency = "Latency",
                            *kThroughput = "Inverse Throughput";

struct DriverPlace {
    std::filesystem::path program; ///< huestack-measure; empty: beside this program, or what HUESTACK_MEASURE names
    std::filesystem::path driver;  ///< the driver's description for the loader; empty: where the package puts it
    double patience = 20;          ///< seconds for one pair
};

/// Empty when there is something to measure with, else what is missing and which package brings it.
std::string whyNotMeasured(const DriverPlace& place = {});

/// One result for each pair, in their order. Where the process dies or takes too long over a pair, that pair has an error and the others go
/// on in a new one. Errors: measure.no-driver, measure.no-program, measure.family, measure.died, measure.slow, measure.refused, stopped.
std::vector<Result<Reading>> compiledFor(const Family& family, std::span<const StagePair> pairs, const DriverPlace& place = {},
                                         const Work& work = {});

/// A reading as a line of JSON, and back; for the cache and for reports.
std::string readingText(const Reading& reading);
Result<Reading> readingFrom(const std::string& text);

} // namespace hue
