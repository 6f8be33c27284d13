#pragma once
// Assemblies as files: to share one, and to bring one in.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/document/project.h"

#include <filesystem>

namespace hue {

/// An assembly with those within it and entries of the maps that they read, by absolute paths.
struct SharedAssembly {
    AssemblyPtr assembly;
    std::vector<AssemblyPtr> within;
    std::vector<MapFile> maps;
};

/// JSON, with the fields that assemblies and maps have in a project file (docs/file-format.md). `folder`: of the project, for the paths.
std::string assemblyText(const Project& project, const Id& assembly, const std::string& folder = {});
/// Replaces the file as a whole. Errors: edit.no-assembly, and those of writing files.
Outcome writeAssembly(const Project& project, const Id& assembly, const std::filesystem::path& file, const std::string& folder = {});
/// Errors: assembly.unreadable, assembly.newer-format, and those of reading files; `name` is the file's in their sentences.
Result<SharedAssembly> parseAssembly(const std::string& text, const std::string& name);
Result<SharedAssembly> readAssembly(const std::filesystem::path& file);

/// The project with the assembly and those within it; one with the same id is replaced, and its cards stand for the new one. See
/// whatBreaks() for what that means. Maps are the one with the same content, else they are added. Errors: assembly.holds-itself, where one
/// that is already there would come to lie within itself.
Result<Project> withAssembly(const Project& project, const SharedAssembly& shared);

} // namespace hue
