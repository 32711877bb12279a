# What ./run, ./check, ./bench and ./aquifer share: each step does only what is missing. Sourced, not run.
# Every failure is one line that says what to do.

ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
DATA=${AQUIFER_DATA:-$ROOT/var}
VENV=$ROOT/.venv
PASSWORD_FILE=$DATA/postgres-password
started_postgres=no

die() { printf '%s\n' "$*" >&2; exit 1; }
say() { [ -n "${QUIET:-}" ] || printf '%s\n' "$*"; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then sudo -n "$@"
  else return 1; fi
}

postgres_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }

# Debian's packages, by what would be missing without them. "checks" as argument: what tests need besides;
# "hosts": what several machines do.
need_packages() {
  local missing=()
  command -v python3 >/dev/null && python3 -c 'import venv, ensurepip' 2>/dev/null || missing+=(python3 python3-venv)
  [ -n "$(postgres_bin)" ] || missing+=(postgresql)
  compgen -G "/usr/lib/*/libpangoft2-1.0.so.*" >/dev/null || missing+=(libpango-1.0-0 libpangoft2-1.0-0)
  if [ "${1:-}" = checks ]; then
    # Chromium without its windows: a quarter of the processor's time less than the whole one takes for the same tests.
    command -v chromium-headless-shell >/dev/null || missing+=(chromium-headless-shell)
    [ -x /usr/sbin/pgbouncer ] || missing+=(pgbouncer)
    command -v pdfinfo >/dev/null || missing+=(poppler-utils)
  fi
  if [ "${1:-}" = hosts ]; then
    command -v etcd >/dev/null || missing+=(etcd-server)
    for name in nginx haproxy patroni; do command -v $name >/dev/null || missing+=($name); done
  fi
  [ ${#missing[@]} -eq 0 ] && return
  say "Installing ${missing[*]} ..."
  # Without this Debian would start a database server of its own.
  local policy=no
  if [ "$(id -u)" = 0 ] && [ ! -e /usr/sbin/policy-rc.d ]; then
    printf '#!/bin/sh\nexit 101\n' >/usr/sbin/policy-rc.d && chmod +x /usr/sbin/policy-rc.d && policy=yes
  fi
  as_root env DEBIAN_FRONTEND=noninteractive sh -c "apt-get update -qq && apt-get install -y -qq ${missing[*]}" >"$DATA/packages.log" 2>&1
  local done=$?
  [ $policy = yes ] && rm -f /usr/sbin/policy-rc.d
  [ $done = 0 ] || die "Missing: ${missing[*]}. Install them with: sudo apt-get install ${missing[*]} (log: $DATA/packages.log)"
}

# Runs a step only if what it depends on has changed since it last succeeded: stamped STAMP KEY COMMAND...
stamped() {
  local stamp=$1 key=$2; shift 2
  [ "$(cat "$stamp" 2>/dev/null)" = "$key" ] && return
  "$@" || return 1
  printf '%s' "$key" >"$stamp"
}

need_python() {
  local lock=$ROOT/$1
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || die "Python 3.11 or newer is needed; this is $(python3 --version)."
  [ -x "$VENV/bin/python" ] || python3 -m venv "$VENV" || die "No virtual environment in $VENV; remove the folder and start again."
  # What the checks need holds what the application needs, so either lock file is fine for running.
  local have; have=$(cat "$VENV/.installed" 2>/dev/null)
  [ "$have" = "requirements-dev.txt $(sha256sum <"$ROOT/requirements-dev.txt")" ] && return
  stamped "$VENV/.installed" "$1 $(sha256sum <"$lock")" install_python "$lock"
}
install_python() {
  say "Installing Python packages ..."
  "$VENV/bin/pip" install -q --disable-pip-version-check --require-hashes -r "$1" >"$DATA/pip.log" 2>&1 \
    || die "Python packages were not installed; the log is $DATA/pip.log"
}

need_web() {
  export PATH=$VENV/bin:$PATH
  stamped "$ROOT/web/node_modules/.installed" "$(sha256sum <"$ROOT/web/package-lock.json")" install_web
}
install_web() {
  say "Installing front-end packages ..."
  # Not "npm ci": it refuses a lock file made where the binaries of other systems could not be seen. The versions and
  # hashes are the lock file's all the same.
  (cd "$ROOT/web" && npm install --no-save --no-audit --no-fund --loglevel=error >"$DATA/npm.log" 2>&1) \
    || die "Front-end packages were not installed; the log is $DATA/npm.log"
}
need_build() {
  local key
  key=$(cd "$ROOT/web" && find src public index.html package-lock.json vite.config.ts tsconfig*.json -type f 2>/dev/null | sort | xargs sha256sum | sha256sum)
  [ -f "$ROOT/web/dist/index.html" ] || rm -f "$ROOT/web/.built"
  [ "$(cat "$ROOT/web/.built" 2>/dev/null)" = "$key" ] && return
  need_web
  stamped "$ROOT/web/.built" "$key" build_web
}
build_web() {
  say "Building the front end ..."
  (cd "$ROOT/web" && npm run -s build >"$DATA/build.log" 2>&1) || die "The front end did not build; the log is $DATA/build.log"
}

# PostgreSQL refuses root; then it runs as its own user.
as_postgres() {
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}
port_is_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }
postgres_runs() { as_postgres "$PG/pg_ctl" -D "$CLUSTER" status >/dev/null 2>&1; }

# need_postgres [NAME [OPTIONS]]: a database server of its own for each name.
need_postgres() {
  local name=${1:-postgres} options=${2:-}
  PG=$(postgres_bin)
  CLUSTER=$DATA/$name PORT_FILE=$DATA/$name-port
  mkdir -p "$DATA" || die "The folder $DATA cannot be written; set AQUIFER_DATA to one that can."
  if [ "$(id -u)" = 0 ] && ! runuser -u postgres -- test -x "$DATA"; then
    # The project lies where PostgreSQL's user cannot go, under /root for one.
    CLUSTER=/var/tmp/aquifer-$(printf '%s' "$DATA" | sha256sum | cut -c1-12)${name#postgres}
  fi
  [ -s "$PASSWORD_FILE" ] || { (umask 077; od -An -N24 -tx1 /dev/urandom | tr -d ' \n' >"$PASSWORD_FILE"); }
  [ -s "$CLUSTER/PG_VERSION" ] || create_cluster
  postgres_options=$options
  if ! postgres_runs; then
    local port; port=$(cat "$PORT_FILE" 2>/dev/null || echo 54329)
    while port_is_taken "$port"; do port=$((port + 1)); done
    printf '%s' "$port" >"$PORT_FILE"
    start_postgres || die "The database did not start; see $CLUSTER/server.log, or start over with ./run --fresh"
    started_postgres=yes
  fi
  export AQUIFER_DB_HOST=127.0.0.1 AQUIFER_DB_USER=aquifer
  AQUIFER_DB_PORT=$(cat "$PORT_FILE"); AQUIFER_DB_PASSWORD=$(cat "$PASSWORD_FILE")
  export AQUIFER_DB_PORT AQUIFER_DB_PASSWORD
}
# A quarter of the machine's memory, at most 1 GB, for what is read and written again and again: the forecasts of a large
# base do not fit into PostgreSQL's own 128 MB.
postgres_memory() {
  awk '/^MemTotal/ { mb = int($2 / 4096); print (mb > 1024 ? 1024 : mb < 128 ? 128 : mb) "MB" }' /proc/meminfo
}
start_postgres() {
  local own="-c listen_addresses=127.0.0.1 -c unix_socket_directories= -c shared_buffers=$(postgres_memory)"
  as_postgres "$PG/pg_ctl" -D "$CLUSTER" -l "$CLUSTER/server.log" -w -t 60 \
    -o "-p $(cat "$PORT_FILE") $own -c wal_compression=lz4 $postgres_options" start >/dev/null 2>&1
}
create_cluster() {
  say "Creating the database cluster ..."
  mkdir -p "$CLUSTER" && chmod 700 "$CLUSTER"
  local password; password=$(mktemp); cat "$PASSWORD_FILE" >"$password"
  [ "$(id -u)" = 0 ] && chown postgres "$CLUSTER" "$password"
  as_postgres "$PG/initdb" -D "$CLUSTER" -U aquifer -A scram-sha-256 --pwfile="$password" -E UTF8 --locale=C.UTF-8 \
    >"$DATA/initdb.log" 2>&1 || die "The database cluster was not created; see $DATA/initdb.log"
  rm -f "$password"
}
stop_postgres() {
  [ $started_postgres = yes ] && as_postgres "$PG/pg_ctl" -D "$CLUSTER" -m fast -w stop >/dev/null 2>&1
  started_postgres=no
}
need_database() {
  PGPASSWORD=$AQUIFER_DB_PASSWORD "$PG/psql" -h 127.0.0.1 -p "$AQUIFER_DB_PORT" -U aquifer -d postgres -tAc \
    "SELECT 1 FROM pg_database WHERE datname = 'aquifer'" 2>/dev/null | grep -q 1 ||
    PGPASSWORD=$AQUIFER_DB_PASSWORD "$PG/createdb" -h 127.0.0.1 -p "$AQUIFER_DB_PORT" -U aquifer aquifer \
    || die "The database aquifer was not created; see $CLUSTER/server.log"
}
