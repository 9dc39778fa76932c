#!/usr/bin/env bash
# Whether two revisions of the project do the same: bench/same.sh BEFORE AFTER (git revisions; AFTER may be left out: HEAD).
#
# Each is built (kept under .data/same/), loads the demo, and is asked for its checks, fits, profiles and team: by the interface and
# by the command, byte for byte, but for identifiers and times. The main pages are compared pixel for pixel with times hidden.
# Ends with 1 where anything differs, and says what.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/../bin/lib.sh"
cd "$root"
[ $# -ge 1 ] || { echo "usage: bench/same.sh BEFORE [AFTER]" >&2; exit 2; }
need_packages chromium postgresql postgresql-client gcc
need_node_packages
kept="$data/same"; mkdir -p "$kept"
export CARGO_TARGET_DIR="${CARGO_TARGET_DIR:-$root/target}" SQLX_OFFLINE=true
unset DATABASE_URL

build() { # revision: builds it, unless it was, and gives its folder in $built
  local sha; sha=$(git rev-parse --verify "$1^{commit}"); built="$kept/$sha"
  [ -x "$built/eddymist" ] && [ -d "$built/dist" ] && return
  say "building $1"
  local tree="$kept/tree"
  rm -rf "$tree"; git worktree prune; git worktree add -q --detach "$tree" "$sha"
  (cd "$tree" && cargo build -q --release -p eddymist-cli && cd web && npm ci --no-audit --no-fund --loglevel=error >&2 && npm run -s build >&2)
  mkdir -p "$built"; cp "$CARGO_TARGET_DIR/release/eddymist" "$built/"; rm -rf "$built/dist"; cp -r "$tree/web/dist" "$built/dist"
  git worktree remove --force "$tree"
}

served=()
trap 'kill ${served[@]} 2>/dev/null || true; stop_postgres' EXIT
ask() { # name of this side: serves $built and writes what it answers to $kept/out/NAME
  local name=$1 database="eddymist_same_$$_$1" port out="$kept/out/$1"
  rm -rf "$out"; mkdir -p "$out"
  PG_FSYNC=off start_postgres "$data/test" "$database"
  "$built/eddymist" migrate; "$built/eddymist" demo
  port=$(free_port 8590)
  "$built/eddymist" serve --listen "127.0.0.1:$port" --pages "$built/dist" --demo & served+=($!)
  for _ in $(seq 100); do curl -sf "http://127.0.0.1:$port/readyz" >/dev/null && break; sleep 0.2; done
  python3 bench/same.py ask "http://127.0.0.1:$port" "$built/eddymist" "$out" "$kept/out/before"
  (cd web && node e2e/same.mjs "http://127.0.0.1:$port" "$out")
  kill "${served[-1]}"; wait "${served[-1]}" 2>/dev/null || true
  drop_database "$database"
}
build "$1"; ask before
build "${2:-HEAD}"; ask after
python3 bench/same.py compare "$kept/out/before" "$kept/out/after"
