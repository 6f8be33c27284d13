// The formats that maps and meshes come in, made by other programs' libraries.
#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/mesh/mesh.h"
#include "core/project/assets.h"

#include <cmath>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <unistd.h>

namespace hue {
namespace {

namespace fs = std::filesystem;

class Formats : public testing::Test {
  protected:
    void SetUp() override {
        folder = fs::temp_directory_path() /
                 ("huestack-formats-" + std::to_string(::getpid()) + testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::create_directories(folder);
    }
    void TearDown() override { fs::remove_all(folder); }
    /// Runs oiiotool to make a file.
    fs::path make(const std::string& arguments, const std::string& name) const {
        EXPECT_EQ(std::system(("oiiotool " + arguments + " -o " + (folder / name).string()).c_str()), 0) << name;
        return folder / name;
    }
    static std::array<float, 4> first(const fs::path& file, MapKind kind) {
        const Result<Map> map = readMap(file, kind, Wrap::Repeat);
        EXPECT_TRUE(map) << map.error().sentence;
        std::array<float, 4> v{};
        if (map) map->texel(0, 0, 0, v.data());
        return v;
    }
    fs::path folder;
};

TEST_F(Formats, EveryKindOfImageFileReadsTheSameValue) {
    for (const auto& [name, depth] : {std::pair{"a.png", "uint8"},
                                      {"a16.png", "uint16"},
                                      {"a.tga", "uint8"},
                                      {"a.tif", "uint8"},
                                      {"a16.tif", "uint16"},
                                      {"a32.tif", "float"},
                                      {"a.exr", "half"},
                                      {"a32.exr", "float"},
                                      {"a.jpg", "uint8"},
                                      {"a.hdr", "float"}}) {
        const auto v = first(make(std::string("--pattern constant:color=0.2,0.4,0.8 8x8 3 -d ") + depth, name), MapKind::Data);
        EXPECT_NEAR(v[0], 0.2f, 0.012f) << name;
        EXPECT_NEAR(v[1], 0.4f, 0.012f) << name;
        EXPECT_NEAR(v[2], 0.8f, 0.012f) << name;
        EXPECT_FLOAT_EQ(v[3], 1) << name;
    }
}

TEST_F(Formats, SixteenBitColorIsDecodedAsEightBitColorIs) {
    const auto deep = first(make("--pattern constant:color=0.5,0.5,0.5 4x4 3 -d uint16", "d.png"), MapKind::Color);
    const auto plain = first(make("--pattern constant:color=0.5,0.5,0.5 4x4 3 -d uint8", "p.png"), MapKind::Color);
    EXPECT_NEAR(deep[0], plain[0], 4e-3f);
    EXPECT_NEAR(deep[0], srgbToLinear(0.5f), 1e-3f);
    EXPECT_NEAR(first(make("--pattern constant:color=0.5,0.5,0.5 4x4 3 -d float", "f.exr"), MapKind::Color)[0], 0.5f, 1e-4f)
        << "float files are linear already";
}

TEST_F(Formats, AMaskInTheAlphaDoesNotDarkenTheColor) {
    // The color under a transparent texel is a value of its own.
    for (const char* name : {"m.png", "m.tif", "m.tga"}) {
        Picture p{2, 2, 4, {}};
        for (int i = 0; i < 4; ++i) p.values.insert(p.values.end(), {0.8f, 0.4f, 0.2f, 0.25f});
        ASSERT_TRUE(writePicture(folder / "source.png", p, PictureEncoding::Linear));
        // Copied byte by byte by --no-autopremult, so that only our reader decides.
        ASSERT_EQ(std::system(("oiiotool --no-autopremult " + (folder / "source.png").string() + " --attrib oiio:UnassociatedAlpha 1 -o " +
                               (folder / name).string())
                                  .c_str()),
                  0);
        const auto v = first(folder / name, MapKind::Data);
        EXPECT_NEAR(v[0], 0.8f, 0.01f) << name;
        EXPECT_NEAR(v[3], 0.25f, 0.01f) << name;
    }
}

TEST_F(Formats, GreyAndGreyWithAlphaSpreadOverTheColors) {
    const auto grey = first(make("--pattern constant:color=0.4 4x4 1 -d uint8", "g.png"), MapKind::Data);
    EXPECT_FLOAT_EQ(grey[0], grey[2]);
    EXPECT_FLOAT_EQ(grey[3], 1);
    ASSERT_TRUE(writePicture(folder / "ga.png", {1, 1, 2, {0.4f, 0.6f}}, PictureEncoding::Linear));
    const auto withAlpha = first(folder / "ga.png", MapKind::Data);
    EXPECT_NEAR(withAlpha[1], 0.4f, 0.01f);
    EXPECT_NEAR(withAlpha[3], 0.6f, 0.01f);
}

TEST_F(Formats, PicturesSurviveTheWayThroughAFile) {
    Picture p{3, 2, 4, {}};
    for (int i = 0; i < 24; ++i) p.values.push_back(float(i) / 23);
    ASSERT_TRUE(writePicture(folder / "p.exr", p, PictureEncoding::Linear));
    const Result<Picture> back = readPicture(folder / "p.exr");
    ASSERT_TRUE(back);
    EXPECT_EQ(back->width, 3);
    EXPECT_EQ(back->channels, 4);
    for (size_t i = 0; i < p.values.size(); ++i) EXPECT_NEAR(back->values[i], p.values[i], 1e-6f);
    EXPECT_EQ(writePicture(folder / "p.gif", p, PictureEncoding::Linear).error().code, "file.suffix") << "only the formats that are meant";
    EXPECT_EQ(encodePng(p, PictureEncoding::Linear).at(1), 'P');
}

TEST_F(Formats, ATextGltfWithABufferBesideItReads) {
    // Two triangles without normals, tangents or indices; the reader makes what is missing.
    const float positions[] = {0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 0, 0, 1, 1, 0, 0, 1, 0};
    const float uvs[] = {0, 1, 1, 1, 1, 0, 0, 1, 1, 0, 0, 0};
    std::ofstream bin(folder / "quad.bin", std::ios::binary);
    bin.write(reinterpret_cast<const char*>(positions), sizeof positions);
    bin.write(reinterpret_cast<const char*>(uvs), sizeof uvs);
    bin.close();
    std::ofstream(folder / "quad.gltf") << R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}],
      "nodes": [{"mesh": 0, "translation": [10, 0, 0], "scale": [2, 2, 2]}],
      "meshes": [{"primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1}}]}],
      "buffers": [{"uri": "quad.bin", "byteLength": 120}],
      "bufferViews": [{"buffer": 0, "byteLength": 72}, {"buffer": 0, "byteOffset": 72, "byteLength": 48}],
      "accessors": [{"bufferView": 0, "componentType": 5126, "count": 6, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]},
                    {"bufferView": 1, "componentType": 5126, "count": 6, "type": "VEC2"}]})";
    const Result<Mesh> mesh = readMesh(folder / "quad.gltf");
    ASSERT_TRUE(mesh) << mesh.error().sentence;
    ASSERT_EQ(mesh->vertices.size(), 6u);
    const Bounds b = boundsOf(*mesh);
    EXPECT_FLOAT_EQ(b.low[0], 10) << "the node's transform is applied";
    EXPECT_FLOAT_EQ(b.high[0], 12);
    for (const Vertex& v : mesh->vertices) {
        EXPECT_NEAR(v.normal[2], 1, 1e-5f);
        EXPECT_NEAR(v.tangent[0], 1, 1e-5f) << "along growing U";
        EXPECT_FLOAT_EQ(v.tangent[3], 1) << "V grows downward here, so the bitangent points up";
    }
    EXPECT_FALSE(mesh->hasColors);
}

TEST_F(Formats, AGltfWhoseBufferIsTooShortIsRefused) {
    std::ofstream(folder / "short.gltf") << R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
      "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
      "buffers": [{"uri": "data:application/octet-stream;base64,AAAAAAAA", "byteLength": 6}],
      "bufferViews": [{"buffer": 0, "byteLength": 6}], "accessors": [{"bufferView": 0, "componentType": 5126, "count": 100000, "type": "VEC3"}]})";
    const Result<Mesh> mesh = readMesh(folder / "short.gltf");
    ASSERT_FALSE(mesh) << "numbers behind the end of a buffer are never read";
    EXPECT_EQ(mesh.error().code, "mesh.unreadable");
}

TEST_F(Formats, AMapOfTheProjectFollowsItsKindAndNeutralOnesTheirs) {
    make("--pattern constant:color=0.5,0.5,0.5 4x4 3 -d uint8", "grey.png");
    Project p;
    auto add = [&](const char* id, MapKind kind) {
        p.maps.push_back(std::make_shared<MapFile>(MapFile{id, id, "grey.png", kind, Wrap::Repeat, {}, {}}));
    };
    add("color", MapKind::Color);
    add("data", MapKind::Data);
    Assets assets;
    assets.setFolder(folder);
    EXPECT_TRUE(assets.map(p, "color")->encoded());
    EXPECT_FALSE(assets.map(p, "data")->encoded());
    EXPECT_EQ(assets.map(p, "nobody"), nullptr);
    EXPECT_EQ(neutralOf(MapKind::Normal), Value::vec4(0.5f, 0.5f, 1, 1));
    EXPECT_EQ(neutralMap(MapKind::Height), neutralMap(MapKind::Height)) << "made once, so that it reaches the graphics card once";
}

} // namespace
} // namespace hue
