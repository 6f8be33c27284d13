#pragma once
// One function a command of hsk. Each returns the exit code: 0 good, 1 problems found, 2 can't run.
#include <optional>
#include <string>
#include <vector>

namespace hue::cli {

struct Options {
    std::string project, of, mesh, view, light, channel, engine, stage = "fragment", out, pictureSize = "512x512";
    int samples = 16;                   ///< of a pixel
    std::vector<std::string> ofSlots{}; ///< what the slots of a rendered specimen wear
    int size = 1024;
    double time = 0;
    bool json = false;

    // check
    std::string keptPictures, differing; ///< folder of kept pictures; sheet of those that differ
    bool keep = false;
    double limit = 1;

    // shader
    bool passes = false;
    std::vector<std::string> without; ///< names of passes
    std::string language;             ///< empty: what the preview draws with

    // render
    int specimen = 0; ///< of the lineup, from 1; 0: what --of wears
    std::string wire; ///< NODE.PORT or NODE.PORT.TAKE
    std::string range, tone, backdrop, yardstick, show = "split", frames;
    std::optional<double> rotation, sun, exposure, glare, yaw, pitch, standOff, gain;
    std::vector<std::string> things;
    double framesPerSecond = 24;
    int subdivide = 0;
    std::string placements;
    bool compressed = false;

    // paint
    std::vector<std::string> rules;
    std::string exported;  ///< a GLB
    std::string paintwork; ///< by name or id; empty: the mesh's own vertex colors
    std::string paintMap;  ///< an image
    bool info = false;
    bool live = false; ///< rules stay below what the hand has painted

    // bake, dispatch
    int uvSet = 1; ///< that a specimen is laid out by: 1 or 2

    // decals
    double lift = 0.001; ///< metres
    bool atlas = false;
};

int check(const Options&);
int nodes(const Options&);
int list(const Options&);
int cost(const Options&);
int shader(const Options&);
int evaluate(const Options&);
int render(const Options&);
int bakeMaps(const Options&);
int dispatchFile(const Options&);
int paint(const Options&);
int decals(const Options&);

} // namespace hue::cli
