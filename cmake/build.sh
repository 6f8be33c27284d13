#!/usr/bin/env bash
# usage: cmake/build.sh PRESET [cmake cache options...]   Configures when needed and builds build/PRESET.
set -euo pipefail
cd "$(dirname "$0")/.."
preset=$1; shift
jobs=$(nproc); [ "$jobs" -gt 3 ] && jobs=3
cmake --preset "$preset" "$@" > "/tmp/huestack-configure.$$" 2>&1 || { cat "/tmp/huestack-configure.$$"; rm -f "/tmp/huestack-configure.$$"; exit 2; }
rm -f "/tmp/huestack-configure.$$"
cmake --build --preset "$preset" -j "$jobs"
