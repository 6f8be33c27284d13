#!/usr/bin/env bash
# Refuses includes that climb (see floors.txt), and public headers of core/ that need a library which its users do not get or that do not
# say how they stand with threads.
# usage: cmake/check-floors.sh [FOLDER]   FOLDER: the tree to look at; this one when nothing is said
set -euo pipefail
cd "${1:-$(dirname "$0")/..}"
find core preview cli demo app \( -name '*.cpp' -o -name '*.h' -o -name '*.def' \) | sort | xargs awk '
  BEGIN {
    while ((getline line < "floors.txt") > 0) {
      if (line ~ /^#/ || line ~ /^[ \t]*$/) continue
      split(line, part, /[ \t]+/)
      floor[part[1]] = part[2]
    }
    # What a user of the library gets with it; all else is private to .cpp files and to headers named *_private.h or *-inl.h.
    given["fmt"] = given["glm"] = 1
  }
  function folderOf(path,   at) {
    at = path
    while (sub(/\/[^\/]*$/, "", at)) if (at in floor) return at
    return ""
  }
  FNR == 1 { mine = folderOf(FILENAME); if (mine == "") { print FILENAME ": stands in no folder of floors.txt"; bad = 1 } }
  /^#include "/ {
    split($0, quoted, "\"")
    other = folderOf(quoted[2])
    if (other == "") { print FILENAME ":" FNR ": includes " quoted[2] ", which stands in no folder of floors.txt"; bad = 1 }
    else if (other != mine && floor[other] + 0 >= floor[mine] + 0) {
      print FILENAME ":" FNR ": " mine " (floor " floor[mine] ") includes " quoted[2] " (floor " floor[other] "): an include goes down only"
      bad = 1
    }
  }
  /^#include <tbb\// && FILENAME != "core/base/work.cpp" {
    print FILENAME ":" FNR ": includes " $2 "; loops that run side by side go through core/base/work.h, where the thread sanitizer is told"
    bad = 1
  }
  /^#include <.*\// && FILENAME ~ /^core\/.*\.h$/ && FILENAME !~ /(_private|-inl)\.h$/ {
    match($0, /<[^\/]*/)
    if (!(substr($0, RSTART + 1, RLENGTH - 1) in given)) {
      print FILENAME ":" FNR ": a public header includes " $2 ", which users of core do not get; name it *_private.h or move it to a .cpp"
      bad = 1
    }
  }
  /^#include <[a-z_]*\.h(pp)?>/ && FILENAME ~ /^core\/.*\.h$/ && FILENAME !~ /(_private|-inl)\.h$/ {
    print FILENAME ":" FNR ": a public header includes " $2 ", which users of core do not get"
    bad = 1
  }
  END { exit bad }
'
# Who calls a function from several threads reads in its header whether that is right.
silent=$(find core -name '*.h' ! -name '*_private.h' ! -name '*-inl.h' | sort | xargs -r grep -L '^// Threads: ' || true)
for header in $silent; do echo "$header: says nothing about threads; a line \"// Threads: ...\" belongs at its head"; done
[ -z "$silent" ]
