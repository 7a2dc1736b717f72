# Sourced by run-demo and run-tests: packages, configuration, build. Each step is skipped when nothing is to do.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."

say() { printf '\n== %s\n' "$*"; }
fail() { printf '\nFAILED: %s\n' "$*" >&2; exit 1; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null; then sudo "$@"
  else fail "'$*' needs root; run this as root, or install sudo."
  fi
}

# install_packages PACKAGE…: installs those that are missing.
install_packages() {
  local missing=()
  for package in "$@"; do
    [ "$(dpkg-query -W -f='${db:Status-Abbrev}' "$package" 2>/dev/null | cut -c1-2)" = ii ] || missing+=("$package")
  done
  [ ${#missing[@]} = 0 ] && return 0
  say "Installing ${missing[*]}"
  as_root env DEBIAN_FRONTEND=noninteractive apt-get update -q >/tmp/cobbleway-apt.log 2>&1 ||
    { tail -5 /tmp/cobbleway-apt.log >&2; fail "the package lists could not be fetched (apt-get update)."; }
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${missing[@]}" >/tmp/cobbleway-apt.log 2>&1 ||
    { tail -15 /tmp/cobbleway-apt.log >&2; fail "packages could not be installed (apt-get install)."; }
}

BUILD_PACKAGES=(cmake ninja-build g++ pkg-config qt6-base-dev qt6-svg-dev libgl-dev libfluidsynth-dev
  librtaudio-dev librtmidi-dev libsamplerate0-dev liblilv-dev libserd-dev lv2-dev libasound2-dev libsndfile1-dev libebur128-dev libuchardet-dev libxml2-dev libutf8proc-dev libicu-dev nlohmann-json3-dev libcli11-dev libtag1-dev libx11-dev)

# build PRESET [CMAKE OPTION…]: builds all, or $targets where that is set.
build() {
  local preset=$1
  shift
  say "Configuring ($preset)"
  cmake --preset "$preset" "$@" >/tmp/cobbleway-configure.log 2>&1 ||
    { tail -20 /tmp/cobbleway-configure.log >&2; fail "the build could not be configured."; }
  say "Building ($preset)"
  cmake --build --preset "$preset" ${targets:+--target "$targets"} || fail "the build has errors; they are above."
}
