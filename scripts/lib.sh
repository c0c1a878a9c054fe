# Shared by scripts/demo and scripts/test: sets a fresh Debian-like machine up, and runs a private PostgreSQL on loopback.
# Sourced, not run.

PROJECT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
VENV="$PROJECT/.venv"

# what a dozen processes load is compiled once, also where the machine says that nothing compiled is kept
export PYTHONDONTWRITEBYTECODE=

say() { printf '%s\n' "$*" >&2; }
fail() { printf '\nAgile Strike could not start: %s\n' "$*" >&2; exit 1; }

enough_disk() {
  local free
  free=$(df -Pm "$PROJECT" | awk 'NR==2 {print $4}')
  [ "${free:-9999}" -ge 600 ] || fail "only $free MB of disk are free in $PROJECT; 600 MB are needed. Make room and start again."
}

pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }

need_debian() { # packages that Debian brings: need_debian NAME...
  command -v apt-get >/dev/null || fail "this machine has no apt-get; install $* by hand and start again."
  local as=()
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null && sudo -n true 2>/dev/null && as=(sudo -n) \
      || fail "$* must be installed and you have no right to do so. Ask for: sudo apt-get install $*"
  fi
  say "Installing $* (Debian packages) ..."
  "${as[@]}" apt-get update -qq >&2 || true
  # the package starts a server of its own unless told not to; ours is private
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >/dev/null \
    || fail "apt-get could not install $*. Check the network and the disk, then start again."
}

ensure_system() { # ensure_system [browser]
  enough_disk
  [ -n "$(pg_bin)" ] && [ -x "$(pg_bin)/initdb" ] || need_debian postgresql
  # what reports are set with
  ls /usr/lib/*/libpangoft2-1.0.so.0 >/dev/null 2>&1 || need_debian libpango-1.0-0 libpangoft2-1.0-0
  if [ "${1:-}" = browser ]; then command -v chromium >/dev/null || need_debian chromium; fi
  command -v npm >/dev/null || fail "Node.js 20 with npm is missing. Install it and start again."
}

python_311() {
  local p
  for p in python3.11 python3 python; do
    command -v "$p" >/dev/null && "$p" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null && { echo "$p"; return; }
  done
  fail "Python 3.11 or newer is missing. Install it and start again."
}

ensure_python() { # ensure_python app|dev
  local lock="$PROJECT/requirements/$1.txt" mark="$VENV/.installed-$1" want kind
  for kind in "$1" dev; do # what the tests need holds all that the application needs
    want=$(cat "$PROJECT/requirements/$kind.txt" "$PROJECT/pyproject.toml" | sha256sum | cut -d' ' -f1)
    [ "$(cat "$VENV/.installed-$kind" 2>/dev/null)" = "$want" ] && return
  done
  want=$(cat "$lock" "$PROJECT/pyproject.toml" | sha256sum | cut -d' ' -f1)
  local py; py=$(python_311)
  [ -x "$VENV/bin/python" ] || "$py" -m venv "$VENV" || fail "a Python environment could not be made (Debian: install python3-venv)."
  say "Installing Python packages ..."
  "$VENV/bin/pip" install -q --disable-pip-version-check --require-hashes -r "$lock" >&2 \
    || fail "Python packages could not be installed. Check the network and the disk, then start again."
  "$VENV/bin/python" - "$PROJECT" <<'PY' || fail "the project could not be put on the Python path."
import pathlib, site, sys
project = pathlib.Path(sys.argv[1])
pathlib.Path(site.getsitepackages()[0], "agile_strike.pth").write_text(str(project / "src") + "\n")
command = pathlib.Path(sys.executable).with_name("agile-strike")
command.write_text(f"#!{sys.executable}\nimport sys\nfrom agile_strike.cli import main\nsys.exit(main())\n")
command.chmod(0o755)
PY
  echo "$want" > "$mark"
}

ensure_web_packages() {
  local want mark="$PROJECT/web/node_modules/.installed"
  want=$(sha256sum < "$PROJECT/web/package-lock.json" | cut -d' ' -f1)
  [ "$(cat "$mark" 2>/dev/null)" = "$want" ] && return
  say "Installing web packages ..."
  (cd "$PROJECT/web" && npm ci --no-audit --no-fund --loglevel=error >&2) \
    || fail "web packages could not be installed. Check the network and the disk, then start again."
  echo "$want" > "$mark"
}

ensure_web_build() {
  local want mark="$PROJECT/web/dist/.built"
  want=$(cd "$PROJECT/web" && find src index.html package-lock.json vite.config.ts -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)
  [ "$(cat "$mark" 2>/dev/null)" = "$want" ] && return
  ensure_web_packages
  say "Building the web application ..."
  (cd "$PROJECT/web" && npm run --silent build >&2) || fail "the web application could not be built; see above."
  # packed beside each file, so that a tablet on a poor line loads a third
  "$VENV/bin/python" -m whitenoise.compress --quiet "$PROJECT/web/dist" || fail "the web application could not be packed; see above."
  echo "$want" > "$mark"
}

# --- PostgreSQL: a cluster of its own, on loopback, with a password of its own

as_postgres() { # the server refuses to run as root
  if [ "$(id -u)" = 0 ]; then
    (cd / && setpriv --reuid=postgres --regid=postgres --init-groups env -i PATH=/usr/bin:/bin LC_ALL=C.UTF-8 "$@")
  else
    (cd / && env LC_ALL=C.UTF-8 "$@")
  fi
}

free_port() { # free_port FROM: the first port that nobody listens on
  "$VENV/bin/python" - "$1" <<'PY'
import socket, sys
for port in range(int(sys.argv[1]), int(sys.argv[1]) + 200):
    with socket.socket() as s:
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            continue
        print(port)
        break
PY
}

pg_start() { # pg_start FOLDER: starts the cluster in FOLDER, made if need be; sets AGILE_STRIKE_DB_*
  local folder="$1" bin; bin=$(pg_bin)
  mkdir -p "$folder" || fail "the data folder $folder can't be made. Check rights and disk."
  chmod 711 "$folder"
  if [ ! -f "$folder/password" ]; then
    "$VENV/bin/python" -c 'import secrets; print(secrets.token_urlsafe(24))' > "$folder/password"
    chmod 600 "$folder/password"
  fi
  [ "$(id -u)" = 0 ] && chown postgres "$folder" "$folder/password"
  if [ ! -f "$folder/data/PG_VERSION" ]; then
    rm -rf "$folder/data"
    as_postgres "$bin/initdb" -D "$folder/data" -U app --auth=scram-sha-256 --pwfile="$folder/password" -E UTF8 --locale=C.UTF-8 >/dev/null \
      || fail "a PostgreSQL data folder could not be made in $folder. Check rights and disk."
  fi
  if ! pg_runs "$folder"; then
    local port; port=$(free_port "$(cat "$folder/port" 2>/dev/null || echo 54611)")
    [ -n "$port" ] || fail "no free port was found for PostgreSQL between 54611 and 54810."
    echo "$port" > "$folder/port"
    pg_again "$folder" || fail "PostgreSQL did not start; its reasons are in $folder/data/server.log"
    PG_STARTED="$folder"
  fi
  export AGILE_STRIKE_DB_HOST=127.0.0.1 AGILE_STRIKE_DB_USER=app
  AGILE_STRIKE_DB_PORT=$(cat "$folder/port"); AGILE_STRIKE_DB_PASSWORD=$(cat "$folder/password")
  export AGILE_STRIKE_DB_PORT AGILE_STRIKE_DB_PASSWORD
}

pg_runs() { as_postgres "$(pg_bin)/pg_ctl" -D "$1/data" status >/dev/null 2>&1; }

# The server's log outlives whoever is erased, so nothing of a statement gets into it: neither what was asked nor the
# row that failed. What ends or begins the server is still there.
PG_SAYS_NO_VALUES="-c log_statement=none -c log_min_duration_statement=-1 -c log_min_messages=log \
  -c log_min_error_statement=panic -c log_error_verbosity=terse -c log_parameter_max_length=0 \
  -c log_parameter_max_length_on_error=0 -c log_lock_waits=off -c log_connections=off"

pg_again() { # pg_again FOLDER: starts its server on the port that it had
  # a log from before that rule goes
  [ -f "$1/log-without-values" ] || { rm -f "$1/data/server.log"; touch "$1/log-without-values"; }
  as_postgres "$(pg_bin)/pg_ctl" -w -s -D "$1/data" -l "$1/data/server.log" \
    -o "-p $(cat "$1/port") -c listen_addresses=127.0.0.1 -c unix_socket_directories='' $PG_SAYS_NO_VALUES ${PG_EXTRA:-}" start
}

pg_stop() { # stops what pg_start started
  [ -n "${PG_STARTED:-}" ] && as_postgres "$(pg_bin)/pg_ctl" -w -s -m fast -D "$PG_STARTED/data" stop || true
  PG_STARTED=""
}

# --- what is kept running

kept=()

keep() { # keep NAME COMMAND...: runs it, and runs it again whenever it ends, until this script does
  local name="$1"; shift
  ( trap 'kill -TERM "${job:-}" 2>/dev/null; wait "${job:-}" 2>/dev/null; exit 0' TERM INT
    while true; do
      status=0; "$@" & job=$!; wait "$job" || status=$?
      say "$name ended ($(why_of "$status")) and is started again."
      sleep 1
    done ) &
  kept+=($!)
}

why_of() { # why_of STATUS: what a process's end says of its reason
  if [ "$1" -gt 128 ]; then echo "by signal $(kill -l $(($1 - 128)) 2>/dev/null || echo $(($1 - 128)))"; else echo "with status $1"; fi
}

keep_all() { # keep_all PORT: every process of an installation but the database
  keep "the worker of imports" "$VENV/bin/python" manage.py run_worker --queue import
  keep "the worker of tables" "$VENV/bin/python" manage.py run_worker --queue look
  keep "the worker of evenings" "$VENV/bin/python" manage.py run_worker --queue live
  for _ in $(seq "${AGILE_STRIKE_LIVE_WORKERS:-2}"); do keep "a live worker" "$VENV/bin/python" manage.py run_live; done
  keep "the simulated stations" "$VENV/bin/python" manage.py run_simulated --server "http://127.0.0.1:$1"
  keep "the web server" "$VENV/bin/uvicorn" agile_strike.config.asgi:application --app-dir src --host 127.0.0.1 --port "$1" \
    --workers "${AGILE_STRIKE_WEB_PROCESSES:-2}" --log-level warning --timeout-graceful-shutdown 2 --no-proxy-headers
}
