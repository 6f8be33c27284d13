#include "core/document/names.h"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace hue {

std::string freeName(const std::vector<std::string>& taken, const std::string& wanted) {
    std::string name = wanted;
    for (int n = 2; std::find(taken.begin(), taken.end(), name) != taken.end(); ++n) name = fmt::format("{} {}", wanted, n);
    return name;
}

std::string freeCodeName(const std::vector<std::string>& taken, std::string wanted) {
    while (std::find(taken.begin(), taken.end(), wanted) != taken.end()) wanted += "_2";
    return wanted;
}

std::string codeNameFrom(const std::string& name) {
    std::string out;
    for (char c : name) {
        if (std::isalnum(static_cast<unsigned char>(c))) out += char(std::tolower(static_cast<unsigned char>(c)));
        else if (!out.empty() && out.back() != '_') out += '_';
    }
    while (!out.empty() && out.back() == '_') out.pop_back();
    if (out.empty() || std::isdigit(static_cast<unsigned char>(out[0]))) out = "p_" + out;
    return out;
}

} // namespace hue
