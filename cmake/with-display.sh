#!/usr/bin/env bash
# Runs a command on a virtual display of its own.
# usage: cmake/with-display.sh [--virtual-only-if-missing] COMMAND...    with the option: in the display that is there, if one is
set -euo pipefail
if [ "$1" = --virtual-only-if-missing ]; then
  shift
  [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ] && exec "$@"
fi
folder=$(mktemp -d)
# The server chooses a free number itself, so that any number of these may run side by side.
Xvfb -displayfd 3 -screen 0 1400x900x24 -nolisten tcp -ac 3> "$folder/display" 2> "$folder/errors" &
server=$!
trap 'kill $server 2> /dev/null || true; wait $server 2> /dev/null || true; rm -rf "$folder"' EXIT
for _ in $(seq 200); do
  [ -s "$folder/display" ] && break
  kill -0 $server 2> /dev/null || { cat "$folder/errors" >&2; exit 2; }
  sleep 0.05
done
unset WAYLAND_DISPLAY
DISPLAY=:$(cat "$folder/display") QT_QPA_PLATFORM=xcb "$@"
