#pragma once
// One function a command of hsk. Each returns the exit code: 0 good, 1 problems found, 2 can't run.
#include <string>

namespace hue::cli {

struct Options {
    std::string project, of, mesh, view = "lit", light, channel, engine = "cpu", stage = "fragment", out, pictureSize = "512x512";
    int size = 1024;
    double time = 0;
    bool json = false;
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

} // namespace hue::cli
