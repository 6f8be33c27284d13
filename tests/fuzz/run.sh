#!/usr/bin/env bash
# Feeds random and mutated files to everything that reads files: projects, recipes, masks, meshes, KTX2, DDS, formulas and boards as text.
# usage: tests/fuzz/run.sh [--quick] [NAME...]      ten minutes for each, 60 seconds with --quick; without names all of them
# Needs clang with libFuzzer (Debian: clang, libclang-rt-14-dev). What is found lies in build/fuzz/found.
set -euo pipefail
cd "$(dirname "$0")/../.."
seconds=600
if [ "${1:-}" = --quick ]; then seconds=60; shift; fi
names=("$@"); [ ${#names[@]} -gt 0 ] || names=(project recipe mask mesh ktx2 dds formula text)
cmake --preset fuzz > /dev/null
cmake --build --preset fuzz
mkdir -p build/fuzz/found
for name in "${names[@]}"; do
  grown=build/fuzz/corpus/$name; mkdir -p "$grown"
  echo "$name: $seconds s"
  if ! build/fuzz/bin/"fuzz_$name" -max_total_time="$seconds" -max_len=16384 -rss_limit_mb=2048 -timeout=10 -print_final_stats=1 \
      -artifact_prefix="build/fuzz/found/$name-" "$grown" "tests/fuzz/corpus/$name" > "build/fuzz/$name.log" 2>&1; then
    grep -E "ERROR|SUMMARY|runtime error|Test unit written" "build/fuzz/$name.log" || tail -5 "build/fuzz/$name.log"
    echo "$name: something was found; it lies in build/fuzz/found, what was said in build/fuzz/$name.log"
    exit 1
  fi
  grep number_of_executed "build/fuzz/$name.log"
done
