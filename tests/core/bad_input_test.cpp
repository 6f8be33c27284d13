// What hsk does with files, numbers and names that cannot be right: it says what, where and what to do, ends with its code, and leaves
// nothing behind.
#include "core/image_files/image_file.h"
#include "tests/test_folder.h"
#include "tests/test_maps.h"

#include <fstream>
#include <set>
#include <sstream>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class BadInput : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        write("empty.huestack", "");
        write("text.huestack", "This is a letter to the depot.\n");
        write("list.huestack", "[1, 2, 3]\n");
        write("other.huestack", "{\"kind\": \"shopping list\", \"milk\": 2}\n");
        write("newer.huestack", "{\"kind\": \"huestack project\", \"format\": 99999}\n");
        std::ostringstream whole;
        whole << std::ifstream(depotFile()).rdbuf();
        write("cut.huestack", whole.str().substr(0, whole.str().size() / 2));
        fs::create_directories(folder / "folder.huestack");
        write("empty.png", "");
        write("junk.png", "no picture at all, whatever its name says");
        ASSERT_TRUE(writeImage(folder / "good.png", sampleColors(16, 16, 3), PixelEncoding::Srgb));
        std::ostringstream good;
        good << std::ifstream(folder / "good.png", std::ios::binary).rdbuf();
        write("cut.png", good.str().substr(0, good.str().size() / 2));
        // A head that promises 100,000 pixels a side.
        std::string huge = good.str();
        for (const size_t at : {size_t{16}, size_t{20}}) huge.replace(at, 4, std::string("\x00\x01\x86\xA0", 4));
        write("huge.png", huge);
        fs::create_directories(folder / "folder.png");
    }
    void write(const std::string& name, const std::string& text) { std::ofstream(folder / name, std::ios::binary) << text; }
    std::string path(const std::string& name) const { return (folder / name).string(); }
    std::set<std::string> files() const {
        std::set<std::string> out;
        for (const auto& e : fs::recursive_directory_iterator(folder)) out.insert(e.path().string());
        return out;
    }
    /// Refused in words: a code of its own, the file named, nothing made, and no dump of the inside.
    void expectRefused(const std::string& arguments, const std::string& named) {
        const auto before = files();
        const Ran ran = runHsk(arguments);
        EXPECT_TRUE(ran.code == 1 || ran.code == 2) << "hsk " << arguments << " ended with " << ran.code << "\n" << ran.output;
        EXPECT_NE(ran.output.find(named), std::string::npos) << "hsk " << arguments << " does not name " << named << ":\n" << ran.output;
        EXPECT_GE(ran.output.size(), 20u) << arguments;
        for (const char* inside : {"terminate called", "what():", "std::", "json.exception", "Assertion"})
            EXPECT_EQ(ran.output.find(inside), std::string::npos) << "hsk " << arguments << ":\n" << ran.output;
        EXPECT_EQ(files(), before) << "hsk " << arguments << " left something behind";
    }
};

const std::vector<std::string>& projectFiles() {
    static const std::vector<std::string> all{"missing.huestack", "empty.huestack", "text.huestack", "list.huestack",
                                              "other.huestack",   "newer.huestack", "cut.huestack",  "folder.huestack"};
    return all;
}

TEST_F(BadInput, AProjectThatIsNoneIsRefusedByEveryCommandThatReadsOne) {
    // All of them by one command, and one of them by all.
    for (const std::string& file : projectFiles()) expectRefused("check " + path(file), file);
    for (const std::string command :
         {"list {}", "cost {} --of X", "shader {} --of X", "evaluate {} --of X --channel roughness --out {}.png",
          "render {} --of X --out {}.png", "bake {} --of X --out {}.maps", "dispatch {} --of X --mesh shape:cube --out {}.glb", "maps {}",
          "make {} --of X --wire a.out --out {}.png", "remake {}", "pack --project {}"}) {
        const std::string file = "cut.huestack";
        std::string arguments = command;
        for (size_t at = arguments.find("{}"); at != std::string::npos; at = arguments.find("{}")) arguments.replace(at, 2, path(file));
        expectRefused(arguments, file);
    }
}

TEST_F(BadInput, APictureThatIsNoneIsRefusedByEveryCommandThatReadsOne) {
    const auto refused = [&](std::string arguments, const std::string& file) {
        for (size_t at = arguments.find("{}"); at != std::string::npos; at = arguments.find("{}")) arguments.replace(at, 2, path(file));
        for (size_t at = arguments.find("OUT"); at != std::string::npos; at = arguments.find("OUT")) arguments.replace(at, 3, path("made"));
        expectRefused(arguments, file);
    };
    for (const std::string file : {"missing.png", "empty.png", "junk.png", "cut.png", "huge.png", "folder.png"})
        refused("compress {} --format bc7 --out OUT.ktx2", file);
    for (const std::string command : {"map {}", "seamless {} --out OUT", "normals {} --do renormalise --out OUT.png", "unpack {} --out OUT",
                                      "pack --recipe orm --source occlusion={} --source roughness={} --source metallic={} --out OUT.png",
                                      "from-gloss {} {} {} --out OUT"})
        refused(command, "cut.png");
}

TEST_F(BadInput, NumbersOutOfTheirRangeAreRefusedWithTheOption) {
    const std::string depot = depotFile();
    for (const char* size : {"0", "-4", "1000000", "abc", "1e400", "12.5x"})
        expectRefused("bake " + depot + " --of 'Bodywork/Line ochre' --size " + size + " --out " + path("made"), "--size");
    for (const auto& [size, named] :
         {std::pair{"0x0", "0 x 0"}, {"-1x5", "-1 x 5"}, {"9000x9000", "9000 x 9000"}, {"axb", "axb"}, {"100", "100"}})
        expectRefused("render " + depot + " --specimen 1 --size " + size + " --out " + path("made.png"), named);
    expectRefused("render " + depot + " --stand-off 0 --out " + path("made.png"), "--stand-off");
    expectRefused("render " + depot + " --glare 7 --out " + path("made.png"), "--glare");
    expectRefused("render " + depot + " --pitch 400 --out " + path("made.png"), "--pitch");
    expectRefused("compress " + path("good.png") + " --format bc9 --out " + path("made.ktx2"), "bc9");
    expectRefused("seamless " + path("good.png") + " --band 0.9 --out " + path("made"), "--band");
    expectRefused("mask --shape 'triangle 1 2 3' --size 64 --out " + path("made.png"), "triangle");
    expectRefused("mask --shape 'rectangle 0.1 0.1' --size 64 --out " + path("made.png"), "rectangle");
}

TEST_F(BadInput, NamesThatAreNotThereAreSaid) {
    const std::string depot = depotFile();
    for (const std::string command : {"cost D --of Nobody", "shader D --of Nobody", "bake D --of Nobody --out O",
                                      "dispatch D --of Nobody --mesh shape:cube --out O.glb", "make D --of Nobody --wire a.out --out O.png",
                                      "evaluate D --of Nobody --channel roughness --out O.png", "render D --of Nobody --out O.png"}) {
        std::string arguments = command;
        arguments.replace(arguments.find(" D "), 3, " " + depot + " ");
        if (const size_t at = arguments.find(" O"); at != std::string::npos) arguments.replace(at, 2, " " + path("made"));
        expectRefused(arguments, "Nobody");
    }
    expectRefused("render " + depot + " --specimen 1 --view nothing --out " + path("made.png"), "nothing");
    expectRefused("render " + depot + " --specimen 1 --light moonshine --out " + path("made.png"), "moonshine");
    expectRefused("dispatch " + depot + " --of 'Bodywork/Line Ochre' --mesh shape:teapot --out " + path("made.glb"), "teapot");
    expectRefused("pack --recipe nonsense --out " + path("made.png"), "nonsense");
}

TEST_F(BadInput, AnOutputThatCannotBeWrittenIsRefusedWithItsPlace) {
    const std::string depot = depotFile();
    write("file", "in the way");
    const std::vector<std::string> commands{"compress " + path("good.png") + " --format bc1 --out {}/a.ktx2",
                                            "normals " + path("good.png") + " --do flip-green --out {}/a.png",
                                            "mask --shape 'ellipse 0.1 0.1 0.5 0.5' --size 16 --out {}/a.png",
                                            "dispatch " + depot + " --of 'Vent grille/Coarse' --size 16 --mesh shape:cube --out {}/a.glb"};
    for (const std::string& command : commands) {
        std::string arguments = command;
        arguments.replace(arguments.find("{}"), 2, path("file"));
        expectRefused(arguments, "file");
    }
}

} // namespace
} // namespace hue
