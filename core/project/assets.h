#pragma once
// The maps and meshes of a project, as read from its folder.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/base/diagnostic.h"
#include "core/document/project.h"
#include "core/maps/map_levels.h"
#include "core/mesh/mesh.h"
#include "core/program/program.h"
#include "core/project/cut_outs.h"
#include "core/project/map_library.h"

namespace hue {

/// Loads and keeps files. All calls may come from any thread.
class Assets {
  public:
    /// Folder that relative paths start from. `own`: a folder of the program's, for a project that was never saved.
    void setFolder(const std::filesystem::path& folder, bool own = false);
    std::filesystem::path folder() const;
    std::filesystem::path resolve(const std::string& path) const;
    /// How a project names a file: relative to its folder. In a project that was never saved, whose folder is one of the program's own,
    /// only what lies in that folder is; anything else is named in full.
    std::string stored(const std::filesystem::path& file) const;

    /// The map of a project entry, or of the text of a curve or gradient; a marked stand-in (crossed checks) when file or text cannot be
    /// used; null for no entry.
    MapPtr map(const Project& project, const Id& id) { return map(project, id, m_view); }
    MapPtr map(const Project& project, const Id& id, MapLibrary::View view);
    /// How the smaller levels of a map are made: those of an opacity, or of what cuts a surface out, so that they cover as much, those of a
    /// packed map by its recipe, with roughness raised by the normals of its set where the recipe says so.
    MapLevels levels(const Project& project, const MapFile& map) const;
    /// What a slot of a Program shows for resolved values; null means the neutral stand-in.
    MapPtr map(const Project& project, const Resolved& resolved, const MapSlot& slot) { return map(project, resolved, slot, m_view); }
    MapPtr map(const Project& project, const Resolved& resolved, const MapSlot& slot, MapLibrary::View view);
    /// A file or a shape; a cube stands in for what cannot be used. `problem` tells why.
    MeshPtr mesh(const Project& project, const Id& id, std::string* problem = nullptr);

    /// Lets go of files that the project does not name.
    void keepOnly(const Project& project);

    /// Takes a mesh that was read already, so that the next question for its file finds it.
    void keep(const std::filesystem::path& file, MeshPtr mesh);

    /// Whether maps are given as they are, or as a graphics card reads them in their block formats.
    void setView(MapLibrary::View view) { m_view = view; }
    MapLibrary::View view() const { return m_view; }
    MapLibrary& library() { return m_maps; }

    /// Missing and broken files, each with its place in the project: maps, meshes, lights, the yardstick's picture; and surfaces that are
    /// cut out by the alpha of a map that has none. Without `pixels` only the heads of maps are read; with them all rows are, a strip at a
    /// time, and nothing is kept.
    std::vector<Diagnostic> problems(const Project& project, bool pixels = true);

  private:
    mutable std::mutex m_mutex;
    std::filesystem::path m_folder;
    bool m_ownFolder = false;
    MapLibrary m_maps;
    mutable CutOuts m_cutOuts;
    std::atomic<MapLibrary::View> m_view = MapLibrary::View::Original;
    std::map<std::string, MapPtr> m_drawn; ///< by the text of a curve or gradient
    struct MeshEntry {
        MeshPtr mesh;
        std::string problem;
        std::filesystem::file_time_type changed;
    };
    std::map<std::string, MeshEntry> m_meshes;
};

} // namespace hue
