#include "core/pack/pack.h"

#include "core/document/value.h"
#include "core/maps/image_file.h"
#include "core/maps/normal_tools.h"
#include "core/pack/lane_ops.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <tbb/parallel_for.h>

namespace hue {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view kLanes[] = {"red", "green", "blue", "alpha"};
constexpr int kStrip = 256; ///< rows that flow through at once

/// Channel of a map behind a take, or -1 when it is computed; -2 when the map lacks it.
int channelOf(const std::string& take, int channels) {
    const size_t c = std::string("rgba").find(take);
    if (take.size() != 1 || c == std::string::npos) return -1;
    if (c == 3) return channels == 4 ? 3 : channels == 2 ? 1 : -2;
    if (channels < 3) return 0;
    return int(c);
}

bool stopped(const PackRequest& r) { return r.cancelled && r.cancelled->load(); }
Error cancelled() { return {"pack.cancelled", "Packing was cancelled; nothing was written.", {}}; }

/// A lane made ready: what it reads, with the file's facts.
struct Ready {
    const Lane* lane = nullptr;
    const PackSource* source = nullptr;
    ImageFacts facts;
    int channel = -1;
    bool decode = false; ///< the source is sRGB here
    bool encode = false; ///< the lane is stored as sRGB
    bool copies = false; ///< samples go over as they are
    bool pointwise = true;
};

struct Job {
    PackPlan plan;
    std::array<Ready, 4> lanes;
};

Result<Job> prepare(const PackRequest& r) {
    const Recipe& recipe = r.recipe;
    if (const std::string problem = problemOf(recipe); !problem.empty()) return Error{"recipe.problem", problem, {}};
    Job job;
    job.plan.channels = recipe.channels();
    std::map<std::string, ImageFacts> facts;
    for (const std::string& role : recipe.sources()) {
        const auto it = r.sources.find(role);
        if (it == r.sources.end()) {
            std::vector<std::string> have;
            for (const auto& [name, s] : r.sources) have.push_back(name);
            return Error{"pack.no-source",
                         fmt::format("The recipe {} needs a map for {}, and there is {}. Give it one, or a constant to its lane.",
                                     recipe.name, role, have.empty() ? "none at all" : fmt::format("only {}", fmt::join(have, ", "))),
                         {}};
        }
        auto found = imageFacts(it->second.file);
        if (!found) return found.error();
        facts[role] = *found;
    }
    int width = 0, height = 0;
    for (const auto& [role, f] : facts)
        if (size_t(f.width) * size_t(f.height) > size_t(width) * size_t(height)) width = f.width, height = f.height;
    if (!width) width = height = 1024;
    if (recipe.size) {
        const double ratio = double(recipe.size) / std::max(width, height);
        width = std::max(1, int(width * ratio + 0.5)), height = std::max(1, int(height * ratio + 0.5));
    }
    job.plan.width = width, job.plan.height = height;
    bool direct = true, any = false;
    size_t working = 0;
    for (int l = 0; l < job.plan.channels; ++l) {
        Ready& ready = job.lanes[size_t(l)];
        const Lane& lane = recipe.lanes[size_t(l)];
        ready.lane = &lane;
        ready.encode = recipe.srgb && l < 3;
        for (const LaneOp& op : lane.ops) ready.pointwise = ready.pointwise && isPointwise(op);
        if (lane.from == Lane::From::Wire) direct = false;
        if (lane.from != Lane::From::Map) continue;
        any = true;
        ready.source = &r.sources.at(lane.source);
        ready.facts = facts.at(lane.source);
        ready.channel = channelOf(lane.take, ready.facts.channels);
        if (ready.channel == -2)
            return Error{"pack.take",
                         fmt::format("The lane {} takes alpha of {}, which has none. Take another channel, or give the lane a constant.",
                                     kLanes[l], ready.source->file.string()),
                         {}};
        const bool alpha = lane.take == "a";
        ready.decode = ready.source->encoded() && !alpha && lane.take != "height" &&
                       (ready.facts.type == SampleType::U8 || ready.facts.type == SampleType::U16);
        // What is decoded only to be encoded again stays as it is.
        if (ready.decode && ready.encode && ready.channel >= 0 && lane.ops.empty()) ready.decode = ready.encode = false;
        const bool sameSize = ready.facts.width == width && ready.facts.height == height;
        ready.pointwise = ready.pointwise && sameSize && ready.channel >= 0;
        ready.copies =
            sameSize && ready.channel >= 0 && lane.ops.empty() && ready.facts.type == recipe.type && ready.decode == ready.encode;
        if (!ready.pointwise) direct = false;
        working += ready.pointwise ? size_t(width) * kStrip * size_t(ready.facts.channels) * bytesOf(ready.facts.type)
                                   : size_t(ready.facts.width) * size_t(ready.facts.height) *
                                             (size_t(ready.facts.channels) * bytesOf(ready.facts.type) + 4) +
                                         size_t(width) * size_t(height) * 4;
    }
    job.plan.direct = direct && any;
    job.plan.workingBytes = working + size_t(width) * kStrip * size_t(job.plan.channels) * bytesOf(recipe.type);
    return job;
}

/// Reads every file once, however many lanes take from it, strip by strip side by side.
class Strips {
  public:
    explicit Strips(const Job& job) {
        for (const Ready& r : job.lanes) {
            if (!r.source) continue;
            const std::string key = r.source->file.string();
            if (m_files.contains(key)) continue;
            m_files[key] = m_open.size();
            m_open.push_back({r.source->file, {}, r.facts, {}});
        }
    }
    Outcome open() {
        for (File& f : m_open) {
            auto reader = ImageReader::open(f.path);
            if (!reader) return reader.error();
            f.reader = std::move(*reader);
        }
        return Done{};
    }
    Outcome read(int from, int to) {
        std::vector<Outcome> outcomes(m_open.size(), Done{});
        tbb::parallel_for(size_t(0), m_open.size(), [&](size_t i) {
            File& f = m_open[i];
            const size_t row = size_t(f.facts.width) * size_t(f.facts.channels) * bytesOf(f.facts.type);
            f.strip.resize(row * size_t(to - from));
            outcomes[i] = f.reader->rows(from, to, f.strip.data());
        });
        for (const Outcome& o : outcomes)
            if (!o) return o;
        return Done{};
    }
    const std::byte* strip(const Ready& r) const { return m_open[m_files.at(r.source->file.string())].strip.data(); }

  private:
    struct File {
        fs::path path;
        std::unique_ptr<ImageReader> reader;
        ImageFacts facts;
        std::vector<std::byte> strip;
    };
    std::map<std::string, size_t> m_files;
    std::vector<File> m_open;
};

float constantOf(const Ready& r) {
    const Lane& lane = *r.lane;
    // A lane between others that nothing feeds is 0, and alpha 1 would be a lie about what is there.
    float v = lane.from == Lane::From::Constant ? lane.constant : 0;
    for (const LaneOp& op : lane.ops)
        if (isPointwise(op)) v = applied(op, v);
    return r.encode ? linearToSrgb(std::max(v, 0.f)) : v;
}

/// Strip by strip from the sources to `sink`.
template <class Sink> Outcome flow(const PackRequest& request, const Job& job, Sink sink) {
    Strips strips(job);
    if (Outcome o = strips.open(); !o) return o;
    const PackPlan& plan = job.plan;
    const SampleType type = request.recipe.type;
    const size_t step = bytesOf(type), pixel = step * size_t(plan.channels);
    std::vector<std::byte> out(size_t(plan.width) * kStrip * pixel);
    std::array<std::byte, 16> constants{};
    for (int l = 0; l < plan.channels; ++l) {
        const float v = constantOf(job.lanes[size_t(l)]);
        fromFloats(type, &v, 1, constants.data() + size_t(l) * step);
    }
    for (int y = 0; y < plan.height; y += kStrip) {
        if (stopped(request)) return cancelled();
        const int count = std::min(kStrip, plan.height - y);
        if (Outcome o = strips.read(y, y + count); !o) return o;
        forRows(count, request.threads, [&](int from, int to) {
            std::vector<float> row, one;
            for (int l = 0; l < plan.channels; ++l) {
                const Ready& r = job.lanes[size_t(l)];
                for (int i = from; i < to; ++i) {
                    std::byte* to_ = out.data() + size_t(i) * size_t(plan.width) * pixel + size_t(l) * step;
                    if (!r.source) {
                        for (int x = 0; x < plan.width; ++x, to_ += pixel) std::memcpy(to_, constants.data() + size_t(l) * step, step);
                        continue;
                    }
                    const size_t sourceStep = bytesOf(r.facts.type), sourcePixel = sourceStep * size_t(r.facts.channels);
                    const std::byte* from_ =
                        strips.strip(r) + size_t(i) * size_t(plan.width) * sourcePixel + size_t(r.channel) * sourceStep;
                    if (r.copies && step == 1) {
                        for (int x = 0; x < plan.width; ++x, to_ += pixel, from_ += sourcePixel) *to_ = *from_;
                        continue;
                    }
                    if (r.copies) {
                        for (int x = 0; x < plan.width; ++x, to_ += pixel, from_ += sourcePixel) std::memcpy(to_, from_, step);
                        continue;
                    }
                    for (int x = 0; x < plan.width; ++x, to_ += pixel, from_ += sourcePixel) {
                        float v;
                        toFloats(r.facts.type, from_, 1, &v);
                        if (r.decode) v = srgbToLinear(v);
                        for (const LaneOp& op : r.lane->ops) v = applied(op, v);
                        if (r.encode) v = linearToSrgb(std::max(v, 0.f));
                        fromFloats(type, &v, 1, to_);
                    }
                }
            }
        });
        if (Outcome o = sink(out.data(), count); !o) return o;
        if (request.progress) request.progress(float(y + count) / float(plan.height));
    }
    return Done{};
}

Result<Plane> laneOf(const PackRequest& request, const Job& job, const Ready& r, std::map<std::string, Image>& read) {
    const PackPlan& plan = job.plan;
    const Lane& lane = *r.lane;
    Plane out;
    std::optional<Plane> inside;
    if (lane.from == Lane::From::Map) {
        const std::string key = r.source->file.string();
        if (!read.contains(key)) {
            auto image = readImage(r.source->file);
            if (!image) return image.error();
            read[key] = std::move(*image);
        }
        const Image& image = read[key];
        const HeightScale scale{1, 0.05f};
        if (lane.take == "luma") {
            out = planeOf(image, 0);
            if (image.channels >= 3) {
                const Plane g = planeOf(image, 1), b = planeOf(image, 2);
                auto light = [&](float v) { return r.decode ? srgbToLinear(v) : v; };
                for (size_t i = 0; i < out.values.size(); ++i)
                    out.values[i] = 0.2126f * light(out.values[i]) + 0.7152f * light(g.values[i]) + 0.0722f * light(b.values[i]);
            } else if (r.decode) {
                for (float& v : out.values) v = srgbToLinear(v);
            }
        } else if (lane.take == "height") out = heightFromNormals(image, 1);
        else if (lane.take == "occlusion") out = occlusionFromHeight(planeOf(image, 0), scale);
        else if (lane.take == "curvature") out = curvatureFromHeight(planeOf(image, 0), scale);
        else {
            out = planeOf(image, r.channel);
            if (r.decode)
                for (float& v : out.values) v = srgbToLinear(v);
        }
        const int alpha = image.channels == 4 ? 3 : image.channels == 2 ? 1 : -1;
        const bool dilates =
            std::any_of(lane.ops.begin(), lane.ops.end(), [](const LaneOp& op) { return op.kind == LaneOp::Kind::Dilate; });
        if (dilates && alpha >= 0) inside = resized(planeOf(image, alpha), plan.width, plan.height, Filter::Nearest);
        out = resized(out, plan.width, plan.height, request.recipe.filter);
    } else if (lane.from == Lane::From::Wire) {
        if (!request.wire)
            return Error{"pack.no-source", fmt::format("A lane reads the wire {}, and there is no project to find it in.", lane.wire), {}};
        auto wire = request.wire(lane.wire, plan.width, plan.height);
        if (!wire) return wire.error();
        out = std::move(*wire);
    } else {
        out = Plane(plan.width, plan.height, lane.from == Lane::From::Constant ? lane.constant : 0);
    }
    for (const LaneOp& op : lane.ops) apply(op, out, inside ? &*inside : nullptr);
    if (r.encode)
        for (float& v : out.values) v = linearToSrgb(std::max(v, 0.f));
    return out;
}

Result<Image> packWhole(const PackRequest& request, const Job& job) {
    Image out(job.plan.width, job.plan.height, job.plan.channels, request.recipe.type);
    std::map<std::string, Image> read;
    for (int l = 0; l < job.plan.channels; ++l) {
        if (stopped(request)) return cancelled();
        auto plane = laneOf(request, job, job.lanes[size_t(l)], read);
        if (!plane) return plane.error();
        setChannel(out, l, *plane);
        if (request.progress) request.progress(float(l + 1) / float(job.plan.channels));
    }
    return out;
}

} // namespace

Result<PackPlan> planPack(const PackRequest& request) {
    auto job = prepare(request);
    if (!job) return job.error();
    return job->plan;
}

Result<Image> pack(const PackRequest& request) {
    auto job = prepare(request);
    if (!job) return job.error();
    if (!job->plan.direct) return packWhole(request, *job);
    Image out(job->plan.width, job->plan.height, job->plan.channels, request.recipe.type);
    int y = 0;
    const Outcome flowed = flow(request, *job, [&](const std::byte* rows, int count) -> Outcome {
        std::memcpy(out.row(y), rows, out.rowBytes() * size_t(count));
        y += count;
        return Done{};
    });
    if (!flowed) return flowed.error();
    return out;
}

Outcome packToFile(const PackRequest& request, const fs::path& file) {
    auto job = prepare(request);
    if (!job) return job.error();
    const ImageFacts facts{job->plan.width, job->plan.height, job->plan.channels, request.recipe.type, {}};
    const PixelEncoding encoding = request.recipe.srgb ? PixelEncoding::Srgb : PixelEncoding::Data;
    if (!job->plan.direct) {
        auto image = packWhole(request, *job);
        if (!image) return image.error();
        return writeImage(file, *image, encoding);
    }
    auto writer = ImageWriter::create(file, facts, encoding);
    if (!writer) return writer.error();
    if (Outcome flowed = flow(request, *job, [&](const std::byte* rows, int count) { return (*writer)->rows(rows, count); }); !flowed)
        return flowed;
    return (*writer)->finish();
}

MipMeaning mipMeaningOf(const Recipe& recipe) {
    MipMeaning m;
    m.encoded = recipe.srgb;
    for (int l = 0; l < 4; ++l) {
        const std::string& meaning = recipe.lanes[size_t(l)].meaning;
        if (meaning == "normal x") m.normal[0] = l;
        if (meaning == "normal y") m.normal[1] = l;
        if (meaning == "coverage") m.coverage = l;
        if (meaning == "roughness" && recipe.raiseRoughness) m.roughness = l;
    }
    return m;
}

Result<std::vector<fs::path>> unpack(const fs::path& file, const Recipe* recipe, const fs::path& folder) {
    auto image = readImage(file);
    if (!image) return image.error();
    std::string stem = file.stem().string();
    if (recipe && !recipe->suffix.empty() && stem.ends_with(recipe->suffix)) stem.resize(stem.size() - recipe->suffix.size());
    static constexpr std::string_view names[] = {"red", "green", "blue", "alpha"};
    std::vector<fs::path> written;
    const bool floats = image->type == SampleType::F16 || image->type == SampleType::F32;
    std::vector<bool> done(size_t(image->channels), false);
    auto write = [&](const std::string& name, const std::vector<int>& channels) -> Outcome {
        std::vector<Plane> planes;
        for (int c : channels) {
            Plane plane = planeOf(*image, c);
            const std::vector<LaneOp> ops = recipe ? recipe->lanes[size_t(c)].ops : std::vector<LaneOp>{};
            const bool encoded = recipe && recipe->srgb && c < 3;
            for (float& v : plane.values) {
                if (encoded && channels.size() == 1) v = srgbToLinear(v);
                for (size_t k = ops.size(); k-- > 0;) {
                    if (ops[k].kind == LaneOp::Kind::Invert) v = 1 - v;
                    if (ops[k].kind == LaneOp::Kind::Remap && ops[k].newLow != ops[k].newHigh)
                        v = ops[k].low + (v - ops[k].newLow) / (ops[k].newHigh - ops[k].newLow) * (ops[k].high - ops[k].low);
                }
            }
            planes.push_back(std::move(plane));
            done[size_t(c)] = true;
        }
        std::string clean = name;
        std::replace(clean.begin(), clean.end(), ' ', '_');
        const fs::path to = folder / (stem + "_" + clean + (floats ? ".exr" : ".png"));
        const bool color = channels.size() == 3 && recipe && recipe->srgb;
        if (Outcome o = writeImage(to, imageOf(planes, image->type), color ? PixelEncoding::Srgb : PixelEncoding::Data); !o) return o;
        written.push_back(to);
        return Done{};
    };
    for (int c = 0; c < image->channels; ++c) {
        if (done[size_t(c)]) continue;
        std::string name(image->channels < 3 && c == 0 ? "grey" : image->channels == 2 ? "alpha" : names[c]);
        std::vector<int> channels{c};
        if (recipe && recipe->lanes[size_t(c)].from == Lane::From::Map) {
            name = recipe->lanes[size_t(c)].source;
            // Red, green and blue of one source were a color, and come out as one.
            for (int k = c + 1; k < std::min(image->channels, 3); ++k)
                if (recipe->lanes[size_t(k)].from == Lane::From::Map && recipe->lanes[size_t(k)].source == name) channels.push_back(k);
            if (channels.size() == 2) {
                // Two components of a normal come out with the third.
                Image two = imageOf({planeOf(*image, channels[0]), planeOf(*image, channels[1])}, image->type);
                std::string clean = name;
                std::replace(clean.begin(), clean.end(), ' ', '_');
                const fs::path to = folder / (stem + "_" + clean + (floats ? ".exr" : ".png"));
                if (Outcome o = writeImage(to, renormalised(two, true), PixelEncoding::Data); !o) return o.error();
                written.push_back(to);
                for (int k : channels) done[size_t(k)] = true;
                continue;
            }
        } else if (recipe && recipe->lanes[size_t(c)].from == Lane::From::Constant) {
            continue;
        }
        if (Outcome o = write(name, channels); !o) return o.error();
    }
    return written;
}

Result<std::vector<FileSet>> setsInFolder(const fs::path& folder, const std::string& pattern) {
    const size_t star = pattern.find('*'), role = pattern.find("{role}");
    if (star == std::string::npos || role == std::string::npos || star > role || pattern.find('*', star + 1) != std::string::npos)
        return Error{
            "pattern.odd",
            fmt::format(
                "The pattern {} should have one * for the set's name and then {{role}} for what a map holds, such as *_{{role}}.png.",
                pattern),
            {}};
    std::error_code none;
    if (!fs::is_directory(folder, none)) return Error{"folder.missing", fmt::format("There is no folder {}.", folder.string()), {}};
    const std::string head = pattern.substr(0, star), between = pattern.substr(star + 1, role - star - 1), tail = pattern.substr(role + 6);
    std::map<std::string, FileSet> sets;
    for (const auto& entry : fs::directory_iterator(folder, none)) {
        const std::string name = entry.path().filename().string();
        if (!entry.is_regular_file(none) || !name.starts_with(head) || !name.ends_with(tail) || name.size() <= head.size() + tail.size())
            continue;
        const std::string middle = name.substr(head.size(), name.size() - head.size() - tail.size());
        // The role is what stands behind the last place that fits; sets may have underscores in their names.
        for (size_t at = middle.size(); at-- > 0;) {
            if (middle.compare(at, between.size(), between) != 0) continue;
            const std::string set = middle.substr(0, at), word = middle.substr(std::min(middle.size(), at + between.size()));
            const Guess guess = guessOfName(word + ".");
            if (guess.role.empty() || set.empty()) continue;
            sets[set].name = set;
            sets[set].maps[guess.role] = {entry.path(), guess.kind};
            break;
        }
    }
    std::vector<FileSet> out;
    for (auto& [name, set] : sets) out.push_back(std::move(set));
    return out;
}

} // namespace hue
