#!/usr/bin/env bash
# Installs what is missing to build and run Clear Bend, from Debian's packages and the npm registry.
# `scripts/setup.sh browser` also installs what the browser tests need. Run again, it does nothing.
set -euo pipefail
cd "$(dirname "$0")/.."

wanted=()
want() { wanted+=("$@"); }
has() { command -v "$1" >/dev/null 2>&1; }

has cc || want build-essential
has pkg-config || want pkg-config
pkg-config --exists libpq 2>/dev/null || want libpq-dev
compgen -G "/usr/lib/postgresql/*/bin/initdb" >/dev/null || want postgresql
has pkill || want procps
has node && has npm || want nodejs npm
has cargo || want cargo-web

# The core is also compiled for the browser. A rustup toolchain may have or get the target; otherwise
# Debian's compiler and library sources do it (see xtask/src/wasm.rs).
has_wasm_target() { [ -d "$(rustc --print sysroot)/lib/rustlib/wasm32-unknown-unknown/lib" ]; }
has_library_sources() { compgen -G "/usr/src/rustc-*/library" >/dev/null; }
if ! { has rustc && has_wasm_target; } && ! has_library_sources; then
  if ! { has rustup && timeout 60 rustup target add wasm32-unknown-unknown >/dev/null 2>&1 && has_wasm_target; }; then
    want rustc-web rust-web-src libstd-rust-web-dev
    has rustup || want lld
  fi
fi

if [ "${1:-}" = browser ]; then
  has chromium || want chromium
  has chromedriver || want chromium-driver
  # Ordinary tools that make the sound files the tests read.
  has sox || want sox
  has ffmpeg || want ffmpeg
fi

if [ ${#wanted[@]} -gt 0 ]; then
  as_root=""
  if [ "$(id -u)" != 0 ]; then
    has sudo || { echo "setup: as root, install: ${wanted[*]}" >&2; exit 1; }
    as_root=sudo
  fi
  echo "setup: installing ${wanted[*]}"
  $as_root apt-get update -qq
  $as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${wanted[@]}"
fi

# The front end's tools need Node.js 20.19 or later; an older Debian's is replaced for this project only.
if ! node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)'; then
  [ -x var/tools/node_modules/.bin/node ] || npm install --no-audit --no-fund --prefix var/tools node@22
fi
