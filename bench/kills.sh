#!/usr/bin/env bash
# Two hundred kills (kill -9) of server, worker, reader and PostgreSQL at moments by chance; bench/kills.sh [ROUNDS] [SEED].
# Ends with 1 where anything acknowledged was lost, or anything is there twice.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/../bin/lib.sh"
cd "$root"
need_packages postgresql postgresql-client
build_program; build_pages
export EDDYMIST_KILLS="${1:-200}" EDDYMIST_KILLS_SEED="${2:-20260117}"
cd web && EDDYMIST_BIN="$(realpath "../${CARGO_TARGET_DIR:-target}/release/eddymist")" npx playwright test kills
