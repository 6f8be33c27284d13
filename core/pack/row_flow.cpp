// Packing strip by strip: each file is read once, however many lanes take from it, and sources of other sizes are resized as their rows
// come.
#include "core/base/value.h"
#include "core/base/work.h"
#include "core/images/row_resizer.h"
#include "core/pack/lane_ops.h"
#include "core/pack/pack_job.h"

#include <cstring>

namespace hue::packing {

namespace {

/// What a lane takes of a pixel, decoded.
float taken(const Ready& r, const std::byte* pixel) {
    const size_t step = bytesOf(r.facts.type);
    auto sample = [&](int channel) {
        float v;
        toFloats(r.facts.type, pixel + size_t(channel) * step, 1, &v);
        return r.decode ? srgbToLinear(v) : v;
    };
    if (r.channel >= 0) return sample(r.channel);
    if (r.facts.channels < 3) return sample(0);
    return 0.2126f * sample(0) + 0.7152f * sample(1) + 0.0722f * sample(2);
}

/// A source being read, and the lanes that take from it by other sizes.
class Source {
  public:
    Source(std::filesystem::path path, const ImageFacts& facts) : m_path(std::move(path)), m_facts(facts) {}
    void resizeFor(const Ready& lane, size_t number, const PackPlan& plan, Filter filter) {
        m_lanes.push_back({&lane, number, RowResizer(m_facts.width, m_facts.height, plan.width, plan.height, filter), {}});
    }

    Outcome open(int threads) {
        auto reader = ImageReader::open(m_path);
        if (!reader) return reader.error();
        m_reader = std::move(*reader);
        if (m_lanes.empty() || m_lanes[0].resizer.above() == 0) return Done{};
        // Edges wrap: the last rows come first, and have to be read in advance.
        auto ahead = ImageReader::open(m_path);
        if (!ahead) return ahead.error();
        const int first = m_facts.height - m_lanes[0].resizer.above();
        for (int y = 0; y < m_facts.height;) {
            const int to = std::min(y < first ? first : m_facts.height, y + kStrip);
            if (Outcome o = readWith(**ahead, y, to); !o) return o;
            if (y >= first) push(to - y, threads);
            y = to;
        }
        return Done{};
    }

    /// The next `count` rows of the result: at the same size the strip, else rows for each lane.
    Outcome advance(int count, int threads) {
        if (m_lanes.empty()) {
            const int from = m_at;
            m_at += count;
            return readWith(*m_reader, from, m_at);
        }
        while (m_lanes[0].resizer.ready() < count) {
            const int to = std::min(m_facts.height, m_at + kStrip);
            if (Outcome o = readWith(*m_reader, m_at, to); !o) return o;
            push(to - m_at, threads);
            m_at = to;
        }
        for (Resized& lane : m_lanes) lane.resizer.take(lane.rows.data(), count, threads);
        return Done{};
    }
    void makeRoom(const PackPlan& plan, int strip) {
        for (Resized& lane : m_lanes) lane.rows.resize(size_t(plan.width) * size_t(strip));
    }

    const std::byte* strip() const { return m_strip.data(); }
    const float* rowsOf(size_t lane) const {
        for (const Resized& r : m_lanes)
            if (r.number == lane) return r.rows.data();
        return nullptr;
    }

  private:
    struct Resized {
        const Ready* lane;
        size_t number;
        RowResizer resizer;
        std::vector<float> rows;
    };

    size_t rowBytes() const { return size_t(m_facts.width) * size_t(m_facts.channels) * bytesOf(m_facts.type); }
    Outcome readWith(ImageReader& reader, int from, int to) {
        m_strip.resize(rowBytes() * size_t(to - from));
        return reader.rows(from, to, m_strip.data());
    }
    void push(int count, int threads) {
        const size_t pixel = size_t(m_facts.channels) * bytesOf(m_facts.type);
        m_taken.resize(size_t(m_facts.width) * size_t(count));
        for (Resized& lane : m_lanes) {
            forRows(count, threads, [&](int from, int to) {
                const std::byte* at = m_strip.data() + size_t(from) * rowBytes();
                for (size_t i = size_t(from) * size_t(m_facts.width); i < size_t(to) * size_t(m_facts.width); ++i, at += pixel)
                    m_taken[i] = taken(*lane.lane, at);
            });
            lane.resizer.push(m_taken.data(), count, threads);
        }
    }

    std::filesystem::path m_path;
    ImageFacts m_facts;
    std::unique_ptr<ImageReader> m_reader;
    std::vector<std::byte> m_strip;
    std::vector<float> m_taken;
    std::vector<Resized> m_lanes;
    int m_at = 0;
};

float constantOf(const Ready& r) {
    const Lane& lane = *r.lane;
    // A lane between others that nothing feeds is 0, and alpha 1 would be a lie about what is there.
    float v = lane.from == Lane::From::Constant ? lane.constant : 0;
    for (const LaneOp& op : lane.ops)
        if (isPointwise(op)) v = applied(op, v);
    return r.encode ? linearToSrgb(std::max(v, 0.f)) : v;
}

float finished(const Ready& r, float v) {
    for (const LaneOp& op : r.lane->ops) v = applied(op, v);
    return r.encode ? linearToSrgb(std::max(v, 0.f)) : v;
}

} // namespace

Outcome flow(const PackRequest& request, const Job& job, const std::function<Outcome(const std::byte*, int)>& sink) {
    const PackPlan& plan = job.plan;
    const SampleType type = request.recipe.type;
    const size_t step = bytesOf(type), pixel = step * size_t(plan.channels), width = size_t(plan.width);

    std::vector<Source> sources;
    std::map<std::string, size_t> byFile;
    std::array<size_t, 4> sourceOf{};
    std::array<std::byte, 16> constants{};
    for (size_t l = 0; l < size_t(plan.channels); ++l) {
        const Ready& r = job.lanes[l];
        if (!r.source) {
            const float v = constantOf(r);
            fromFloats(type, &v, 1, constants.data() + l * step);
            continue;
        }
        const auto [at, isNew] = byFile.try_emplace(r.source->file.string(), sources.size());
        if (isNew) sources.emplace_back(r.source->file, r.facts);
        sourceOf[l] = at->second;
        if (r.resizes) sources[at->second].resizeFor(r, l, plan, request.recipe.filter);
    }
    std::vector<Outcome> outcomes(sources.size(), Done{});
    auto ofAll = [&](const std::function<Outcome(Source&)>& work) -> Outcome {
        forEach(sources.size(), [&](size_t i) { outcomes[i] = work(sources[i]); });
        for (const Outcome& o : outcomes)
            if (!o) return o;
        return Done{};
    };
    if (Outcome o = ofAll([&](Source& s) {
            s.makeRoom(plan, job.strip);
            return s.open(request.threads);
        });
        !o)
        return o;

    std::vector<std::byte> out(width * size_t(job.strip) * pixel);
    for (int y = 0; y < plan.height; y += job.strip) {
        if (stopped(request)) return cancelled();
        const int count = std::min(job.strip, plan.height - y);
        if (Outcome o = ofAll([&](Source& s) { return s.advance(count, request.threads); }); !o) return o;
        forRows(count, request.threads, [&](int from, int to) {
            for (size_t l = 0; l < size_t(plan.channels); ++l) {
                const Ready& r = job.lanes[l];
                std::byte* at = out.data() + size_t(from) * width * pixel + l * step;
                const size_t first = size_t(from) * width, last = size_t(to) * width;
                if (!r.source) {
                    for (size_t i = first; i < last; ++i, at += pixel) std::memcpy(at, constants.data() + l * step, step);
                    continue;
                }
                const Source& source = sources[sourceOf[l]];
                if (const float* rows = r.resizes ? source.rowsOf(l) : nullptr) {
                    for (size_t i = first; i < last; ++i, at += pixel) {
                        const float v = finished(r, rows[i]);
                        fromFloats(type, &v, 1, at);
                    }
                    continue;
                }
                const size_t sourceStep = bytesOf(r.facts.type), sourcePixel = sourceStep * size_t(r.facts.channels);
                const std::byte* in = source.strip() + first * sourcePixel;
                if (r.copies) {
                    in += size_t(r.channel) * sourceStep;
                    if (step == 1)
                        for (size_t i = first; i < last; ++i, at += pixel, in += sourcePixel) *at = *in;
                    else
                        for (size_t i = first; i < last; ++i, at += pixel, in += sourcePixel) std::memcpy(at, in, step);
                    continue;
                }
                for (size_t i = first; i < last; ++i, at += pixel, in += sourcePixel) {
                    const float v = finished(r, taken(r, in));
                    fromFloats(type, &v, 1, at);
                }
            }
        });
        if (Outcome o = sink(out.data(), count); !o) return o;
        if (request.progress) request.progress(float(y + count) / float(plan.height));
    }
    return Done{};
}

} // namespace hue::packing
