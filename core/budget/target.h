#pragma once
// What a kind of machine can bear: limits that the cost of a material is held against. docs/budget.md has the reasons of the figures.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"

#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace hue {

/// Of each limit 0 says that there is none.
struct Limits {
    float operations = 0;       ///< scalar, per pixel
    float vertexOperations = 0; ///< scalar, per vertex
    float fetches = 0;          ///< of maps, per pixel
    float dependentFetches = 0; ///< of these: whose UV depends on another fetch
    float samplers = 0;
    float registers = 0;        ///< numbers that wait at once at the worst point of the pixel stage
    float carried = 0;          ///< numbers that triangles carry from vertices to pixels
    float mapMegabytes = 0;     ///< of one surface, 1e6 bytes
    float projectMegabytes = 0; ///< of all maps that are worn together
    float builds = 0;           ///< of one master
    float overdraw = 0;         ///< how often a pixel of a see-through surface is computed in the picture of its specimen, mean
    bool operator==(const Limits&) const = default;
};

struct Target {
    std::string key;   ///< names it in projects and on the command line: small letters, digits, dashes
    std::string name;  ///< for people
    std::string about; ///< one sentence: which machines, at which picture
    Limits limits;
    std::vector<std::string> formats; ///< keys of block formats that it reads; empty: all
    std::string extra;                ///< fields that this version does not know
    bool operator==(const Target&) const = default;
};

/// What is limited: described once for files, meters and reports.
struct LimitDef {
    std::string_view key;  ///< in files
    std::string_view name; ///< for people
    std::string_view unit;
    std::string_view help;
    float Limits::*limit;
};
std::span<const LimitDef> limitDefs();

/// Those that come along: handheld, headset, console, desktop.
std::span<const Target> shippedTargets();

std::string targetText(const Target& target);
/// Reads the text of a target file; `name` stands in messages. Error: target.unreadable, with what is wrong.
Result<Target> parseTarget(const std::string& text, const std::string& name);
Result<Target> readTarget(const std::filesystem::path& file);
Outcome writeTarget(const Target& target, const std::filesystem::path& file);
/// A target that comes along by its key, or a file that ends with .json. Errors: target.unknown, with those there are; those of reading.
Result<Target> findTarget(const std::string& keyOrFile);

} // namespace hue
