# Sourced by the other commands: what has to be there before anything runs.
# Every step is skipped when it is done already, so a second start takes seconds.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
state=$root/.fenwit
python=$root/.venv/bin/python
export PYTHONPATH=$root/src
export npm_config_update_notifier=false

say() { printf 'fenwit: %s\n' "$*" >&2; }
fail() { printf 'fenwit: %s\n' "$*" >&2; exit 1; }

# stamp NAME FILES…: true when the files are as they were when NAME was stamped.
stamp_value() { cat "$@" 2>/dev/null | sha256sum | cut -d' ' -f1; }
stamped() { local name=$1; shift; [ "$(cat "$state/stamps/$name" 2>/dev/null)" = "$(stamp_value "$@")" ]; }
stamp() { local name=$1; shift; mkdir -p "$state/stamps"; stamp_value "$@" > "$state/stamps/$name"; }

have_command() { command -v "$1" >/dev/null 2>&1; }
have_postgres() { compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null; }

# debian_packages NAME…: install those that are missing.
debian_packages() {
  local missing=() name
  for name in "$@"; do
    case $name in
      postgresql) have_postgres || missing+=("$name") ;;
      chromium) have_command chromium || missing+=("$name") ;;
      nodejs) have_command node || missing+=("$name") ;;
      npm) have_command npm || missing+=("$name") ;;
      libpangoft2-1.0-0) compgen -G '/usr/lib/*/libpangoft2-1.0.so.0' >/dev/null || missing+=("$name") ;;
      fonts-dejavu-core) [ -e /usr/share/fonts/truetype/dejavu/DejaVuSans.ttf ] || missing+=("$name") ;;
      python3-venv) have_command python3 && python3 -c 'import venv, ensurepip' 2>/dev/null || missing+=(python3 "$name") ;;
    esac
  done
  [ ${#missing[@]} -eq 0 ] && return
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    have_command sudo || fail "missing Debian packages: ${missing[*]}. Ask an administrator to run: apt-get install ${missing[*]}"
    as_root=(sudo)
    sudo -n true 2>/dev/null || [ -t 0 ] ||
      fail "missing Debian packages: ${missing[*]}, and sudo asks for a password. Run: sudo apt-get install ${missing[*]}"
  fi
  say "installing Debian packages: ${missing[*]}"
  # Without this Debian would make and start a cluster of its own, which nobody needs here.
  if [[ " ${missing[*]} " == *" postgresql "* ]]; then
    "${as_root[@]}" mkdir -p /etc/postgresql-common/createcluster.d
    echo 'create_main_cluster = false' | "${as_root[@]}" tee /etc/postgresql-common/createcluster.d/fenwit.conf >/dev/null
  fi
  "${as_root[@]}" apt-get update -qq || say "the package lists could not be refreshed; going on with those at hand"
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >&2 ||
    fail "could not install ${missing[*]}"
}

check_versions() {
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "Python 3.11 or newer is needed; python3 is $(python3 -V)"
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || fail "Node.js 20 or newer is needed; node is $(node -v)"
}

python_packages() {
  stamped python requirements/all.lock requirements/setup.lock && [ -x "$python" ] && return
  say "installing Python packages into .venv (hash-locked)"
  [ -x "$python" ] || python3 -m venv .venv
  "$python" -m pip install -q --disable-pip-version-check --require-hashes -r requirements/setup.lock
  .venv/bin/uv pip sync -q --python "$python" --compile-bytecode --require-hashes requirements/all.lock requirements/setup.lock
  stamp python requirements/all.lock requirements/setup.lock
}

node_packages() {
  stamped node frontend/package-lock.json && [ -d frontend/node_modules ] && return
  say "installing npm packages from the lock file"
  (cd frontend && npm ci --silent --no-audit --no-fund) >&2
  stamp node frontend/package-lock.json
}

api_types() {
  "$python" -m fenwit openapi > frontend/openapi.json.new
  if ! cmp -s frontend/openapi.json.new frontend/openapi.json || [ ! -f frontend/src/api/schema.d.ts ]; then
    mv frontend/openapi.json.new frontend/openapi.json
    say "generating the front end's types from the API"
    (cd frontend && npm run -s types) >/dev/null
  fi
  rm -f frontend/openapi.json.new
}

front_end() {
  api_types
  local sources
  mapfile -t sources < <(find frontend/src frontend/index.html frontend/vite.config.ts frontend/package-lock.json -type f | sort)
  stamped frontend "${sources[@]}" && [ -f frontend/dist/index.html ] && return
  say "building the front end"
  (cd frontend && npm run -s build -- --logLevel warn) >&2
  stamp frontend "${sources[@]}"
}

# Two commands started at once must not install into each other.
mkdir -p "$state"
exec 9>"$state/setup.lock"
set_up() {
  flock 9
  # Reports are set with Pango; DejaVu has every sign the shipped fonts lack.
  debian_packages python3-venv nodejs npm libpangoft2-1.0-0 fonts-dejavu-core "$@"
  check_versions
  python_packages
  node_packages
  front_end
  flock -u 9
}
