#!/usr/bin/env bash
# Feeds random and mutated files to the readers of KTX2 and DDS. usage: tests/fuzz/run.sh [SECONDS]      default: 600
# Needs clang with libFuzzer (Debian: clang, libclang-rt-14-dev) and a release build, whose hsk writes the files to start from.
set -euo pipefail
cd "$(dirname "$0")/../.."
seconds=${1:-600}
work=build/fuzz; mkdir -p "$work/corpus" "$work/found"
read -ra flags <<< "$(pkg-config --cflags --libs OpenImageIO libhwy fmt tbb libzstd) -lsquish -lastcenc -lz"
sources=(core/compress/block_file.cpp core/compress/block_format.cpp core/compress/bc7_decode.cpp core/compress/bc7_encode.cpp
         core/maps/image.cpp core/maps/image_file.cpp core/maps/png_writer.cpp core/document/value.cpp core/store/json_text.cpp)
clang++ -std=c++20 -O1 -g -I. -fsanitize=fuzzer,address,undefined -fno-sanitize-recover=undefined -ffp-contract=off \
  tests/fuzz/block_file.cpp "${sources[@]}" -o "$work/block_file" "${flags[@]}"
for format in plain-8 bc1 bc3 bc4 bc5 bc7 astc-4x4 astc-8x8; do
  for file in "a.ktx2" "a.dds" "z.ktx2 --zstd"; do
    build/release/bin/hsk mask --shape 'ellipse 0.1 0.1 0.6 0.6' --soft 0.3 --size 16 --out "$work/mask.png"
    # DDS has no name for some formats.
    build/release/bin/hsk compress "$work/mask.png" --format "$format" --out "$work/corpus/$format-"$file > /dev/null 2>&1 || true
  done
done
exec "$work/block_file" -max_total_time="$seconds" -max_len=4096 -rss_limit_mb=2048 -timeout=10 -artifact_prefix="$work/found/" "$work/corpus"
