// What goes wrong with drivers and shaders is said, and ends nothing else.
#include "core/project/store.h"
#include "preview/build_service.h"
#include "preview/gl_objects.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_folder.h"

#include <thread>

namespace hue {
namespace {

using namespace test;

const std::string kDepot = depotFile();
constexpr const char* kVertex =
    "#version 410 core\nlayout(location = 0) in vec3 a_position;\nvoid main() { gl_Position = vec4(a_position, 1.0); }\n";
constexpr const char* kFragment = "#version 410 core\nlayout(location = 0) out vec4 f;\nvoid main() { f = vec4(1.0); }\n";

BuildService::State waitFor(BuildService& builds, const std::string& fragment, std::shared_ptr<GlProgram>& program, std::string& problem) {
    for (int i = 0; i < 1000; ++i) {
        const auto state = builds.want(kVertex, fragment, false, &program, &problem);
        if (state != BuildService::State::Waiting) return state;
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    }
    return BuildService::State::Waiting;
}

TEST(Shaders, OneThatFailsSaysWhyAndTheNextIsBuilt) {
    auto context = EglContext::create();
    ASSERT_TRUE(context);
    (*context)->makeCurrent();
    auto builds = BuildService::create(**context);
    ASSERT_TRUE(builds);
    std::shared_ptr<GlProgram> program;
    std::string problem;
    EXPECT_EQ(waitFor(*builds, "#version 410 core\nvoid main() { undeclared_thing = 1; }\n", program, problem),
              BuildService::State::Failed);
    EXPECT_NE(problem.find("undeclared_thing"), std::string::npos) << problem;
    EXPECT_FALSE(program);
    EXPECT_EQ(waitFor(*builds, kFragment, program, problem), BuildService::State::Ready);
    EXPECT_TRUE(program);
    program.reset();
    builds.reset();
    context->reset();
    Gl::makeCurrent();
}

TEST(Shaders, WhatIsPrintedCompilesInADriver) {
    Gl::makeCurrent();
    const auto project = loadProject(kDepot);
    ASSERT_TRUE(project);
    for (const auto& m : (*project).project.masters) {
        const std::string of = " --of \"" + m->name + "\"";
        const Ran vertex = runHsk("shader " + kDepot + of + " --stage vertex"), fragment = runHsk("shader " + kDepot + of);
        ASSERT_EQ(fragment.code, 0) << fragment.output;
        const auto linked = GlProgram::link(vertex.output, fragment.output);
        EXPECT_TRUE(linked) << m->name << ": " << (linked ? "" : linked.error().sentence);
    }
}

TEST(Drivers, WithoutOneOrWithAnOldOneItIsSaidAndWhatNeedsNoneGoesOn) {
    for (const char* driver : {"__EGL_VENDOR_LIBRARY_DIRS=/nonexistent", "MESA_GL_VERSION_OVERRIDE=3.1"}) {
        setenv(std::string(driver).substr(0, std::string(driver).find('=')).c_str(), driver + std::string(driver).find('=') + 1, 1);
        const Ran drawn = runHsk("render " + kDepot + " --of Bodywork --out /dev/null/a.png");
        const Ran asked = runHsk("evaluate " + kDepot + " --of Bodywork --channel roughness --size 8 --engine gl --out /dev/null/a.exr");
        const Ran counted = runHsk("cost " + kDepot + " --of Bodywork");
        unsetenv(std::string(driver).substr(0, std::string(driver).find('=')).c_str());
        for (const Ran& ran : {drawn, asked}) {
            EXPECT_EQ(ran.code, 2) << ran.output;
            EXPECT_NE(ran.output.find("Install a driver with OpenGL 4.1"), std::string::npos) << driver << ": " << ran.output;
        }
        EXPECT_EQ(counted.code, 0) << counted.output;
    }
}

} // namespace
} // namespace hue
