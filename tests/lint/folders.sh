#!/usr/bin/env bash
# Each folder of src/song includes only itself and those before it in this list; snags ask Derived, too.
set -euo pipefail
cd "$(dirname "$0")/../../src/song"
folders=(model heard match shape drums out snags)
[ "$(find . -mindepth 1 -type d | wc -l)" -eq ${#folders[@]} ] || { echo "src/song has a folder that is not in the list"; exit 1; }
seen='' found=0
for folder in "${folders[@]}"; do
  seen+="${seen:+|}$folder"
  found=$((found + $(grep -rhE '#include "song/' "$folder" | wc -l)))
  if grep -rnE '#include "song/' "$folder" | grep -vE "\"song/($seen)/|^snags/.*\"song/derived.h\""; then
    echo "$folder includes what comes after it"
    exit 1
  fi
done
[ "$found" -gt 80 ] || { echo "only $found includes found"; exit 1; }
echo "$found includes looked at"
