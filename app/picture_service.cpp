#include "app/picture_service.h"

#include "preview/egl_context.h"

namespace hue {

PictureService::PictureService(Session& session) : m_session(session), m_thread([this] { run(); }) {}

PictureService::~PictureService() {
    {
        const std::lock_guard lock(m_mutex);
        m_quit = true;
    }
    m_wake.notify_all();
    m_thread.join();
}

void PictureService::request(int place, PictureRequest request) {
    {
        const std::lock_guard lock(m_mutex);
        m_requests[place] = std::move(request);
    }
    m_wake.notify_all();
}

void PictureService::run() {
    auto created = EglContext::create();
    if (!created) {
        // Every specimen says why it stays empty.
        std::unique_lock lock(m_mutex);
        while (true) {
            m_wake.wait(lock, [&] { return m_quit || !m_requests.empty(); });
            if (m_quit) return;
            for (const auto& [place, request] : m_requests)
                Q_EMIT ready(place, {}, QString::fromStdString(created.error().sentence), false, request.serial);
            m_requests.clear();
        }
    }
    (*created)->makeCurrent();
    auto renderer = std::make_unique<Renderer>();
    // Drawn once more, with four samples a pixel, when nothing newer comes.
    std::map<int, PictureRequest> toRefine;
    int place = 0;
    while (true) {
        PictureRequest request;
        bool fine = false;
        {
            std::unique_lock lock(m_mutex);
            auto something = [&] { return m_quit || !m_requests.empty(); };
            if (toRefine.empty()) m_wake.wait(lock, something);
            else m_wake.wait_for(lock, std::chrono::milliseconds(90), something);
            if (m_quit) break;
            auto& queue = m_requests.empty() ? toRefine : m_requests;
            fine = m_requests.empty();
            // Take turns, so that one busy specimen does not starve the others.
            auto it = queue.upper_bound(place);
            if (it == queue.end()) it = queue.begin();
            place = it->first;
            request = std::move(it->second);
            queue.erase(it);
        }
        request.settings.supersampling = fine ? 2 : 1;
        const DressedSpecimen dressed = dress(*request.snapshot, m_session.assets(), m_session.looks(), request.specimen, request.time);
        QString problem;
        bool animated = false;
        for (const DressedSlot& slot : dressed.slots) {
            animated = animated || slot.look->evaluator->program().readsTime();
            if (!slot.look->ok)
                for (const Diagnostic& d : slot.look->diagnostics)
                    if (d.severity == Severity::Error && problem.isEmpty()) problem = QString::fromStdString(d.sentence);
        }
        if (!problem.isEmpty()) {
            Q_EMIT ready(place, {}, problem, animated, request.serial);
            continue;
        }
        const Result<RenderedPicture> picture = renderer->render(dressed, request.settings);
        m_links = renderer->links();
        if (!picture) {
            Q_EMIT ready(place, {}, QString::fromStdString(picture.error().sentence), animated, request.serial);
            continue;
        }
        const QImage image(picture->rgba.data(), picture->width, picture->height, picture->width * 4, QImage::Format_RGBX8888);
        Q_EMIT ready(place, image.copy(), QString::fromStdString(dressed.problem), animated, request.serial);
        if (!fine) toRefine[place] = std::move(request);
    }
    renderer.reset();
    (*created)->release();
}

} // namespace hue
