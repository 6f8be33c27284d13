#!/usr/bin/env bash
# usage: ktx.sh HSK FOLDER      Compresses maps of the demo and reads the files with an independent reader.
set -euo pipefail
hsk=$1; maps=$2
out=$(mktemp -d); trap 'rm -rf "$out"' EXIT
made=()
for format in bc1 bc7 astc-4x4 astc-6x6 astc-8x8; do
  "$hsk" compress "$maps/grille_fine.png" --kind color --format $format --effort quick --out "$out/$format.ktx2" > /dev/null
  "$hsk" compress "$maps/grille_fine.png" --kind color --format $format --effort quick --zstd --out "$out/$format.z.ktx2" > /dev/null
  made+=("$format=$out/$format.ktx2" "$format+zstd=$out/$format.z.ktx2")
done
"$hsk" compress "$maps/crazing.png" --kind data --format bc4 --out "$out/bc4.ktx2" > /dev/null
"$hsk" compress "$maps/ballast_normal.png" --format bc5 --out "$out/bc5.ktx2" > /dev/null
made+=("bc4=$out/bc4.ktx2" "bc5=$out/bc5.ktx2")
cd "$(dirname "$0")"
node ktx.mjs "${made[@]}"
