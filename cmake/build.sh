#!/usr/bin/env bash
# usage: cmake/build.sh PRESET [cmake cache options...]   Configures when needed and builds build/PRESET.
# HUE_TARGETS: what is built, such as "huestack hsk"; all when it is not set.
set -euo pipefail
cd "$(dirname "$0")/.."
preset=$1; shift
jobs=$(nproc); [ "$jobs" -gt 3 ] && jobs=3
cmake --preset "$preset" "$@" > "/tmp/huestack-configure.$$" 2>&1 || { cat "/tmp/huestack-configure.$$"; rm -f "/tmp/huestack-configure.$$"; exit 2; }
rm -f "/tmp/huestack-configure.$$"
# shellcheck disable=SC2086 # names, one word each
cmake --build --preset "$preset" -j "$jobs" ${HUE_TARGETS:+--target $HUE_TARGETS}
