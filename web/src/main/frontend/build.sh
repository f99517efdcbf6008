#!/usr/bin/env bash
# Builds styles, scripts and fonts into the folder given. Packages are installed only when their list changed.
set -euo pipefail
out=$1
cd "$(dirname "$0")"
if ! cmp -s package-lock.json node_modules/.installed-lock; then
  npm ci --no-audit --no-fund --silent
  cp package-lock.json node_modules/.installed-lock
fi
mkdir -p "$out/fonts"
node_modules/.bin/tailwindcss -i app.css -o "$out/app.css" --minify >/dev/null 2>&1 || node_modules/.bin/tailwindcss -i app.css -o "$out/app.css" --minify
cp node_modules/@alpinejs/csp/dist/cdn.min.js "$out/alpine.js"
mkdir -p "$out/lib"
cp scripts/*.js "$out/"
cp scripts/lib/*.js "$out/lib/"
cp node_modules/@fontsource-variable/archivo/files/archivo-latin-wght-normal.woff2 \
  node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2 \
  node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-600-normal.woff2 "$out/fonts/"

# The decoder of other makers' raw files: run in a process of its own, never served.
mkdir -p "$out/../decoder"
cp decoder/decoder.mjs node_modules/libraw-wasm/dist/libraw.js node_modules/libraw-wasm/dist/libraw.wasm "$out/../decoder/"
