#include "app/lineup/picture_service.h"

#include "core/base/diagnostic.h"
#include "core/surface/channels.h"
#include "preview/build_service.h"
#include "preview/egl_context.h"

namespace hue {
namespace {

constexpr double kFrameBudget = 1 / 30.0;

QImage imageOf(const RenderedPicture& p) { return QImage(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBX8888).copy(); }
QImage imageOf(const std::vector<uint8_t>& rgba, int width, int height) {
    return QImage(rgba.data(), width, height, width * 4, QImage::Format_RGBX8888).copy();
}
PictureView viewOf(const RenderedPicture& p) { return {p.width, p.height, p.rgba.data()}; }

} // namespace

PictureService::PictureService()
    : m_standIns([this](int place, const PictureRequest& request, const Result<RenderedPicture>& picture, bool moves) {
          FinishedPicture out;
          out.serial = request.serial;
          out.animated = moves;
          out.fromEvaluator = true;
          {
              const std::lock_guard lock(m_driver);
              out.problem = m_withoutDriver;
          }
          out.standIn = out.problem.isEmpty();
          if (picture) out.picture = imageOf(*picture);
          // A driver will say so itself.
          else if (out.standIn) return;
          else out.problem = QString::fromStdString(picture.error().sentence);
          Q_EMIT ready(place, out);
      }),
      m_thread([this] { run(); }) {}

PictureService::~PictureService() {
    {
        const std::lock_guard lock(m_mutex);
        m_quit = true;
    }
    m_wake.notify_all();
    m_thread.join();
}

void PictureService::request(int place, PictureRequest request) {
    m_standIns.want(place, request);
    {
        const std::lock_guard lock(m_mutex);
        m_unlinked.erase(place);
        m_toRefine.erase(place);
        m_refining.erase(place);
        m_requests[place] = std::move(request);
    }
    m_wake.notify_all();
}

void PictureService::probe(int place, PictureRequest request, int x, int y) {
    {
        const std::lock_guard lock(m_mutex);
        m_probe = ProbeWish{place, x, y, std::move(request)};
    }
    m_wake.notify_all();
}

void PictureService::measureSeam(ProjectFilesPtr files, Snapshot snapshot, QSize size) {
    {
        const std::lock_guard lock(m_mutex);
        m_seam = SeamWish{std::move(files), std::move(snapshot), size};
    }
    m_wake.notify_all();
}

bool PictureService::idle() const {
    const std::lock_guard lock(m_mutex);
    return m_requests.empty() && m_unlinked.empty() && m_toRefine.empty() && m_refining.empty() && !m_probe && !m_seam && !m_built &&
           !m_working && m_standIns.idle();
}

void PictureService::forget() {
    const std::lock_guard lock(m_mutex);
    m_requests.clear();
    m_unlinked.clear();
    m_toRefine.clear();
    m_refining.clear();
    m_probe.reset();
    m_seam.reset();
    m_standIns.forget();
}

void PictureService::run() {
    auto created = EglContext::create();
    if (!created) {
        {
            const std::lock_guard lock(m_driver);
            m_withoutDriver = QString::fromStdString(created.error().sentence);
        }
        // What only a driver draws stays empty and says why.
        std::unique_lock lock(m_mutex);
        while (true) {
            m_wake.wait(lock, [&] { return m_quit || !m_requests.empty(); });
            if (m_quit) return;
            for (const auto& [place, request] : m_requests) {
                // The pictures that stand in stay, and say so.
                if (StandIns::drawsIt(request)) continue;
                FinishedPicture none;
                none.problem = QString::fromStdString(created.error().sentence);
                none.serial = request.serial;
                Q_EMIT ready(place, none);
            }
            m_requests.clear();
        }
    }
    (*created)->makeCurrent();
    auto builds = BuildService::create(**created);
    if (builds)
        builds->onDone([this] {
            {
                const std::lock_guard lock(m_mutex);
                m_built = true;
            }
            m_wake.notify_all();
        });
    auto renderer = std::make_unique<Renderer>(builds.get());
    int place = 0;
    while (true) {
        std::optional<PictureRequest> request;
        std::optional<ProbeWish> wish;
        std::optional<SeamWish> seam;
        std::optional<int> again;
        bool fine = false;
        {
            std::unique_lock lock(m_mutex);
            m_working = false;
            auto something = [&] { return m_quit || !m_requests.empty() || m_probe || m_built || (m_seam && m_toRefine.empty()); };
            // A first fine picture waits for a rest; further passes fill the time that nobody else wants.
            if (!m_toRefine.empty()) m_wake.wait_for(lock, std::chrono::milliseconds(90), something);
            else if (m_refining.empty()) m_wake.wait(lock, something);
            if (m_quit) break;
            if (std::exchange(m_built, false)) {
                // What was drawn by the evaluator is drawn again where nothing newer waits.
                for (auto& [at, old] : m_unlinked) m_requests.try_emplace(at, std::move(old));
                m_unlinked.clear();
            }
            auto& queue = m_requests.empty() ? m_toRefine : m_requests;
            fine = m_requests.empty();
            if (m_probe) {
                wish = std::exchange(m_probe, std::nullopt);
            } else if (!queue.empty()) {
                // Take turns, so that one busy specimen does not starve the others.
                auto it = queue.upper_bound(place);
                if (it == queue.end()) it = queue.begin();
                place = it->first;
                request = std::move(it->second);
                queue.erase(it);
            } else if (m_seam) {
                seam = std::exchange(m_seam, std::nullopt);
            } else if (!m_refining.empty()) {
                again = m_refining.begin()->first;
            }
            m_working = true;
        }
        m_standIns.began();
        if (wish) answer(*renderer, *wish);
        if (request) draw(*renderer, place, *request, fine);
        if (seam) measure(*renderer, *seam);
        if (again) refine(*renderer, *again);
        m_standIns.ended();
        m_links = renderer->links();
    }
    renderer.reset();
    builds.reset();
    (*created)->release();
}

void PictureService::draw(Renderer& renderer, int place, PictureRequest& request, bool fine) {
    // Held here, since the request may be passed on.
    const ProjectFilesPtr held = request.files;
    ProjectFiles& files = *held;
    QElapsedTimer clock;
    clock.start();
    const DressedSpecimen dressed =
        dress(*request.snapshot, files.assets, files.looks, request.specimen, request.time, dressFor(*request.snapshot, request.settings));
    FinishedPicture out;
    out.serial = request.serial;
    out.animated = dressed.moves();
    out.fine = fine;
    out.problem = QString::fromStdString(dressed.error());
    const auto deliver = [&] {
        m_standIns.drawn(place, out.serial);
        Q_EMIT ready(place, out);
    };
    if (!out.problem.isEmpty()) return deliver();
    RenderSettings settings = request.settings;
    settings.supersampling = fine ? 2 : 1;
    Pace& pace = m_pace[place];
    if (request.moving && !fine) {
        pace.since.start();
        // What moves shares the time of a frame; what stands still takes none of it.
        double all = 0;
        for (const auto& [other, p] : m_pace)
            if (p.since.isValid() && p.since.elapsed() < 600) all += p.seconds;
        // The time of a frame goes with its pixels.
        if (all > kFrameBudget) out.scale = std::clamp(float(std::sqrt(kFrameBudget / all)), 0.4f, 1.f);
        settings.width = std::max(16, int(float(settings.width) * out.scale));
        settings.height = std::max(16, int(float(settings.height) * out.scale));
    }
    const Result<RenderedPicture> picture = renderer.render(dressed, settings);
    if (!picture) {
        if (picture.error().code == "render.not-yet") {
            const std::lock_guard lock(m_mutex);
            m_unlinked[place] = std::move(request);
            m_standIns.stuck(place);
            return;
        }
        out.problem = QString::fromStdString(sentenceWithCard(*request.snapshot, picture.error()));
        return deliver();
    }
    const double seconds = double(clock.nsecsElapsed()) * 1e-9;
    if (!fine) pace.seconds += (seconds / double(out.scale * out.scale) - pace.seconds) * (pace.seconds == 0 ? 1 : 0.3);
    out.seconds = seconds;
    out.picture = imageOf(*picture);
    out.fromEvaluator = picture->fromEvaluator;
    out.peak = picture->peak;
    const std::string& view = views()[size_t(settings.view)].key;
    const ChannelDef* channel = findChannel(view);
    out.encoded = view == "unlit" || (channel && channel->meaning == Meaning::Color);
    for (const DressedSlot& slot : dressed.slots) out.encoded = out.encoded || (view == "wire" && slot.look->valueIsColor);
    if (view == "uv0" || view == "uv1")
        out.density = files.looks.density(files.assets.mesh(*request.snapshot, request.specimen.mesh), view == "uv1");
    out.problem = QString::fromStdString(dressed.problem);
    if (request.yardstick) {
        const auto other = yardstickPicture(renderer, *request.snapshot, files.assets, files.looks, request.index, settings, request.time);
        if (!other) {
            if (other.error().code != "render.not-yet") out.problem = QString::fromStdString(other.error().sentence);
        } else if (*other) {
            const Yardstick& y = request.snapshot->lineup.yardstick;
            out.yardstick = imageOf(**other);
            // The perceptual difference takes longer than a picture; while something moves only the plain one is kept up.
            out.comparison = compare(viewOf(**other), viewOf(*picture), fine || !request.moving);
            if (y.show == Yardstick::Show::Difference)
                out.difference = imageOf(differencePicture(viewOf(*picture), viewOf(**other), y.gain), picture->width, picture->height);
        }
    }
    deliver();
    const std::lock_guard lock(m_mutex);
    if (out.fromEvaluator) m_unlinked[place] = request;
    const bool newer = m_requests.contains(place);
    if (!fine && !newer) m_toRefine[place] = std::move(request);
    else if (fine && !newer && !out.fromEvaluator && !request.yardstick && !request.small()) {
        // A comparison stays with what it was made of.
        Refining& r = m_refining[place];
        r = {std::move(request), out, {}};
        r.mean.add(*picture);
    }
}

void PictureService::refine(Renderer& renderer, int place) {
    PictureRequest request;
    int pass = 0;
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_refining.find(place);
        if (it == m_refining.end()) return;
        request = it->second.request;
        pass = it->second.mean.count();
    }
    ProjectFiles& files = *request.files;
    const RenderSettings settings = finePass(request.settings, pass);
    const auto picture = renderer.render(
        dress(*request.snapshot, files.assets, files.looks, request.specimen, request.time, dressFor(*request.snapshot, settings)),
        settings);
    std::optional<FinishedPicture> out;
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_refining.find(place);
        // Something newer has come meanwhile.
        if (it == m_refining.end() || it->second.request.serial != request.serial) return;
        if (!picture) {
            m_refining.erase(it);
            return;
        }
        it->second.mean.add(*picture);
        if (it->second.mean.count() * 4 < kFineSamples) return;
        out = it->second.shown;
        out->picture = imageOf(it->second.mean.picture());
        out->refined = true;
        m_refining.erase(it);
    }
    Q_EMIT ready(place, *out);
}

void PictureService::answer(Renderer& renderer, const ProbeWish& wish) {
    const PictureRequest& r = wish.request;
    ProjectFiles& files = *r.files;
    const DressedSpecimen dressed = dress(*r.snapshot, files.assets, files.looks, r.specimen, r.time, dressFor(*r.snapshot, r.settings));
    if (!dressed.error().empty()) return;
    Q_EMIT probed(wish.place, wish.x, wish.y, renderer.probe(dressed, r.settings, wish.x, wish.y));
}

void PictureService::measure(Renderer& renderer, const SeamWish& wish) {
    const Project& p = *wish.snapshot;
    ProjectFiles& files = *wish.files;
    float worst = 0;
    for (const Specimen& specimen : p.lineup.specimens) {
        RenderSettings settings = settingsFor(p, specimen, files.lights, files.assets.folder(), false);
        settings.width = wish.size.width();
        settings.height = wish.size.height();
        std::optional<RenderedPicture> frames[2];
        for (int end = 0; end < 2; ++end) {
            const DressedSpecimen dressed = dress(p, files.assets, files.looks, specimen, end ? double(p.loopSeconds) : 0.0);
            if (!dressed.moves()) break;
            if (auto picture = renderer.render(dressed, settings)) frames[end] = std::move(*picture);
        }
        if (frames[0] && frames[1] && frames[0]->fromEvaluator == frames[1]->fromEvaluator)
            worst = std::max(worst, compare(viewOf(*frames[0]), viewOf(*frames[1]), false).mean);
    }
    Q_EMIT seamMeasured(worst);
}

} // namespace hue
