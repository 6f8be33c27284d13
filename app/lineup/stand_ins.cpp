#include "app/lineup/stand_ins.h"

#include "core/picture/software_picture.h"
#include "preview/lineup_pictures.h"

namespace hue {
namespace {

/// How long a driver may take for a picture before another one stands in.
constexpr std::chrono::milliseconds kPatience{250};

} // namespace

StandIns::StandIns(Deliver deliver) : m_deliver(std::move(deliver)), m_thread([this] { run(); }) {}

StandIns::~StandIns() {
    {
        const std::lock_guard lock(m_mutex);
        m_quit = true;
    }
    m_wake.notify_all();
    m_thread.join();
}

// A comparison needs two pictures of one kind.
bool StandIns::drawsIt(const PictureRequest& request) {
    return drawsInSoftware(request.settings) && !request.yardstick && !request.small();
}

void StandIns::want(int place, const PictureRequest& request) {
    if (!drawsIt(request)) return;
    {
        const std::lock_guard lock(m_mutex);
        m_wanted[place] = request;
    }
    m_wake.notify_all();
}

void StandIns::drawn(int place, quint64 serial) {
    const std::lock_guard lock(m_mutex);
    m_warm = true;
    m_drawn[place] = serial;
    m_stuck.erase(place);
    if (auto it = m_wanted.find(place); it != m_wanted.end() && it->second.serial <= serial) m_wanted.erase(it);
}

void StandIns::began() {
    {
        const std::lock_guard lock(m_mutex);
        m_began = Clock::now();
    }
    m_wake.notify_all();
}

void StandIns::ended() {
    const std::lock_guard lock(m_mutex);
    m_began.reset();
}

void StandIns::stuck(int place) {
    {
        const std::lock_guard lock(m_mutex);
        m_stuck.insert(place);
    }
    m_wake.notify_all();
}

void StandIns::forget() {
    const std::lock_guard lock(m_mutex);
    m_wanted.clear();
    m_stuck.clear();
}

bool StandIns::idle() const {
    const std::lock_guard lock(m_mutex);
    return !m_drawing && !latePlace();
}

std::optional<int> StandIns::latePlace() const {
    const bool late = !m_warm || (m_began && Clock::now() - *m_began >= kPatience);
    for (const auto& [place, request] : m_wanted)
        if (late || m_stuck.contains(place)) return place;
    return {};
}

void StandIns::run() {
    std::unique_lock lock(m_mutex);
    while (true) {
        const auto something = [&] { return m_quit || latePlace(); };
        if (!m_wanted.empty() && m_began) m_wake.wait_until(lock, *m_began + kPatience, something);
        else m_wake.wait(lock, [&] { return something() || (!m_wanted.empty() && m_began); });
        if (m_quit) return;
        const std::optional<int> place = latePlace();
        if (!place) continue;
        const auto it = m_wanted.find(*place);
        const PictureRequest request = std::move(it->second);
        m_wanted.erase(it);
        m_drawing = true;
        lock.unlock();
        draw(*place, request);
        lock.lock();
        m_drawing = false;
    }
}

void StandIns::draw(int place, const PictureRequest& request) {
    ProjectFiles& files = *request.files;
    const DressedSpecimen dressed =
        dress(*request.snapshot, files.assets, files.looks, request.specimen, request.time, dressFor(*request.snapshot, request.settings));
    const std::string error = dressed.error();
    const Result<RenderedPicture> picture = error.empty() ? softwarePicture(dressed, request.settings, {0, &m_quit, {}})
                                                          : Result<RenderedPicture>(Error{"render.broken", error, {}});
    if (m_quit) return;
    const std::lock_guard lock(m_mutex);
    if (auto it = m_drawn.find(place); it != m_drawn.end() && it->second >= request.serial) return;
    m_deliver(place, request, picture, dressed.moves());
}

} // namespace hue
