#include "core/measure/measurements.h"

#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/emit/emit_glsl.h"
#include "core/languages/vulkan_spirv.h"
#include "core/surface/surface_stages.h"

#include <fmt/format.h>
#include <fstream>

namespace hue {

namespace fs = std::filesystem;

Measurements::Measurements(fs::path cache, DriverPlace place) : m_cache(std::move(cache)), m_place(std::move(place)) {
    for (const Family& f : families()) m_asking[f.key] = std::make_unique<std::mutex>();
}

fs::path Measurements::defaultCache() { return cacheFolder("measured"); }

std::string Measurements::keyOf(const Family& family, const StagePair& pair) const {
    Hash h;
    h.add(std::string(family.key));
    // Another driver may make something else of it.
    static const std::string driver = [] {
        std::string out;
        std::error_code none;
        for (const char* file : {"/usr/lib/x86_64-linux-gnu/libvulkan_radeon.so", "/usr/lib/aarch64-linux-gnu/libvulkan_radeon.so"})
            if (fs::exists(file, none))
                out += fmt::format("{} {}", fs::file_size(file, none), fs::last_write_time(file, none).time_since_epoch().count());
        return out;
    }();
    h.add(driver);
    h.number(pair.vertex.size());
    h.add(pair.vertex.data(), pair.vertex.size() * 4);
    h.add(pair.fragment.data(), pair.fragment.size() * 4);
    return h.text();
}

std::vector<Result<Reading>> Measurements::of(const Family& family, std::span<const StagePair> pairs, const Work& work) {
    std::vector<std::string> keys;
    for (const StagePair& p : pairs) keys.push_back(keyOf(family, p));
    const auto known = [&](const std::string& key) -> std::optional<Reading> {
        {
            const std::lock_guard lock(m_mutex);
            if (const auto it = m_known.find(key); it != m_known.end()) return it->second;
        }
        if (m_cache.empty()) return {};
        std::ifstream file(m_cache / (key + ".json"));
        if (!file) return {};
        const Result<Reading> read = readingFrom(std::string(std::istreambuf_iterator<char>(file), {}));
        if (!read) return {};
        const std::lock_guard lock(m_mutex);
        return m_known[key] = *read;
    };
    std::vector<std::optional<Reading>> found;
    for (const std::string& key : keys) found.push_back(known(key));
    if (std::any_of(found.begin(), found.end(), [](const auto& f) { return !f; })) {
        const auto turn = m_asking.find(family.key);
        std::unique_lock<std::mutex> asking;
        if (turn != m_asking.end()) asking = std::unique_lock(*turn->second);
        std::vector<StagePair> wanted;
        std::vector<size_t> at;
        for (size_t k = 0; k < pairs.size(); ++k)
            if (!found[k] && !(found[k] = known(keys[k]))) wanted.push_back(pairs[k]), at.push_back(k);
        m_asked += int(wanted.size());
        std::vector<Result<Reading>> fresh = compiledFor(family, wanted, m_place, work);
        std::vector<Result<Reading>> out;
        size_t next = 0;
        for (size_t k = 0; k < pairs.size(); ++k) {
            if (next < at.size() && at[next] == k) {
                Result<Reading>& r = fresh[next++];
                if (r) {
                    const std::lock_guard lock(m_mutex);
                    m_known[keys[k]] = *r;
                }
                // A cache that cannot be written is none.
                if (r && !m_cache.empty()) (void)writeFile(m_cache / (keys[k] + ".json"), readingText(*r), Folders::Make);
                out.push_back(std::move(r));
            } else {
                out.emplace_back(*found[k]);
            }
        }
        return out;
    }
    std::vector<Result<Reading>> out;
    for (auto& f : found) out.emplace_back(std::move(*f));
    return out;
}

std::vector<Result<Measured>> measured(Measurements& measurements, const Compilation& compiled, AlphaMode alpha, std::span<const Family> on,
                                       const Work& work) {
    const Stages stages = stagesOf(compiled);
    const Result<StagePair> whole = deferredStages(stages, alpha), bare = whole ? bareStages(stages, alpha) : whole;
    if (!whole || !bare) return std::vector<Result<Measured>>(on.size(), Result<Measured>(whole ? bare.error() : whole.error()));
    const StagePair pairs[] = {*whole, *bare};
    std::vector<std::optional<Result<Measured>>> each(on.size());
    inBands(on.size(), 1, 0, [&](size_t first, size_t last) {
        for (size_t k = first; k < last; ++k) {
            auto readings = measurements.of(on[k], pairs, work);
            each[k] = !readings[0]   ? Result<Measured>(readings[0].error())
                      : !readings[1] ? Result<Measured>(readings[1].error())
                                     : Result<Measured>(Measured{std::move(*readings[0]), std::move(*readings[1])});
        }
    });
    std::vector<Result<Measured>> out;
    for (auto& e : each) out.push_back(std::move(*e));
    return out;
}

std::vector<Result<Reading>> readingsOf(Measurements& measurements, std::span<const Material> materials, const Family& family,
                                        const Work& work) {
    std::vector<Result<StagePair>> stages(materials.size(), Error{"stopped", "Measuring was stopped.", {}});
    inBands(materials.size(), 1, work.threads, [&](size_t first, size_t last) {
        for (size_t k = first; k < last && !work.stopped(); ++k)
            stages[k] = deferredStages(stagesOf(materials[k].compiled), materials[k].alpha);
    });
    std::vector<StagePair> pairs;
    for (const auto& s : stages)
        if (s) pairs.push_back(*s);
    const std::vector<Result<Reading>> readings = measurements.of(family, pairs, work);
    std::vector<Result<Reading>> out;
    size_t next = 0;
    for (const auto& s : stages) out.push_back(s ? readings[next++] : Result<Reading>(s.error()));
    return out;
}

namespace {

/// Stages that hold so many numbers through a loop whose length nobody knows.
Result<StagePair> holding(int numbers) {
    std::string vertex = vertexStage(false), fragment(kGlslVersion), before, within, sum = "0.0";
    for (int k = 0; k < numbers; ++k) {
        before += fmt::format("  float x{} = v_uv0.x * {}.0 + v_uv0.y;\n", k, k + 1);
        within += fmt::format("    x{} = x{} * y + x{};\n", k, k, (k + 1) % numbers);
        sum += fmt::format(" + x{}", k);
    }
    fragment += "in vec2 v_uv0;\nuniform int u_turns;\nuniform float u_by;\nlayout(location = 0) out vec4 o_target0;\nvoid main() {\n" +
                before + "  float y = u_by;\n  for (int i = 0; i < u_turns; ++i) {\n" + within +
                "    y = y * 0.5 + x0;\n  }\n  o_target0 = vec4(" + sum + ");\n}\n";
    auto v = vulkanSpirv(ShaderStage::Vertex, vertex);
    if (!v) return v.error();
    auto f = vulkanSpirv(ShaderStage::Fragment, fragment);
    if (!f) return f.error();
    return StagePair{std::move(*v), std::move(*f)};
}

} // namespace

std::vector<OccupancyStep> occupancySteps(Measurements& measurements, const Family& family) {
    std::vector<StagePair> pairs;
    for (int numbers = 4; numbers <= 240; numbers += numbers < 132 ? 4 : 12)
        if (Result<StagePair> pair = holding(numbers)) pairs.push_back(std::move(*pair));
    std::map<int, int> most; ///< registers by subgroups
    for (const Result<Reading>& r : measurements.of(family, pairs)) {
        if (!r) return {};
        if (const int runs = int(r->pixel(kOccupancy)); runs > 0) most[runs] = std::max(most[runs], int(r->pixel(kVectorRegisters)));
    }
    std::vector<OccupancyStep> out;
    for (auto it = most.rbegin(); it != most.rend(); ++it) out.push_back({it->second, it->first});
    return out;
}

std::string nextStepWords(const std::vector<OccupancyStep>& steps, const Reading& reading) {
    const int registers = int(reading.pixel(kVectorRegisters)), runs = int(reading.pixel(kOccupancy));
    const OccupancyStep* next = nullptr;
    // The nearest step with more subgroups.
    for (const OccupancyStep& s : steps)
        if (s.subgroups > runs && s.registers < registers && (!next || s.subgroups < next->subgroups)) next = &s;
    if (!next) return {};
    const int fewer = registers - next->registers, more = next->subgroups - runs;
    return fmt::format("{} {} fewer {} {} {} more", fewer, fewer == 1 ? "register" : "registers", fewer == 1 ? "gives" : "give", more,
                       more == 1 ? "subgroup" : "subgroups");
}

} // namespace hue
