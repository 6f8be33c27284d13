// The n-th write, flush, rename or allocation fails, for every n: either the old file is there or the new one, and what happened is said.
#include "core/base/files.h"
#include "core/image_files/image_file.h"
#include "core/mesh/paint_data.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <cmath>
#include <csignal>
#include <ctime>
#include <fcntl.h>
#include <fstream>
#include <random>
#include <thread>
#include <utime.h>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Faults : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_CACHE_HOME", (folder / "cache").c_str(), 1);
        ::setenv("XDG_STATE_HOME", (folder / "state").c_str(), 1);
        Project p = bareProject();
        noise = add(p, "noise_2d");
        channel(p, {noise, "out", ""}, "roughness");
        ASSERT_TRUE(saveProject(p, file()));
        ASSERT_TRUE(writeImage(folder / "map.png", sampleColors(32, 32, 3), PixelEncoding::Srgb));
    }
    fs::path file() const { return folder / "p.huestack"; }

    struct Fault {
        int code = 0;
        bool reached = false, signalled = false;
        std::string said;
    };
    Fault run(const std::string& command, const std::string& kind, long n) const {
        fs::remove(folder / "reached");
        const std::string whole = "HUE_FAULT_LOG=" + (folder / "reached").string() + " HUE_FAULT=" + kind + ":" + std::to_string(n) +
                                  " LD_PRELOAD=" + faultsLibrary() + " " + hskProgram() + " " + command + " > " + (folder / "said").string() + " 2>&1";
        const int status = std::system(whole.c_str());
        Fault f;
        f.signalled = !WIFEXITED(status) || WEXITSTATUS(status) > 128;
        f.code = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
        f.reached = fs::exists(folder / "reached");
        f.said = contentOf(folder / "said");
        return f;
    }

    /// What a command leaves: `good(content)` says whether a file is whole.
    void survives(const std::string& command, const fs::path& target, const std::function<bool()>& whole, int most = 40) {
        for (const std::string kind : {"write", "flush", "rename", "allocate"}) {
            long n = 1;
            for (int round = 0; round < most; ++round) {
                const bool before = fs::is_regular_file(target);
                const std::string old = before ? contentOf(target) : std::string();
                const Fault f = run(command, kind, n);
                if (!f.reached) break;
                const std::string where = command.substr(0, command.find(' ')) + ", " + kind + " " + std::to_string(n) + ": " + f.said;
                ASSERT_FALSE(f.signalled) << where;
                if (f.code == 0) EXPECT_TRUE(whole()) << where; // what failed was not needed, such as a cache
                else {
                    EXPECT_EQ(f.code, 2) << where;
                    EXPECT_NE(f.said.find("hsk: "), std::string::npos) << where;
                    EXPECT_TRUE(before ? contentOf(target) == old || whole() : !fs::exists(target) || whole()) << where;
                }
                for (const auto& entry : fs::recursive_directory_iterator(folder))
                    EXPECT_EQ(entry.path().filename().string().find(".part"), std::string::npos) << where << " left " << entry.path();
                // Allocations are many: the first ones, and then each time twice as far.
                n += kind == "allocate" && n > 2 ? n : 1;
            }
        }
    }

    /// About the last allocation that a command reaches; `again` runs it with an allocation failing. One in `exact` of all may be missed.
    static long lastAllocation(long exact, const std::function<Fault(long)>& again) {
        long reached = 1, never = 1;
        while (again(never).reached) reached = never, never *= 2;
        while (never - reached > never / exact) (again((reached + never) / 2).reached ? reached : never) = (reached + never) / 2;
        return reached;
    }

    Id noise;
};

#ifndef __SANITIZE_ADDRESS__ // which has allocations of its own

TEST_F(Faults, AProjectThatIsRewrittenIsTheOldOneOrTheNewOne) {
    survives(
        "make " + file().string() + " --of M --wire " + noise + ".out --size 16 --name clouds", file(),
        [&] {
            const auto loaded = loadProject(file());
            if (!loaded) return false;
            for (const auto& m : loaded->project.maps)
                if (!readImage(folder / m->path)) return false;
            return true;
        },
        24);
}

// Also while what was read and written is taken down, where nothing may be thrown: each of many allocations, from the last fifth of all.
TEST_F(Faults, MemoryThatRunsOutLateEndsInWords) {
    const std::string command = "make " + file().string() + " --of M --wire " + noise + ".out --size 16 --name clouds";
    const std::string before = contentOf(file());
    const auto again = [&](long n) {
        std::ofstream(file(), std::ios::binary) << before;
        fs::remove_all(folder / "maps");
        return run(command, "allocate", n);
    };
    const long reached = lastAllocation(100, again);
    int failed = 0;
    for (long n = reached * 4 / 5; n < reached; n += std::max(1L, reached / 250)) {
        const Fault f = again(n);
        ASSERT_FALSE(f.signalled) << "allocation " << n << " of about " << reached << ": " << f.said;
        failed += f.code != 0;
        EXPECT_TRUE(f.code == 0 || f.said.find("hsk: ") != std::string::npos) << n << ": " << f.said;
        EXPECT_TRUE(loadProject(file())) << n;
        for (const auto& entry : fs::recursive_directory_iterator(folder))
            EXPECT_EQ(entry.path().filename().string().find(".part"), std::string::npos) << n << " left " << entry.path();
    }
    EXPECT_GT(failed, 20);
}

// Each single allocation while a file is begun, written and named: also those right after it has appeared under its temporary name.
TEST_F(Faults, MemoryThatRunsOutWhileAFileIsBegunLeavesNoHalfOfIt) {
    const fs::path recipe = folder / "r.huerecipe";
    const std::string command = "recipes --recipe orm --out " + recipe.string();
    const auto again = [&](long n) {
        fs::remove(recipe);
        return run(command, "allocate", n);
    };
    ASSERT_EQ(runHsk(command).code, 0);
    const std::string whole = contentOf(recipe);
    const long last = lastAllocation(2000, again);
    int failed = 0;
    for (long n = last - 25; n <= last; ++n) {
        const Fault f = again(n);
        ASSERT_FALSE(f.signalled) << n << ": " << f.said;
        failed += f.code != 0;
        for (const auto& entry : fs::directory_iterator(folder)) {
            EXPECT_EQ(entry.path().filename().string().find(".part"), std::string::npos) << n << " left " << entry.path();
        }
        if (fs::exists(recipe)) {
            EXPECT_EQ(contentOf(recipe), whole) << n;
        }
    }
    EXPECT_GT(failed, 15);
}

TEST_F(Faults, PaintIsTheOldOneOrTheNewOne) {
    ASSERT_EQ(runHsk("paint " + file().string() + " --paintwork Side --mesh sphere/1 --rule 'constant 0.5'").code, 0);
    const auto whole = [&] {
        const Result<Loaded> l = loadProject(file());
        if (!l || !l->report.empty() || l->project.paintworks.size() != 1 || !l->project.paintworks[0]->paint) return false;
        for (const float x : l->project.paintworks[0]->paint->channel(0))
            if (std::fabs(x - 0.5f) > 0.01f) return false; // as it was, or the other way around
        return true;
    };
    survives("paint " + file().string() + " --paintwork Side --rule invert", folder / "paint" / "side.glb", whole, 24);
    EXPECT_TRUE(whole());
}

TEST_F(Faults, MapsThatAreBakedCompressedPackedAndDispatchedAreWholeOrAbsent) {
    const auto picture = [&](const char* name) { return [this, name] { return bool(readImage(folder / name)); }; };
    const std::string map = (folder / "map.png").string();
    survives("compress " + map + " --format bc7 --out " + (folder / "a.ktx2").string(), folder / "a.ktx2", picture("a.ktx2"));
    survives("evaluate " + file().string() + " --of M --channel roughness --size 16 --out " + (folder / "e.png").string(), folder / "e.png",
             picture("e.png"));
    survives(
        "bake " + file().string() + " --of M --size 16 --out " + (folder / "baked").string(), folder / "baked", [] { return true; }, 20);
    survives("pack --recipe orm --source occlusion=" + map + " --source roughness=" + map + " --source metallic=" + map + " --out " +
                 (folder / "packed.png").string(),
             folder / "packed.png", picture("packed.png"));
    survives(
        "dispatch " + file().string() + " --of M --size 16 --mesh sphere --out " + (folder / "m.glb").string(), folder / "m.glb",
        [&] { return fs::file_size(folder / "m.glb") > 1000; }, 10);
}

TEST_F(Faults, FramesThatAreRecordedAreWholeOrAbsent) {
    const std::string frames =
        "render " + file().string() + " --of M --engine cpu --view roughness --frames 0:0.2 --rate 10 --size 16x16 --out ";
    const fs::path moving = folder / "moving.webp", sheet = folder / "sheet.png", single = folder / "single";
    survives(
        frames + moving.string(), moving, [&] { return contentOf(moving).starts_with("RIFF"); }, 10);
    survives(
        frames + sheet.string(), sheet, [&] { return bool(readImage(sheet)); }, 10);
    survives(
        frames + single.string(), single,
        [&] {
            for (const auto& f : fs::directory_iterator(single))
                if (!readImage(f.path())) return false;
            return true;
        },
        10);
}

#endif

// Killed at any moment, a project is whole, and so are the maps that it names; what the killed one leaves is cleaned up.
TEST_F(Faults, WhoIsKilledLeavesAWholeProject) {
    std::mt19937 random(11);
    const std::string wire = noise + ".out";
    const int rounds = killRounds();
    int killed = 0;
    for (int round = 0; round < rounds; ++round) {
        const std::string name = "map " + std::to_string(round), path = file().string();
        const pid_t child = ::fork();
        if (child == 0) {
            const int quiet = ::open("/dev/null", O_WRONLY);
            ::dup2(quiet, 1), ::dup2(quiet, 2);
            ::execl(hskProgram().c_str(), "hsk", "make", path.c_str(), "--of", "M", "--wire", wire.c_str(), "--size", "64", "--name", name.c_str(),
                    nullptr);
            ::_exit(127);
        }
        std::this_thread::sleep_for(std::chrono::microseconds(random() % 60000));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        killed += WIFSIGNALED(status);
        const auto loaded = loadProject(file());
        ASSERT_TRUE(loaded) << "round " << round << ": " << loaded.error().sentence;
        for (const auto& m : loaded->project.maps) ASSERT_TRUE(readImage(folder / m->path)) << "round " << round << ": " << m->path;
    }
    EXPECT_GT(killed, rounds / 5) << "else nothing was tried";
}

TEST_F(Faults, StraysOfKilledWritersAreCleanedUpAndOthersAreLeft) {
    const auto stray = [&](const std::string& name, int age) {
        std::ofstream(folder / name) << "half";
        const utimbuf times{::time(nullptr) - age, ::time(nullptr) - age};
        ::utime((folder / name).c_str(), &times);
    };
    stray(".a.abcdef.part.txt", 3600);
    stray(".a.ghijkl.part.txt", 5);    // may be about to be locked
    stray(".b.abcdef.part.txt", 3600); // of another file
    stray("a.abcdef.part.txt", 3600);  // somebody's own
    auto busy = NewFile::create(folder / "a.txt");
    ASSERT_TRUE(busy);
    const utimbuf old{1, 1};
    ::utime(busy->temporary().c_str(), &old);
    ASSERT_TRUE(writeFile(folder / "a.txt", "whole"));
    EXPECT_FALSE(fs::exists(folder / ".a.abcdef.part.txt"));
    for (const char* kept : {".a.ghijkl.part.txt", ".b.abcdef.part.txt", "a.abcdef.part.txt"})
        EXPECT_TRUE(fs::exists(folder / kept)) << kept;
    EXPECT_TRUE(fs::exists(busy->temporary())) << "which is being written";
}

} // namespace
} // namespace hue
