#include "core/project/assembly_file.h"

#include "core/base/files.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/project/shared_text_private.h"

#include <fstream>
#include <sstream>

namespace hue {
namespace {

constexpr const char* kKind = "huestack assembly";

/// What the file holds; the first assembly is the one that is shared.
struct Content {
    std::vector<AssemblyPtr> assemblies;
    std::vector<MapFile> maps;
};
template <class F> void describe(F& f, Content& c) {
    f.list("assemblies", c.assemblies, "an assembly", "the shared one, then those within it");
    f.list("maps", c.maps, "a map", "that they read", Written::WhenSet);
}

} // namespace

std::string assemblyText(const Project& project, const Id& assembly, const std::string& folder) {
    // As a card for it would be copied.
    Project with = project;
    auto board = std::make_shared<Master>();
    board->id = newId('m');
    const Node card = makeAssemblyNode(assembly);
    board->graph.nodes[card.id] = std::make_shared<Node>(card);
    with.masters.push_back(board);
    CopiedCards copied = edit::copyCards(with, board->id, {card.id}, folder);
    Content content{std::move(copied.assemblies), std::move(copied.maps)};
    return sharedText(kKind, content);
}

Outcome writeAssembly(const Project& project, const Id& assembly, const std::filesystem::path& file, const std::string& folder) {
    if (!project.assembly(assembly)) return Error{"edit.no-assembly", "The assembly is not in the project any more.", {}};
    return writeFile(file, assemblyText(project, assembly, folder));
}

Result<SharedAssembly> parseAssembly(const std::string& text, const std::string& name) {
    const auto refuse = [&](const std::string& why) {
        return Error{
            "assembly.unreadable", fmt::format("{} holds no assembly: {}. Share one as a file, and choose that file.", name, why), {}};
    };
    Result<Content> content = parseShared<Content>(text, kKind, "the assembly", refuse, [&](int64_t format) {
        return Error{"assembly.newer-format",
                     fmt::format("{} was shared by a newer version (format {}; this one reads up to {}). Bring this one up to date.", name,
                                 format, kFormat),
                     {}};
    });
    if (!content) return content.error();
    if (content->assemblies.empty()) return refuse("there is none in it");
    SharedAssembly out;
    out.assembly = content->assemblies[0];
    out.within.assign(content->assemblies.begin() + 1, content->assemblies.end());
    out.maps = std::move(content->maps);
    return out;
}

Result<SharedAssembly> readAssembly(const std::filesystem::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"assembly.unreadable", fmt::format("{} {}. Choose the file of an assembly.", file.string(), why), {}};
    std::ifstream in(file, std::ios::binary);
    std::stringstream text;
    text << in.rdbuf();
    if (in.bad())
        return Error{
            "assembly.unreadable", fmt::format("{} cannot be read to its end. Copy it to a disk that is sound.", file.string()), {}};
    return parseAssembly(text.str(), file.filename().string());
}

Result<Project> withAssembly(const Project& project, const SharedAssembly& shared) {
    std::map<Id, Id> maps;
    Result<Project> next = edit::bringMaps(project, shared.maps, &maps);
    if (!next) return next;
    std::vector<AssemblyPtr> all{shared.assembly};
    all.insert(all.end(), shared.within.begin(), shared.within.end());
    return edit::bringAssemblies(*next, all, maps, true);
}

} // namespace hue
