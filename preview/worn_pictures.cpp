#include "preview/worn_pictures.h"

#include "core/nodes/catalogue.h"
#include "preview/lineup_pictures.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {

Result<std::unique_ptr<WornPictures>> WornPictures::start(const Project& project, Assets& assets) {
    auto context = EglContext::create();
    if (!context) return context.error();
    std::unique_ptr<WornPictures> out(new WornPictures(project, assets));
    out->m_context = std::move(*context);
    out->m_context->makeCurrent();
    out->m_renderer = std::make_unique<Renderer>();
    return out;
}

Result<RenderedPicture> WornPictures::draw(const Project& p, const Id& worn) {
    Specimen specimen;
    specimen.mesh = mesh;
    specimen.wears = {worn};
    RenderSettings settings = settingsFor(p, specimen, m_lights, m_assets.folder(), true);
    if (!settings.lightFile->problem.empty()) return Error{"light.file", settings.lightFile->problem, {}};
    settings.view = 0;
    settings.width = settings.height = side;
    const DressedSpecimen dressed = dress(p, m_assets, m_looks, specimen, time);
    if (const std::string error = dressed.error(); !error.empty())
        return Error{"picture.error", fmt::format("{}: {}", p.nameOf(worn), error), {}};
    Result<RenderedPicture> picture = renderWithSamples(*m_renderer, dressed, settings, samples);
    if (!picture) return Error{picture.error().code, sentenceWithCard(p, picture.error()), {}};
    return picture;
}

Result<std::vector<uint8_t>> WornPictures::sheet(const std::vector<Id>& worn, const SheetLayout& layout, const Work& work) {
    if (const Outcome fits = layout.fits(); !fits) return fits.error();
    side = layout.side;
    ContactSheet sheet(layout);
    const bool ofOne =
        std::all_of(worn.begin(), worn.end(), [&](const Id& id) { return m_project.masterOf(id) == m_project.masterOf(worn[0]); });
    for (size_t k = 0; k < worn.size(); ++k) {
        if (work.stopped()) return Error{"stopped", "The sheet was not written.", {}};
        const Result<RenderedPicture> picture = draw(worn[k]);
        if (!picture) return picture.error();
        const Instance* instance = m_project.instance(worn[k]);
        sheet.put(int(k), picture->rgba, ofOne && instance ? instance->name : m_project.nameOf(worn[k]));
        if (work.progress) work.progress(float(k + 1) / float(worn.size()));
    }
    return sheet.rgba();
}

Result<LooksApart> LooksApart::start(const Project& first, Assets& assets, const std::vector<Id>& worn, int side) {
    auto pictures = WornPictures::start(first, assets);
    if (!pictures) return pictures.error();
    (*pictures)->side = side;
    (*pictures)->samples = 4;
    std::vector<Look> looks;
    for (const Id& id : worn) {
        Result<RenderedPicture> before = (*pictures)->draw(id);
        if (before) looks.push_back({id, std::move(*before)});
        else if (looks.empty()) return before.error();
    }
    return LooksApart(std::move(*pictures), std::move(looks));
}

Result<LooksApart::Apart> LooksApart::of(const Project& state) {
    Apart out;
    for (size_t k = 0; k < m_first.size(); ++k) {
        Result<RenderedPicture> now = m_pictures->draw(state, m_first[k].worn);
        if (!now) return now.error();
        const Comparison by = compare(viewOf(m_first[k].picture), viewOf(*now));
        if (k == 0 || by.mean > out.by.mean) out = {k, by, std::move(*now)};
    }
    return out;
}

} // namespace hue
