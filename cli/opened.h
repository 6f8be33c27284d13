#pragma once
// A project on the command line, and what names on it mean.
#include "cli/commands.h"
#include "core/project/assets.h"
#include "core/project/store.h"

#include <memory>

namespace hue::cli {

/// A project with its files at hand.
struct Opened {
    Project project;
    std::vector<Diagnostic> report;
    std::string hash; ///< of the file as it was read
    Assets assets;
};
Result<std::shared_ptr<Opened>> open(const Options& o);

/// A master or Master/Instance by name, or either by id. Error: name.unknown, with the names there are.
Result<Id> find(const Project& p, const std::string& name);
/// By name or id, or a shape's name, with "/1" to "/5" for its density.
Result<Id> findMesh(const Project& p, const std::string& name);
/// Of the lineup, from 1.
Result<Specimen> findSpecimen(const Project& p, int number);
/// "CARD.PORT" or "CARD.PORT.TAKE", by ids. Error: wire.unknown, with what there is.
Result<Source> wireOf(const Project& project, const Master& master, const std::string& text);

} // namespace hue::cli
