# Shared by the scripts beside it: what a fresh Debian 12 machine lacks, and a PostgreSQL cluster of our own.
# shellcheck shell=bash
set -euo pipefail

ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
VENV="$ROOT/.venv"
cd "$ROOT"

# Python is started many times, by the tests above all; compiled once, each start is a second shorter.
unset PYTHONDONTWRITEBYTECODE

say() { printf '\033[33mrapzel\033[0m %s\n' "$*" >&2; }
fail() {
  printf '\033[31mrapzel\033[0m %s\n' "$1" >&2
  [ -n "${2:-}" ] && printf '       What to do: %s\n' "$2" >&2
  exit 1
}

# --- the site ----------------------------------------------------------------------------------------------------------

# web_processes PORT: sets WEB, the command of the site, with as many processes and threads as measurement chose
# (docs/operate.md). Loaded once and then shared; fewer heaps for the threads keep what each process adds to it small.
web_processes() {
  export MALLOC_ARENA_MAX=2 MALLOC_MMAP_THRESHOLD_=1048576 MALLOC_TRIM_THRESHOLD_=1048576
  WEB=("$VENV/bin/gunicorn" rapzel.config.wsgi --bind "127.0.0.1:$1" --workers "${WORKERS:-4}" --threads 3
    --preload --no-control-socket --log-level warning --graceful-timeout 4)
}

# --- Debian packages -------------------------------------------------------------------------------------------------

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }

# debian_packages NAME... : installs those that are missing, and nothing else.
debian_packages() {
  local missing=() name
  for name in "$@"; do
    dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q 'install ok installed' || missing+=("$name")
  done
  [ ${#missing[@]} -eq 0 ] && return
  command -v apt-get >/dev/null || fail "This needs Debian packages: ${missing[*]}" "install them by hand, then start again"
  [ "$(id -u)" = 0 ] || command -v sudo >/dev/null ||
    fail "Missing Debian packages: ${missing[*]}" "run as root, or: apt-get install ${missing[*]}"
  say "installing Debian packages: ${missing[*]}"
  # Without this file, installing the server would also make and start a cluster of the system's own.
  if [[ " ${missing[*]} " == *" postgresql"* && ! -e /etc/postgresql-common/createcluster.conf ]]; then
    as_root mkdir -p /etc/postgresql-common
    echo "create_main_cluster = false" | as_root tee /etc/postgresql-common/createcluster.conf >/dev/null
  fi
  as_root apt-get update -qq || fail "apt-get update failed" "check the network and /etc/apt/sources.list"
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null ||
    fail "apt-get could not install ${missing[*]}" "run that command by hand and read what it says"
}

base_packages() {
  debian_packages fonts-b612 libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 openssl
  [ -n "${DATABASE_URL:-}" ] || postgres_bin >/dev/null || debian_packages postgresql-15
  command -v npm >/dev/null || debian_packages nodejs npm
  python3 -c 'import ensurepip, venv' 2>/dev/null || debian_packages python3 python3-venv
}

# --- Python and Node packages, each installed once per lock ------------------------------------------------------------

stamp_is() { [ "$(cat "$1" 2>/dev/null)" = "$2" ]; }

# python_packages LOCK... : a virtual environment that holds what the locks say.
python_packages() {
  local want stamp="$VENV/.installed-$#"
  want="$(cat "$@" | sha256sum)"
  stamp_is "$stamp" "$want" && return
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "Python 3.11 or newer is needed" "use Debian 12 or newer"
  [ -x "$VENV/bin/python" ] || { say "making the virtual environment .venv"; python3 -m venv "$VENV"; }
  say "installing Python packages from the lock (about half a minute)"
  local args=() lock
  for lock in "$@"; do args+=(-r "$lock"); done
  # A lock is whole: nothing is resolved again, or a release newer than the lock could stop the install.
  "$VENV/bin/pip" install -q --disable-pip-version-check --no-deps --require-hashes --only-binary :all: "${args[@]}" ||
    fail "pip could not install the locked packages" "read the lines above; delete .venv and start again"
  # Who has both locks has the first as well: tests that start the server must not make pip run beside other tests.
  local count
  for count in $(seq $#); do cat "${@:1:count}" | sha256sum >"$VENV/.installed-$count"; done
}

node_packages() {
  local want
  want="$(sha256sum <package-lock.json)"
  stamp_is node_modules/.installed "$want" && return
  say "installing Node packages from the lock"
  npm ci --ignore-scripts --silent || fail "npm ci failed" "read the lines above; node 18 or newer is needed"
  echo "$want" >node_modules/.installed
}

# Styles are compiled and the few vendor files copied, so that nothing is fetched when the site runs.
assets() {
  local want
  # All that the styles are made from; _palette.scss is made itself.
  want="$(find rapzel/ui/styles -name '*.scss' ! -name _palette.scss -print0 | sort -z |
    xargs -0 cat script/assets package-lock.json rapzel/ui/palette.json rapzel/ui/palette.py | sha256sum)"
  stamp_is rapzel/ui/static/vendor/.built "$want" && return
  node_packages
  say "building styles, fonts and scripts"
  script/assets || fail "the styles could not be built" "read the lines above"
  echo "$want" >rapzel/ui/static/vendor/.built
}

# --- a PostgreSQL cluster of our own -------------------------------------------------------------------------------------

postgres_bin() {
  local found
  found="$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1)"
  [ -n "$found" ] && [ -x "$found/initdb" ] && echo "$found"
}

# PostgreSQL refuses to run as root, so root lends the work to the user that Debian's package brings.
as_postgres() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

free_port() { python3 -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }

# A pid file is ours only while that process is a postgres on this very folder; anything else is a leftover.
cluster_runs() {
  local pid
  pid="$(head -n 1 "$1/postmaster.pid" 2>/dev/null)" || return 1
  [ -n "$pid" ] && tr "\0" " " 2>/dev/null <"/proc/$pid/cmdline" | grep -qF -- "$1"
}

# cluster_start FOLDER [SETTING...] : makes it if need be, starts it, sets DATABASE_URL and CLUSTER. With CLUSTER_LATER it
# comes up while other things are done; cluster_ready waits for it.
cluster_start() {
  local home="$1" bin port
  shift
  bin="$(postgres_bin)" || fail "No PostgreSQL server found" "apt-get install postgresql-15"
  mkdir -p "$home"
  if [ "$(id -u)" = 0 ]; then
    chown postgres "$home"
    as_postgres test -x "$home" -a -w "$home" || {
      # A parent folder is closed to the postgres user (a home directory, say): keep the data outside the project.
      home="/var/lib/postgresql/rapzel-$(echo "$home" | sha256sum | cut -c1-12)"
      say "the project's folder is closed to PostgreSQL's user; its data goes to $home"
      mkdir -p "$home" && chown postgres "$home"
    }
  fi
  chmod 700 "$home"
  CLUSTER="$home/data"
  if [ ! -s "$CLUSTER/PG_VERSION" ]; then
    say "making a PostgreSQL cluster in ${home#"$ROOT"/}"
    (umask 077 && openssl rand -hex 16 >"$home/password")
    [ "$(id -u)" = 0 ] && chown postgres "$home/password"
    rm -rf "$CLUSTER"
    as_postgres "$bin/initdb" -D "$CLUSTER" -U rapzel --auth=scram-sha-256 --pwfile="$home/password" \
      --encoding=UTF8 --locale=C.UTF-8 >"$home/initdb.log" 2>&1 || fail "initdb failed" "read $home/initdb.log"
  fi
  CLUSTER_STARTED='' # set by the one that starts it, who alone stops it
  if cluster_runs "$CLUSTER"; then
    say "a PostgreSQL of another start is up; using it, and leaving it up"
    port="$(sed -n 4p "$CLUSTER/postmaster.pid")"
  else
    rm -f "$CLUSTER/postmaster.pid"
    port="$(free_port)"
    local setting
    CLUSTER_OPTIONS="-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
    for setting in "$@"; do CLUSTER_OPTIONS+=" -c $setting"; done
    CLUSTER_STARTED=1
    cluster_again &
    CLUSTER_COMING=$!
    [ -n "${CLUSTER_LATER:-}" ] || cluster_ready
  fi
  DATABASE_URL="postgres://rapzel:$(cat "$home/password")@127.0.0.1:$port/postgres"
  export DATABASE_URL
}

cluster_ready() {
  [ -n "${CLUSTER_COMING:-}" ] || return 0
  while kill -0 "$CLUSTER_COMING" 2>/dev/null; do wait "$CLUSTER_COMING" || true; done # a signal ends a wait, too
  wait "$CLUSTER_COMING" || fail "PostgreSQL did not start" "read $(dirname "$CLUSTER")/server.log"
  CLUSTER_COMING=''
}

# cluster_again : starts the cluster that cluster_start has made ready, on the same port.
cluster_again() {
  rm -f "$CLUSTER/postmaster.pid"
  as_postgres "$(postgres_bin)/pg_ctl" -D "$CLUSTER" -l "$(dirname "$CLUSTER")/server.log" -o "$CLUSTER_OPTIONS" -w -t 60 \
    start >/dev/null
}

# cluster_stop [MODE] : stops the cluster if it was started here; what does not end in a few seconds is broken off, which
# loses nothing: PostgreSQL takes it up again from its log.
cluster_stop() {
  [ -n "${CLUSTER:-}" ] && [ -n "${CLUSTER_STARTED:-}" ] && cluster_runs "$CLUSTER" || return 0
  cluster_end "${1:-fast}" 2>/dev/null || cluster_end immediate || true
}
cluster_end() { as_postgres "$(postgres_bin)/pg_ctl" -D "$CLUSTER" -m "$1" -w -t 5 stop >/dev/null; }

# own_database : DATABASE_URL as given, else that of the cluster in var/, started if it is not up.
own_database() {
  [ -z "${DATABASE_URL:-}" ] || return 0
  cluster_start "$ROOT/var/postgres"
}
