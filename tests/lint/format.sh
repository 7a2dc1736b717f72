#!/usr/bin/env bash
# All C++ files are as .clang-format has them. Fails when it finds no file to look at.
set -euo pipefail
cd "$(dirname "$0")/../.."
mapfile -t files < <(find src demo data tests bench fuzz -name '*.cpp' -o -name '*.h' | sort)
[ "${#files[@]}" -gt 100 ] || { echo "only ${#files[@]} files found"; exit 1; }
clang-format --dry-run --Werror "${files[@]}"
echo "${#files[@]} files looked at"
