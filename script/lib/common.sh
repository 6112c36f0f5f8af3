# Shared by the scripts of this folder: messages, tools, Debian packages, the private PostgreSQL cluster, builds.
# Source it from a script that runs with `set -euo pipefail` in the root of the checkout.

say() { printf '\033[1m==>\033[0m %s\n' "$*"; }
fail() { printf 'pruvex: %s\n' "$*" >&2; exit 1; }

# need_toolchains: Rust and Node.js come from their own installers; Debian's are too old.
need_toolchains() {
  local needed rust
  needed=$(sed -n 's/^rust-version = "1\.\([0-9]*\)"/\1/p' Cargo.toml)
  command -v cargo >/dev/null || fail "Rust is missing. Install it with rustup (1.$needed or newer), open a new shell, and run this again."
  rust=$(rustc --version | sed 's/rustc 1\.\([0-9]*\).*/\1/')
  [ "$rust" -ge "$needed" ] || fail "Rust 1.$needed or newer is needed; this is $(rustc --version). Run 'rustup update' and try again."
  command -v node >/dev/null && command -v npm >/dev/null || fail "Node.js is missing. Install Node.js 20 or newer with npm, and run this again."
  local node; node=$(node --version | sed 's/v\([0-9]*\).*/\1/')
  [ "$node" -ge 20 ] || fail "Node.js 20 or newer is needed; this is $(node --version)."
  command -v cc >/dev/null || fail "A C compiler is missing. Install Debian's package 'build-essential', and run this again."
}

# need_packages PACKAGE...: installs Debian packages when missing.
need_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -gt 0 ] || return 0
  local root=()
  if [ "$(id -u)" -ne 0 ]; then
    sudo -n true 2>/dev/null || fail "Missing: ${missing[*]}. Install them as root: apt-get install ${missing[*]}"
    root=(sudo -n)
  fi
  say "Installing from Debian: ${missing[*]}"
  "${root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

need_postgres() {
  compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || need_packages postgresql
  PG_BIN=$(dirname "$(ls -d /usr/lib/postgresql/*/bin/initdb | sort -V | tail -n 1)")
}

# PostgreSQL refuses to run as root: root hands it to the user that Debian's package made.
as_postgres() {
  if [ "$(id -u)" -eq 0 ]; then
    setpriv --reuid=postgres --regid=postgres --init-groups "$@"
  else
    "$@"
  fi
}

# free_port: a loopback port that nothing listens on.
free_port() {
  local port
  for _ in $(seq 50); do
    port=$((20000 + RANDOM % 20000))
    (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null || { echo "$port"; return; }
  done
  fail "No free port was found on 127.0.0.1."
}

# start_cluster DIR [OPTION...]: makes the private cluster in DIR when it is new, starts it on loopback with its own
# port and password, and sets DB_PID and DB_URL (without a database name).
start_cluster() {
  local dir=$1; shift
  mkdir -p -m 700 "$dir"
  dir=$(cd "$dir" && pwd)
  if [ "$(id -u)" -eq 0 ] && ! as_postgres test -x "$(dirname "$dir")"; then
    # Root's home is closed to the user postgres: the cluster lives beside Debian's own then.
    dir=/var/lib/pruvex/$(printf '%s' "$dir" | sha256sum | cut -c1-12)
    mkdir -p -m 700 "$dir"
    say "The checkout is not readable for the user postgres; its database lives in $dir"
  fi
  # A file left by a crash may name a process that is somebody else's by now.
  if [ -f "$dir/data/postmaster.pid" ] && ps -o comm= -p "$(head -n 1 "$dir/data/postmaster.pid")" | grep -q '^postgres'; then
    fail "A server already runs on the database in $dir. Stop the other script/start first, or choose another folder with --data."
  fi
  if [ ! -f "$dir/data/PG_VERSION" ]; then
    say "Creating a private database cluster in $dir"
    (umask 077; od -An -tx1 -N24 /dev/urandom | tr -d ' \n' > "$dir/password")
    [ "$(id -u)" -ne 0 ] || chown -R postgres:postgres "$dir"
    (cd "$dir" && as_postgres "$PG_BIN/initdb" -D "$dir/data" -U pruvex --pwfile="$dir/password" --auth=scram-sha-256 \
      --encoding=UTF8 --locale=C.UTF-8 >/dev/null)
  elif [ "$(cat "$dir/data/PG_VERSION")" != "$("$PG_BIN/postgres" --version | sed 's/.* \([0-9]*\)\..*/\1/')" ]; then
    fail "The database in $dir was made by PostgreSQL $(cat "$dir/data/PG_VERSION"); install that version, or move the folder away to begin anew."
  fi
  local port; port=$(free_port)
  # Its own process group, so that Ctrl-C reaches the scripts first and they stop it in order.
  (cd "$dir" && as_postgres setsid "$PG_BIN/postgres" -D "$dir/data" -p "$port" -c listen_addresses=127.0.0.1 \
    -c unix_socket_directories= -c logging_collector=off "$@" >>"$dir/server.log" 2>&1) &
  DB_JOB=$!
  DB_DIR=$dir
  DB_URL="postgres://pruvex:$(cat "$dir/password")@127.0.0.1:$port"
  for _ in $(seq 150); do
    PGPASSWORD=$(cat "$dir/password") "$PG_BIN/psql" -qAt -h 127.0.0.1 -p "$port" -U pruvex -d postgres -c 'select 1' >/dev/null 2>&1 && return
    kill -0 "$DB_JOB" 2>/dev/null || break
    sleep 0.1
  done
  fail "PostgreSQL did not start; the last lines of $dir/server.log: $(tail -n 5 "$dir/server.log")"
}

# need_fonts: letters of other scripts on paper; the application's own fonts have Latin, Greek and Cyrillic ones.
need_fonts() { need_packages fonts-dejavu-core fonts-wqy-zenhei fonts-noto-core; }

stop_cluster() {
  [ -n "${DB_DIR:-}" ] && [ -f "$DB_DIR/data/postmaster.pid" ] || return 0
  # SIGINT: disconnect clients, write everything, stop.
  kill -INT "$(head -n 1 "$DB_DIR/data/postmaster.pid")" 2>/dev/null || true
  wait "${DB_JOB:-}" 2>/dev/null || true
}

# need_web: dependencies and build of the front end, each only when something changed.
need_web() {
  local stamp=web/node_modules/.pruvex-lock
  if ! cmp -s web/package-lock.json "$stamp"; then
    say "Fetching the front end's packages"
    (cd web && npm ci --no-fund --no-audit --loglevel=error)
    cp web/package-lock.json "$stamp"
  fi
  if [ ! -f web/dist/index.html ] || [ -n "$(find web/src web/public docs/guide docs/methods web/index.html web/vite.config.ts web/package-lock.json -newer web/dist/index.html -print -quit)" ]; then
    say "Building the front end"
    (cd web && npm run --silent build)
  fi
}

# build [OPTION...]: the programs, with the features of all tests. With fewer packages selected, or without any test among them, features
# would differ, and most of the packages would be built twice: once here and once by script/test.
build() { cargo build --workspace --bins --test works "$@"; }

# build_all: the front end and the programs. The first time, the front end's packages are fetched and built while cargo builds what does
# not need them: the server embeds the front end, and is among the last crates; the second call of cargo then has little or nothing to do.
build_all() {
  if [ ! -d web/dist ]; then
    say "Building the application and its front end"
    need_web &
    local web=$!
    trap 'kill "$web" 2>/dev/null || true' EXIT
    build --keep-going || wait "$web"
    wait "$web" || fail "The front end could not be built."
    trap - EXIT
  fi
  need_web
  build
}
