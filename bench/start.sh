#!/usr/bin/env bash
# How long the start command takes, once it has run before, until it serves: bench/start.sh
set -euo pipefail
cd "$(dirname "$0")/.."
from=$(date +%s.%N)
EDDYMIST_PORT=8580 bin/start > /dev/null 2>&1 & started=$!
trap 'kill -TERM $started 2>/dev/null; wait $started 2>/dev/null || true' EXIT
until curl -sf http://127.0.0.1:8580/readyz > /dev/null; do sleep 0.05; done
printf 'the start command, run again, until it serves\ts\t%.2f\n' "$(echo "$(date +%s.%N) - $from" | bc)"
