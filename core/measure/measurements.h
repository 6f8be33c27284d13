#pragma once
// Measured figures, kept by what was measured: the second question is answered at once.
// Threads: any. What is kept between calls is kept under a lock; one process asks a family at a time.
#include "core/measure/driver.h"

#include <mutex>

namespace hue {

class Measurements {
  public:
    /// `cache`: folder of what is kept between runs; empty: only in memory.
    explicit Measurements(std::filesystem::path cache = defaultCache(), DriverPlace place = {});
    static std::filesystem::path defaultCache();

    /// As compiledFor(), of what is not known yet. Errors are not kept.
    std::vector<Result<Reading>> of(const Family& family, std::span<const StagePair> pairs, const Work& work = {});
    /// How many pairs a driver was asked for since this was made.
    int asked() const { return m_asked; }
    const DriverPlace& place() const { return m_place; }

  private:
    std::string keyOf(const Family& family, const StagePair& pair) const;
    std::filesystem::path m_cache;
    DriverPlace m_place;
    std::mutex m_mutex; ///< of what is known
    std::map<std::string, Reading> m_known;
    std::map<std::string_view, std::unique_ptr<std::mutex>> m_asking; ///< by family
    std::atomic<int> m_asked = 0;
};

/// What a material costs on a family, beside what any material costs there.
struct Measured {
    Reading whole, bare;
    /// Without the fixed costs, at least 0.
    double pixel(const std::string& figure) const { return std::max(0., whole.pixel(figure) - bare.pixel(figure)); }
    double vertex(const std::string& figure) const { return std::max(0., whole.vertex(figure) - bare.vertex(figure)); }
};
/// On each of the families, side by side. Errors: those of compiledFor(), language.refused.
std::vector<Result<Measured>> measured(Measurements& measurements, const Compilation& compiled, AlphaMode alpha,
                                       std::span<const Family> on = families(), const Work& work = {});

/// A material in a state: what a change of it left.
struct Material {
    Compilation compiled;
    AlphaMode alpha = AlphaMode::Opaque;
};
/// Of each on a family, by one process for all that is not known. Errors stand in their places: those of compiledFor(), language.refused.
std::vector<Result<Reading>> readingsOf(Measurements& measurements, std::span<const Material> materials, const Family& family,
                                        const Work& work = {});

/// How many subgroups run beside each other on a family by the vector registers of each, as its driver says of stages made to need ever
/// more of them. Empty where nothing can be measured.
struct OccupancyStep {
    int registers = 0; ///< at most so many
    int subgroups = 0;
};
std::vector<OccupancyStep> occupancySteps(Measurements& measurements, const Family& family);
/// "2 registers fewer give 1 subgroup more"; empty where as many run as can.
std::string nextStepWords(const std::vector<OccupancyStep>& steps, const Reading& reading);

} // namespace hue
