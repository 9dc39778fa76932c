# What the start and the test command share: packages, PostgreSQL of our own on a socket, builds.
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
data="$root/.data"

# Where root runs for somebody else (sudo), what is built is theirs.
as_caller() {
  if [ "$(id -u)" -eq 0 ] && [ -n "${SUDO_UID:-}" ] && [ "$SUDO_UID" -ne 0 ]; then
    local home; home=$(getent passwd "$SUDO_UID" | cut -d: -f6)
    setpriv --reuid="$SUDO_UID" --regid="$SUDO_GID" --init-groups env HOME="$home" PATH="$home/.cargo/bin:$PATH" "$@"
  else "$@"; fi
}

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

# Runs a command as somebody else, from a folder that everybody may be in; PostgreSQL refuses to run as root.
as_account() { local who=$1; shift; (cd /tmp && setpriv --reuid="$who" --regid="$who" --init-groups env HOME=/tmp "$@"); }

# Runs a PostgreSQL tool as the cluster's owner.
pg() {
  local bin; bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
  local tool=$1; shift
  if [ "$(id -u)" -eq 0 ]; then as_account postgres env LC_ALL=C.UTF-8 "$bin/$tool" "$@"; else env LC_ALL=C.UTF-8 "$bin/$tool" "$@"; fi
}

# Asks the running cluster as its owner: a database, then what psql takes.
as_owner() { local database=$1; shift; pg psql -qtA -v ON_ERROR_STOP=1 -h "$pgrun" -U keeper -d "$database" "$@"; }

# The address of a database of the running cluster: by its socket, whose other end the system tells; nobody has a password.
database_url() { printf 'postgres://eddymist@%s/%s' "${pgrun//\//%2F}" "$1"; }

# The service's own account, where this is root's to make.
need_account() {
  [ "$(id -u)" -eq 0 ] || return 0
  getent passwd eddymist >/dev/null || useradd --system --user-group --home-dir /var/lib/eddymist --no-create-home --shell /usr/sbin/nologin eddymist
}

# Makes a cluster in $1: reached by its socket alone, by whom the system knows. The program's role is eddymist and no superuser.
make_cluster() {
  pg initdb -D "$1" -U keeper --auth-local=peer --auth-host=reject --encoding=UTF8 --locale=C.UTF-8 >/dev/null
  local owner=postgres; [ "$(id -u)" -eq 0 ] || owner=$(id -un)
  { echo "# map, account of the system, role"; echo "people $owner keeper"
    local who; for who in $(printf '%s\n' "$owner" root eddymist "$(id -un)" | sort -u); do echo "people $who eddymist"; done; } |
    pg_write "$1/pg_ident.conf"
  printf '%s\n' "local all all peer map=people" | pg_write "$1/pg_hba.conf"
}
pg_write() { if [ "$(id -u)" -eq 0 ]; then as_account postgres tee "$1" >/dev/null; else tee "$1" >/dev/null; fi; }

run_cluster() { # folder, folder of its socket, settings
  pg pg_ctl start -w -s -D "$1" -l "$1/log" -o "-c listen_addresses='' -c unix_socket_directories='$2' -c fsync=${PG_FSYNC:-on} ${3:-}" >/dev/null
}

# A cluster of an older start trusted everybody of this machine: its data go over into the new one, and it is kept until the next good start.
move_from() { # old cluster, new cluster
  local old=$1 new=$2 part="$2.part" run database
  say "moving the database to a cluster that trusts nobody"
  run=$(mktemp -d /tmp/eddymist-move-XXXXXX); [ "$(id -u)" -ne 0 ] || chown postgres "$run"
  ! pg pg_ctl status -D "$old" >/dev/null 2>&1 || pg pg_ctl stop -s -m fast -D "$old"
  pg rm -rf "$part" 2>/dev/null || rm -rf "$part"
  if [ "$(id -u)" -eq 0 ]; then install -d -o postgres -g postgres -m 700 "$part"; fi
  make_cluster "$part"
  run_cluster "$old" "$run" "-c port=5433"
  run_cluster "$part" "$run"
  pgrun=$run as_owner postgres -c "CREATE ROLE eddymist LOGIN"
  for database in $(pg psql -qtA -h "$run" -p 5433 -U eddymist -d postgres -c "SELECT datname FROM pg_database WHERE datname LIKE 'eddymist%'"); do
    pgrun=$run as_owner postgres -c "CREATE DATABASE \"$database\" OWNER eddymist"
    pg pg_dump -h "$run" -p 5433 -U eddymist -Fc "$database" | pg pg_restore -h "$run" -U keeper -d "$database" --no-owner --role=eddymist --exit-on-error
  done
  pg pg_ctl stop -s -m fast -D "$old"; pg pg_ctl stop -s -m fast -D "$part"
  rm -rf "$run"
  mv "$part" "$new"
}

# Starts the cluster under $1 (made once), makes database $2 where it is missing, and sets DATABASE_URL. $3: what the role may besides (CREATEDB).
start_postgres() {
  local dir=$1 name=$2 may=${3:-NOCREATEDB} cluster old here
  need_packages postgresql postgresql-client
  need_account
  mkdir -p "$dir"
  here=$(printf %s "$(cd "$dir" && pwd -P)" | sha256sum | cut -c1-12)
  # A socket's path may have 107 bytes: it lies where that is sure.
  if [ "$(id -u)" -eq 0 ]; then
    # The cluster's owner must be able to reach its folder, wherever the project was cloned to.
    old="/var/lib/eddymist/$(printf %s "$dir" | sha256sum | cut -c1-12)"
    cluster="/var/lib/eddymist/$here-cluster"; pgrun="/run/eddymist-$here"
    install -d -m 711 /var/lib/eddymist
    install -d -o postgres -g postgres -m 711 "$pgrun"
    echo "$cluster" > "$dir/postgres-is-in"
  else
    old="$dir/postgres"; cluster="$dir/cluster"; pgrun="${XDG_RUNTIME_DIR:-/tmp}/eddymist-$(id -u)-$here"
    mkdir -p -m 700 "$pgrun"
    [ -O "$pgrun" ] || { echo "$pgrun is not yours; take it away and start again." >&2; exit 2; }
    echo "$cluster" > "$dir/postgres-is-in"
  fi
  if ! pg pg_ctl status -D "$cluster" >/dev/null 2>&1; then
    if [ -s "$cluster/PG_VERSION" ]; then
      [ ! -s "$old/PG_VERSION" ] || { say "the cluster of before is taken away: the new one has started well"; rm -rf "$old"; }
    elif [ "$may" = NOCREATEDB ] && [ -s "$old/PG_VERSION" ]; then move_from "$old" "$cluster"
    else
      say "making a database cluster"
      [ "$(id -u)" -ne 0 ] || install -d -o postgres -g postgres -m 700 "$cluster"
      make_cluster "$cluster"
    fi
    run_cluster "$cluster" "$pgrun"
    pgstarted=$cluster
  fi
  as_owner postgres -c "SELECT 1 FROM pg_roles WHERE rolname = 'eddymist'" | grep -q 1 || as_owner postgres -c "CREATE ROLE eddymist LOGIN"
  as_owner postgres -c "ALTER ROLE eddymist NOSUPERUSER $may"
  as_owner postgres -c "SELECT 1 FROM pg_database WHERE datname = '$name'" | grep -q 1 || as_owner postgres -c "CREATE DATABASE \"$name\" OWNER eddymist"
  export DATABASE_URL; DATABASE_URL=$(database_url "$name")
}

drop_database() { as_owner postgres -c "DROP DATABASE IF EXISTS \"$1\" WITH (FORCE)"; }

stop_postgres() { [ -z "${pgstarted:-}" ] || pg pg_ctl stop -s -m fast -D "$pgstarted" >/dev/null 2>&1 || true; }

# Node packages, as the lock file says; again only when it changed.
need_node_packages() {
  (cd "$root/web" && { [ -f node_modules/.fits ] && [ node_modules/.fits -nt package-lock.json ]; } || {
    say "fetching the pages' packages"; cd "$root/web"; as_caller npm ci --no-audit --no-fund --loglevel=error >&2; as_caller touch node_modules/.fits; })
}

# The WebAssembly module, built where its sources changed; a machine that lacks the target uses the one that was kept.
build_wasm() { (cd "$root" && as_caller cargo run -q --release -p xtask -- wasm); }

build_pages() {
  need_node_packages
  local stamp="$root/web/dist/.built"
  if [ ! -f "$stamp" ] || [ -n "$(find "$root/web" -path "$root/web/node_modules" -prune -o -path "$root/web/dist" -prune -o -type f -newer "$stamp" -print -quit)" ]; then
    say "building the pages"
    (cd "$root/web" && as_caller npm run -s build >&2)
    as_caller touch "$stamp"
  fi
}

# Runs cargo and says now and then how far it is ("compiling 212 of 430"); what it has to complain of is passed on.
cargo_saying() {
  local line said=-9
  CARGO_TERM_PROGRESS_WHEN=always CARGO_TERM_PROGRESS_WIDTH=120 CARGO_TERM_COLOR=never "$@" 2>&1 >/dev/null | stdbuf -oL tr '\r' '\n' | while IFS= read -r line; do
    if [[ $line =~ ^\ *Building\ .*\ ([0-9]+)/([0-9]+) ]]; then
      [ $((SECONDS - said)) -lt 5 ] || { said=$SECONDS; say "compiling ${BASH_REMATCH[1]} of ${BASH_REMATCH[2]}"; }
    elif [[ ! $line =~ ^\ *(Compiling|Finished|Downloading|Downloaded|Updating|Locking|Adding|Blocking|Fresh|Running|Building|$) ]]; then
      printf '%s\n' "$line" >&2
    fi
  done
  return "${PIPESTATUS[0]}"
}

build_program() { say "building the program (the first time takes some minutes)"; (cd "$root" && SQLX_OFFLINE=true cargo_saying as_caller cargo build --release -p eddymist-cli ${EDDYMIST_PICTURES:+--features pictures}); }
