#include "app/session/live_paint_service.h"

#include "core/paint/live_rules.h"

#include <algorithm>

namespace hue {

LivePaintService::LivePaintService(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    m_settled.setSingleShot(true);
    m_settled.setInterval(200);
    connect(&m_settled, &QTimer::timeout, this, &LivePaintService::reckon);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (!what.only(Change::Camera)) m_settled.start();
    });
    connect(&session, &Session::projectOpened, this, [this] {
        m_told.clear();
        m_settled.start();
    });
}

bool LivePaintService::settled() const { return !m_settled.isActive() && !m_session.runner().running(this, "live"); }

void LivePaintService::reckon() {
    const auto& all = m_session.project().paintworks;
    if (std::all_of(all.begin(), all.end(), [](const auto& w) { return w->live.empty(); })) return;
    m_session.runner().run(
        {.owner = this, .kind = "live", .newer = Newer::Waits, .pace = Pace::Long},
        [snapshot = m_session.snapshot(), files = m_session.files()](const Work& work) {
            return reckonLive(*snapshot, files->assets, work);
        },
        [this](const LivePaint& live) {
            if (!live.channels.empty()) m_session.applyQuietly([&](const Project& p) -> Result<Project> { return withLive(p, live); });
            // Each is told of once, not with every change.
            for (const UnreckonedRules& f : live.failures)
                if (m_told.insert(f.error.sentence).second) m_session.say(QString::fromStdString(f.error.sentence));
        });
}

} // namespace hue
