#!/usr/bin/env bash
# Refuses paths of some machine in what is kept: in texts, and in the words that pictures carry beside their pixels.
set -euo pipefail
cd "$(dirname "$0")/.."
if ! git rev-parse --is-inside-work-tree > /dev/null 2>&1; then exit 0; fi
bad=0
# A path of a person's or a machine's own folders; the system's fonts and libraries have the same place everywhere.
pattern='(^|[^A-Za-z0-9_.~-])/(home|root|work|Users|mnt|media)/[A-Za-z0-9_.-]+'
while IFS= read -r file; do
  case "$file" in cmake/check-paths.sh) continue ;; esac
  if grep -InE "$pattern" "$file"; then
    echo "$file: names a folder of some machine; write it relative, or as ~" >&2
    bad=1
  fi
done < <(git ls-files -- '*.md' '*.json' '*.huestack' '*.huerecipe' '*.sh' '*.txt' '*.cpp' '*.h' 'CMakeLists.txt' '*/CMakeLists.txt' check demo.sh .ci/run)
while IFS= read -r file; do
  if LC_ALL=C grep -aqE '/(home|root|work|Users|tmp)/[A-Za-z0-9_.-]{2,}/' "$file"; then
    echo "$file: carries a path of some machine" >&2
    bad=1
  fi
done < <(git ls-files -- 'docs/*.png')
exit $bad
