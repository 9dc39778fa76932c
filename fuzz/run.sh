#!/usr/bin/env bash
# Every target, or those named after the seconds, for so many seconds each (600 if not said). Needs a nightly compiler and cargo-fuzz.
set -euo pipefail
cd "$(dirname "$0")"
seconds=${1:-600}; shift || true
command -v cargo-fuzz >/dev/null || { echo "cargo-fuzz is missing: cargo install cargo-fuzz" >&2; exit 2; }
for target in fuzz_targets/*.rs; do
  name=$(basename "$target" .rs)
  [ $# -eq 0 ] || [[ " $* " == *" $name "* ]] || continue
  mkdir -p "corpus/$name"
  # What the program writes itself is where it starts from.
  find seeds -type f -name "$name-*" -exec cp -n {} "corpus/$name/" \;
  echo "== $name"
  cargo +nightly fuzz run "$name" "corpus/$name" -- -max_total_time="$seconds" -rss_limit_mb=2048 -timeout=20 -max_len=65536 2>&1 | tail -n 3
done
