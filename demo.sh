#!/usr/bin/env bash
# Installs what is missing, builds, and starts Hue Stack on the demo project: in the display that is there, or in a
# virtual one where there is none.
set -euo pipefail
cd "$(dirname "$0")"
cmake/install-packages.sh
HUE_TARGETS="huestack hsk" cmake/build.sh release
exec cmake/with-display.sh --virtual-only-if-missing build/release/bin/huestack demo/depot/depot.huestack "$@"
