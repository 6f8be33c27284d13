#!/usr/bin/env bash
# Installs what packages.txt names and this machine lacks. Quick when all is there.
set -euo pipefail
cd "$(dirname "$0")/.."
missing=()
while read -r package condition command _; do
  case "$package" in ''|\#*) continue ;; esac
  if [ "${condition:-}" = if-missing ]; then
    command -v "$command" >/dev/null 2>&1 || missing+=("$package")
  elif ! dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed'; then
    missing+=("$package")
  fi
done < packages.txt
[ ${#missing[@]} -eq 0 ] && exit 0
echo "Installing: ${missing[*]}"
run=()
if [ "$(id -u)" != 0 ]; then
  command -v sudo >/dev/null || { echo "These packages are missing and sudo is not there; as root run: apt-get install ${missing[*]}" >&2; exit 2; }
  run=(sudo)
fi
export DEBIAN_FRONTEND=noninteractive
"${run[@]}" apt-get update -q
"${run[@]}" apt-get install -y -q --no-install-recommends "${missing[@]}"
