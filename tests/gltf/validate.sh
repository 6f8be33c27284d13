#!/usr/bin/env bash
# usage: validate.sh HSK PROJECT      Dispatches from the demo, one of each alpha and light kind, paint, and decals cut; validates the files.
set -euo pipefail
hsk=$1; project=$2
out=$(mktemp -d); trap 'rm -rf "$out"' EXIT
"$hsk" dispatch "$project" --of "Bodywork/Line Ochre Worn" --mesh "tram side panel" --size 64 --out "$out/bodywork.glb" > /dev/null 2>&1
"$hsk" dispatch "$project" --of "Setts/After rain" --mesh torus --size 64 --out "$out/setts.glb" > /dev/null 2>&1
"$hsk" dispatch "$project" --of "Route display/Line 4" --mesh "route display" --size 64 --out "$out/display.glb" > /dev/null 2>&1
sed -e 's/"alphaMode": "opaque"/"alphaMode": "mask"/' -e 's/"doubleSided": false/"doubleSided": true/' "$project" > "$(dirname "$project")/.masked.huestack"
trap 'rm -rf "$out" "$(dirname "$project")/.masked.huestack"' EXIT
"$hsk" dispatch "$(dirname "$project")/.masked.huestack" --of "Setts/Dry" --mesh cube --size 64 --out "$out/masked.glb" > /dev/null 2>&1
sed -e 's/"alphaMode": "opaque"/"alphaMode": "blend"/' -e 's/"unlit": false/"unlit": true/' "$project" > "$(dirname "$project")/.masked.huestack"
"$hsk" dispatch "$(dirname "$project")/.masked.huestack" --of "Setts/Dry" --mesh plane --size 64 --out "$out/unlit.glb" > /dev/null 2>&1
"$hsk" paint "$project" --paintwork "Side with rust" --info --export "$out/painted.glb" > /dev/null 2>&1
"$hsk" decals "$project" --specimen 1 --cut "$out/decals.glb" > /dev/null 2>&1
"$hsk" decals "$project" --specimen 1 --atlas --size 128 --cut "$out/atlas.glb" > /dev/null 2>&1
cd "$(dirname "$0")"
node validate.js "$out"/*.glb
