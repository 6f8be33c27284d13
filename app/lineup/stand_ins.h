#pragma once
// Pictures by the CPU while a driver keeps the pictures' own thread waiting: at the very first start, when it compiles all stages, and
// whenever it takes long for one.
#include "app/lineup/picture_request.h"
#include "core/picture/picture_settings.h"

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <functional>
#include <map>
#include <mutex>
#include <optional>
#include <set>
#include <thread>

namespace hue {

/// Any thread calls it.
class StandIns {
  public:
    /// Called on the thread of the stand-ins, in turn with drawn(): never after the picture that it stands in for.
    /// The picture, or why there is none; one that was cancelled is not delivered.
    using Deliver = std::function<void(int place, const PictureRequest& request, const Result<RenderedPicture>& picture, bool moves)>;
    explicit StandIns(Deliver deliver);
    ~StandIns();

    /// Whether it is a picture that the CPU draws whole: lit, compared with nothing, and not one of a list's small ones.
    static bool drawsIt(const PictureRequest& request);
    /// The newest request of a place replaces older ones.
    void want(int place, const PictureRequest& request);
    /// The driver has drawn a request, or cannot; nothing stands in for it any more.
    void drawn(int place, quint64 serial);
    /// The driver begins with a picture, and ends; between the two it may keep its caller waiting.
    void began();
    void ended();
    /// The driver works in the background on what this place needs.
    void stuck(int place);
    void forget();
    bool idle() const;

  private:
    using Clock = std::chrono::steady_clock;
    void run();
    /// A place whose picture is late; nothing when there is none.
    std::optional<int> latePlace() const;
    void draw(int place, const PictureRequest& request);

    Deliver m_deliver;
    mutable std::mutex m_mutex;
    std::condition_variable m_wake;
    std::map<int, PictureRequest> m_wanted;
    std::map<int, quint64> m_drawn;
    std::set<int> m_stuck;
    std::optional<Clock::time_point> m_began;
    bool m_warm = false; ///< the driver has drawn a picture
    bool m_drawing = false;
    std::atomic<bool> m_quit = false;
    std::thread m_thread;
};

} // namespace hue
