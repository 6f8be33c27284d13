#include "core/pack/pack.h"

#include "core/base/value.h"
#include "core/image_files/image_file.h"
#include "core/images/row_resizer.h"
#include "core/maps/normal_tools.h"
#include "core/pack/lane_ops.h"
#include "core/pack/pack_job.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {

using namespace packing;

namespace {

namespace fs = std::filesystem;

constexpr std::string_view kLanes[] = {"red", "green", "blue", "alpha"};

/// Channel of a map behind a take, or -1 when it is computed; -2 when the map lacks it.
int channelOf(const std::string& take, int channels) {
    const size_t c = std::string("rgba").find(take);
    if (take.size() != 1 || c == std::string::npos) return -1;
    if (c == 3) return channels == 4 ? 3 : channels == 2 ? 1 : -2;
    if (channels < 3) return 0;
    return int(c);
}

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
    bool flows = true, any = false;
    size_t whole = 0; // of lanes that need their sources as a whole, the most of a lane beside the sources
    std::map<std::string, const ImageFacts*> files;
    for (int l = 0; l < job.plan.channels; ++l) {
        Ready& ready = job.lanes[size_t(l)];
        const Lane& lane = recipe.lanes[size_t(l)];
        ready.lane = &lane;
        ready.encode = recipe.srgb && l < 3;
        for (const LaneOp& op : lane.ops) ready.flows = ready.flows && isPointwise(op);
        if (lane.from == Lane::From::Wire) ready.flows = false;
        if (lane.from == Lane::From::Map) {
            any = true;
            ready.source = &r.sources.at(lane.source);
            ready.facts = facts.at(lane.source);
            files[ready.source->file.string()] = &facts.at(lane.source);
            ready.channel = channelOf(lane.take, ready.facts.channels);
            if (ready.channel == -2)
                return Error{
                    "pack.take",
                    fmt::format("The lane {} takes alpha of {}, which has none. Take another channel, or give the lane a constant.",
                                kLanes[l], ready.source->file.string()),
                    {}};
            const bool alpha = lane.take == "a";
            ready.decode = ready.source->encoded() && !alpha && lane.take != "height" &&
                           (ready.facts.type == SampleType::U8 || ready.facts.type == SampleType::U16);
            ready.resizes = ready.facts.width != width || ready.facts.height != height;
            // What is decoded only to be encoded again stays as it is.
            if (ready.decode && ready.encode && ready.channel >= 0 && lane.ops.empty() && !ready.resizes)
                ready.decode = ready.encode = false;
            ready.flows = ready.flows && (ready.channel >= 0 || lane.take == "luma");
            ready.copies =
                !ready.resizes && ready.channel >= 0 && lane.ops.empty() && ready.facts.type == recipe.type && ready.decode == ready.encode;
            if (ready.resizes) job.strip = std::min(job.strip, std::max(16, int(kStrip * int64_t(height) / ready.facts.height)));
        }
        flows = flows && ready.flows;
        // A plane, and what resizing and blurring take beside it.
        whole = std::max(whole, ready.source ? size_t(ready.facts.width) * size_t(ready.facts.height) * 4 : 0);
    }
    job.plan.flows = flows && any;
    size_t& working = job.plan.workingBytes;
    if (job.plan.flows) {
        working = size_t(width) * size_t(job.strip) * (size_t(job.plan.channels) * bytesOf(recipe.type));
        for (const auto& [path, f] : files) working += size_t(f->width) * kStrip * size_t(f->channels) * bytesOf(f->type);
        for (int l = 0; l < job.plan.channels; ++l)
            if (const Ready& ready = job.lanes[size_t(l)]; ready.resizes)
                working +=
                    RowResizer(ready.facts.width, ready.facts.height, width, height, recipe.filter).keptRows(kStrip) * size_t(width) * 4 +
                    size_t(width) * size_t(job.strip) * 4 + size_t(ready.facts.width) * kStrip * 4;
    } else {
        working = whole * 2 + size_t(width) * size_t(height) * 8;
        for (const auto& [path, f] : files) working += size_t(f->width) * size_t(f->height) * size_t(f->channels) * bytesOf(f->type);
    }
    return job;
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
        // A source that no further lane takes from is let go.
        std::erase_if(read, [&](const auto& kept) {
            return std::none_of(job.lanes.begin() + l + 1, job.lanes.end(),
                                [&](const Ready& later) { return later.source && later.source->file.string() == kept.first; });
        });
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
    if (!job->plan.flows) return packWhole(request, *job);
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
    if (!job->plan.flows) {
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

Result<Image> packPreview(PackRequest request, int side) {
    Recipe& recipe = request.recipe;
    recipe.type = SampleType::U8;
    for (Lane& lane : recipe.lanes)
        if (lane.from == Lane::From::Map && !request.sources.contains(lane.source)) lane = {};
    if (std::all_of(recipe.lanes.begin(), recipe.lanes.end(), [](const Lane& l) { return l.from == Lane::From::Nothing; })) return Image{};
    auto plan = planPack(request);
    if (!plan) return plan.error();
    const int longer = std::max(plan->width, plan->height);
    if (longer > side) {
        recipe.size = side;
        for (Lane& lane : recipe.lanes)
            for (LaneOp& op : lane.ops)
                if (op.kind == LaneOp::Kind::Blur || op.kind == LaneOp::Kind::Dilate) op.amount *= float(side) / float(longer);
    }
    return pack(request);
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

} // namespace hue
