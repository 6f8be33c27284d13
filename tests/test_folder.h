#pragma once
// A folder for one test, and runs of hsk.
#include "tests/places.h"

#include <array>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <sstream>
#include <string>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <vector>

namespace hue::test {

class InFolder : public testing::Test {
  protected:
    void SetUp() override {
        folder = std::filesystem::temp_directory_path() /
                 ("huestack-" + std::to_string(::getpid()) + testing::UnitTest::GetInstance()->current_test_info()->name());
        std::filesystem::create_directories(folder);
    }
    void TearDown() override { std::filesystem::remove_all(folder); }
    std::filesystem::path folder;
};

/// All of a file; empty when it is not there.
inline std::string contentOf(const std::filesystem::path& file) {
    std::ostringstream out;
    out << std::ifstream(file, std::ios::binary).rdbuf();
    return out.str();
}

/// How often something is killed: the environment's HUE_KILL_ROUNDS, or a hundred times.
inline int killRounds() {
    const char* asked = std::getenv("HUE_KILL_ROUNDS");
    return asked ? std::atoi(asked) : 100;
}

struct Ran {
    int code;
    std::string output; ///< what was printed, errors included
};
inline Ran runHsk(const std::string& arguments) {
    FILE* pipe = popen((hskProgram() + " " + arguments + " 2>&1").c_str(), "r");
    std::string out;
    std::array<char, 4096> buffer;
    while (const size_t n = fread(buffer.data(), 1, buffer.size(), pipe)) out.append(buffer.data(), n);
    return {WEXITSTATUS(pclose(pipe)), out};
}

/// The most memory that a run of hsk took, in bytes, as the system counted it.
inline size_t peakOf(const std::vector<std::string>& arguments) {
    const pid_t child = fork();
    if (child == 0) {
        std::vector<char*> argv{const_cast<char*>(hskProgram().c_str())};
        for (const std::string& a : arguments) argv.push_back(const_cast<char*>(a.c_str()));
        argv.push_back(nullptr);
        if (!std::freopen("/dev/null", "w", stdout)) _exit(127);
        execv(argv[0], argv.data());
        _exit(127);
    }
    int status = 0;
    rusage usage{};
    EXPECT_EQ(wait4(child, &status, 0, &usage), child);
    EXPECT_EQ(WEXITSTATUS(status), 0);
    return size_t(usage.ru_maxrss) * 1024;
}

} // namespace hue::test
