# What the start and the test command share: packages, PostgreSQL of our own on loopback, builds.
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
data="$root/.data"

say() { printf '· %s\n' "$*" >&2; }

# Installs Debian packages that are missing; without root or sudo, names them and ends with 2.
need_packages() {
  local missing=() p
  for p in "$@"; do dpkg-query -W -f='${Status}' "$p" 2>/dev/null | grep -q 'ok installed' || missing+=("$p"); done
  [ ${#missing[@]} -eq 0 ] && return
  local as=()
  if [ "$(id -u)" -ne 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null || { [ -t 0 ] && command -v sudo >/dev/null && sudo -v; }; then as=(sudo); else
      echo "These Debian packages are missing: ${missing[*]}. Install them as root (apt-get install ${missing[*]}) and start again." >&2
      exit 2
    fi
  fi
  say "installing ${missing[*]}"
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq >&2
  # The distribution's own cluster is not wanted: ours lives beside the project.
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >&2
}

free_port() { # first free port from $1 on
  local p=$1
  while (exec 3<>"/dev/tcp/127.0.0.1/$p") 2>/dev/null; do p=$((p + 1)); done
  echo "$p"
}

# Runs a PostgreSQL tool as the cluster's owner: PostgreSQL refuses to run as root.
pg() {
  local bin; bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
  local tool=$1; shift
  if [ "$(id -u)" -eq 0 ]; then (cd /tmp && setpriv --reuid=postgres --regid=postgres --clear-groups env HOME=/tmp LC_ALL=C.UTF-8 "$bin/$tool" "$@")
  else env LC_ALL=C.UTF-8 "$bin/$tool" "$@"; fi
}

# Starts the cluster under $1 (made once) and sets DATABASE_URL for database $2.
start_postgres() {
  local dir=$1 name=$2 cluster
  need_packages postgresql postgresql-client
  mkdir -p "$dir"
  cluster="$dir/postgres"
  if [ "$(id -u)" -eq 0 ]; then
    # The cluster's owner must be able to reach its folder, wherever the project was cloned to.
    cluster="/var/lib/eddymist/$(printf %s "$dir" | sha256sum | cut -c1-12)"
    install -d -o postgres -g postgres -m 700 /var/lib/eddymist "$cluster"
    chmod 711 /var/lib/eddymist
    echo "$cluster" > "$dir/postgres-is-in"
  fi
  if ! pg pg_ctl status -D "$cluster" >/dev/null 2>&1; then
    if [ ! -s "$cluster/PG_VERSION" ]; then
      say "making a database cluster"
      pg initdb -D "$cluster" -U eddymist -A trust --encoding=UTF8 --locale=C.UTF-8 >/dev/null
    fi
    pgport=$(free_port 54380)
    pg pg_ctl start -w -s -D "$cluster" -l "$cluster/log" -o "-p $pgport -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c fsync=${PG_FSYNC:-on}" >/dev/null
    pgstarted=$cluster
  else
    pgport=$(sed -n 4p "$cluster/postmaster.pid")
  fi
  export DATABASE_URL="postgres://eddymist@127.0.0.1:$pgport/$name"
  psql -qtA "postgres://eddymist@127.0.0.1:$pgport/postgres" -c "SELECT 1 FROM pg_database WHERE datname = '$name'" | grep -q 1 ||
    psql -q "postgres://eddymist@127.0.0.1:$pgport/postgres" -c "CREATE DATABASE \"$name\""
}

stop_postgres() { [ -z "${pgstarted:-}" ] || pg pg_ctl stop -s -m fast -D "$pgstarted" >/dev/null 2>&1 || true; }

# Node packages, as the lock file says; again only when it changed.
need_node_packages() {
  (cd "$root/web" && { [ -f node_modules/.fits ] && [ node_modules/.fits -nt package-lock.json ]; } || {
    say "fetching the pages' packages"; cd "$root/web"; npm ci --no-audit --no-fund --loglevel=error >&2; touch node_modules/.fits; })
}

# The WebAssembly module, built where its sources changed; a machine that lacks the target uses the one that was kept.
build_wasm() { (cd "$root" && cargo run -q --release -p xtask -- wasm); }

build_pages() {
  need_node_packages
  local stamp="$root/web/dist/.built"
  if [ ! -f "$stamp" ] || [ -n "$(find "$root/web" -path "$root/web/node_modules" -prune -o -path "$root/web/dist" -prune -o -type f -newer "$stamp" -print -quit)" ]; then
    say "building the pages"
    (cd "$root/web" && npm run -s build >&2)
    touch "$stamp"
  fi
}

# Runs cargo and says now and then how far it is ("compiling 212 of 430"); what it has to complain of is passed on.
cargo_saying() {
  local line said=-9
  CARGO_TERM_PROGRESS_WHEN=always CARGO_TERM_PROGRESS_WIDTH=120 CARGO_TERM_COLOR=never "$@" 2>&1 >/dev/null | tr '\r' '\n' | while IFS= read -r line; do
    if [[ $line =~ ^\ *Building\ .*\ ([0-9]+)/([0-9]+) ]]; then
      [ $((SECONDS - said)) -lt 5 ] || { said=$SECONDS; say "compiling ${BASH_REMATCH[1]} of ${BASH_REMATCH[2]}"; }
    elif [[ ! $line =~ ^\ *(Compiling|Finished|Downloading|Downloaded|Updating|Locking|Adding|Blocking|Fresh|Running|Building|$) ]]; then
      printf '%s\n' "$line" >&2
    fi
  done
  return "${PIPESTATUS[0]}"
}

build_program() { say "building the program (the first time takes some minutes)"; (cd "$root" && SQLX_OFFLINE=true cargo_saying cargo build --release -p eddymist-cli); }
