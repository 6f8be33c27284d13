#!/usr/bin/env bash
# Installs the core as a library, builds the example against what was installed alone, and runs it.
# usage: cmake/check-library.sh BUILD_FOLDER
set -euo pipefail
build=$(cd "$1" && pwd)
cd "$(dirname "$0")/.."
rm -rf "$build/installed" "$build/example"
cmake --install "$build" --component library --prefix "$build/installed" > /dev/null
cmake -S examples/evaluate -B "$build/example" -G Ninja -DCMAKE_PREFIX_PATH="$build/installed" -DCMAKE_BUILD_TYPE=Release > "$build/example.log" 2>&1 ||
  { cat "$build/example.log" >&2; exit 1; }
cmake --build "$build/example" > "$build/example.log" 2>&1 || { cat "$build/example.log" >&2; exit 1; }
result=$("$build/example/evaluate")
echo "$result"
[ "$result" = "mean roughness 0.500 over 65536 pixels" ] || { echo "That is not the mean of a ramp from 0 to 1." >&2; exit 1; }
