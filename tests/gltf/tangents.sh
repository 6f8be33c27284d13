#!/usr/bin/env bash
# usage: tangents.sh HSK PROJECT      Compares tangents of shapes and of the demo's meshes with those of another implementation.
set -euo pipefail
hsk=$1; project=$2
out=$(mktemp -d); trap 'rm -rf "$out"' EXIT
for shape in sphere cube torus cylinder "draped sheet"; do
  "$hsk" dispatch "$project" --of Bodywork --mesh "$shape" --size 16 --out "$out/${shape// /_}.glb" > /dev/null 2>&1
done
cd "$(dirname "$0")"
node tangents.js "$out"/*.glb "$(dirname "$project")"/meshes/*.glb
