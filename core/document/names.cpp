#include "core/document/names.h"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace hue {

std::string freeName(const std::vector<std::string>& taken, const std::string& wanted) {
    const auto isTaken = [&](const std::string& name) { return std::find(taken.begin(), taken.end(), name) != taken.end(); };
    if (!isTaken(wanted)) return wanted;
    // After "Moss 2" comes "Moss 3".
    const size_t last = wanted.find_last_not_of("0123456789");
    const bool counted =
        last != std::string::npos && last > 0 && wanted[last] == ' ' && wanted.size() - last - 1 <= 6 && last + 1 < wanted.size();
    const std::string base = counted ? wanted.substr(0, last) : wanted;
    std::string name;
    int n = counted ? std::stoi(wanted.substr(last + 1)) : 1;
    do name = fmt::format("{} {}", base, ++n);
    while (isTaken(name));
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
