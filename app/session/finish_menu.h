#pragma once
// The menu of what can be taken as a finish.
#include "core/document/project.h"

#include <QMenu>
#include <functional>

namespace hue {

class Session;

/// Adds the masters and instances that a Finish of card on the board can name. `chosen` gets the id.
void addFinishes(QMenu& menu, const Project& project, const Id& board, const std::function<void(const Id&)>& chosen);
/// Asks what to mix over the surface of a master by paint, and does it; `done` is called afterwards.
void askMixOver(Session& session, const Id& master, QWidget* parent, const QPoint& at, const std::function<void()>& done = {});

} // namespace hue
