#!/usr/bin/env bash
# Runs a command with the display that is there, or with a virtual one.
set -euo pipefail
if [ "$1" = --virtual-only-if-missing ]; then
  shift
  [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ] && exec "$@"
fi
export QT_QPA_PLATFORM=xcb
exec xvfb-run -a -s "-screen 0 1400x900x24" "$@"
