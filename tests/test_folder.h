#pragma once
// A folder for one test, and runs of hsk.
#include <array>
#include <cstdio>
#include <filesystem>
#include <gtest/gtest.h>
#include <string>
#include <sys/wait.h>
#include <unistd.h>

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

struct Ran {
    int code;
    std::string output; ///< what was printed, errors included
};
inline Ran runHsk(const std::string& arguments) {
    FILE* pipe = popen((std::string(HUE_HSK) + " " + arguments + " 2>&1").c_str(), "r");
    std::string out;
    std::array<char, 4096> buffer;
    while (const size_t n = fread(buffer.data(), 1, buffer.size(), pipe)) out.append(buffer.data(), n);
    return {WEXITSTATUS(pclose(pipe)), out};
}

} // namespace hue::test
