#include "core/budget/map_memory.h"

#include "core/compress/block_format.h"
#include "core/image_files/image_file.h"

namespace hue {

MapBytes mapBytesFor(const Project& project, const Assets& assets) {
    return [&project, &assets, known = std::make_shared<std::map<Id, size_t>>()](const Id& id) -> size_t {
        if (const auto at = known->find(id); at != known->end()) return at->second;
        const MapFile* map = project.map(id);
        const Result<ImageFacts> facts = map ? imageFacts(assets.resolve(map->path)) : Result<ImageFacts>(Error{"map.missing", {}, {}});
        return (*known)[id] = facts ? cardBytes(map->format, facts->width, facts->height, facts->channels, facts->type) : 0;
    };
}

} // namespace hue
