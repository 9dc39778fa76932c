#!/usr/bin/env bash
# Pictures in a store of their own, tried: a folder, and a bucket of moto's server (PyPI). Carried over, read, measured, away, swept.
# Ends with 1 where a picture is lost or a sentence is missing.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/../bin/lib.sh"
cd "$root"
EDDYMIST_PICTURES=yes build_program
venv="${TMPDIR:-/tmp}/eddymist-moto"
[ -x "$venv/bin/moto_server" ] || { python3 -m venv "$venv"; "$venv/bin/pip" install -q 'moto[server,s3]==5.1.22' 'boto3==1.43.9' || "$venv/bin/pip" install -q 'moto[server,s3]' boto3; }
PG_FSYNC=off start_postgres "$data/test" eddymist_pictures CREATEDB
trap 'drop_database eddymist_pictures; stop_postgres' EXIT
for kind in file s3; do
  drop_database eddymist_pictures; as_owner postgres -c 'CREATE DATABASE eddymist_pictures OWNER eddymist'
  "$venv/bin/python" bench/pictures.py "$kind" "${CARGO_TARGET_DIR:-target}/release/eddymist" "$venv/bin/moto_server"
done
