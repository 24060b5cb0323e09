# Sourced by the other commands: what has to be there before anything runs.
# Every step is skipped when it is done already, so a second start takes seconds.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
state=$root/.fenwit
python=$root/.venv/bin/python
export PYTHONPATH=$root/src
export npm_config_update_notifier=false
# What was read once is read compiled the next time, also where the machine says otherwise: half of a start is that.
unset PYTHONDONTWRITEBYTECODE
export PYTHONPYCACHEPREFIX=$state/compiled

say() { printf 'fenwit: %s\n' "$*" >&2; }
fail() { printf 'fenwit: %s\n' "$*" >&2; exit 1; }

# stamp NAME FILES…: true when the files are as they were when NAME was stamped.
stamp_value() { cat "$@" 2>/dev/null | sha256sum | cut -d' ' -f1; }
stamped() { local name=$1; shift; [ "$(cat "$state/stamps/$name" 2>/dev/null)" = "$(stamp_value "$@")" ]; }
stamp() {
  local name=$1; shift
  mkdir -p "$state/stamps"
  stamp_value "$@" > "$state/stamps/$name.new" && mv "$state/stamps/$name.new" "$state/stamps/$name"
}

# Whatever is made is made beside its place and moved there when it is whole; a start that was killed leaves at most
# something beside, which the next one throws away.
put_in_place() {
  rm -rf "$2.old"
  if [ -e "$2" ]; then mv "$2" "$2.old"; fi
  mv "$1" "$2"
  rm -rf "$2.old"
}

have_command() { command -v "$1" >/dev/null 2>&1; }
have_postgres() { compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null; }

# debian_packages NAME…: install those that are missing.
debian_packages() {
  local missing=() name
  for name in "$@"; do
    case $name in
      postgresql) have_postgres || missing+=("$name") ;;
      chromium) have_command chromium || missing+=("$name") ;;
      ngspice) have_command ngspice || missing+=("$name") ;;
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
  # A start that was killed may have left a package half set up.
  [ -z "$(dpkg --audit 2>/dev/null)" ] || "${as_root[@]}" dpkg --configure -a >&2
  "${as_root[@]}" apt-get update -qq || say "the package lists could not be refreshed; going on with those at hand"
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=120 install -y -qq --no-install-recommends "${missing[@]}" >&2 ||
    fail "could not install ${missing[*]}"
}

check_versions() {
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "Python 3.11 or newer is needed; python3 is $(python3 -V)"
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || fail "Node.js 20 or newer is needed; node is $(node -v)"
}

# python_packages run|all: what the application needs, or that and the tools of the checks. An environment holds its
# own path, so each is made under a name of its own, and .venv is a link that is turned to it when it is whole.
python_packages() {
  local kind=$1 name place
  name=$kind-$({ cat "requirements/$kind.lock" requirements/setup.lock; python3 -V; } | sha256sum | cut -c1-16)
  place=$state/environments/$name
  # One with the tools does for running as well, as long as it is of today's locks.
  [ "$kind" = run ] && stamped python-all requirements/all.lock requirements/setup.lock &&
    [ "$(cat "$state/environment" 2>/dev/null)" = "$(readlink .venv)" ] && [ -x "$python" ] && return
  if [ ! -e "$place/whole" ]; then
    say "installing Python packages (hash-locked)"
    rm -rf "$place"
    python3 -m venv "$place"
    "$place/bin/python" -m pip install -q --disable-pip-version-check --require-hashes -r requirements/setup.lock
    "$place/bin/uv" pip sync -q --python "$place/bin/python" --compile-bytecode --require-hashes \
      "requirements/$kind.lock" requirements/setup.lock
    touch "$place/whole"
  fi
  if [ "$(readlink .venv)" != ".fenwit/environments/$name" ]; then
    if [ -e .venv ] && [ ! -L .venv ]; then rm -rf .venv.old; mv .venv .venv.old; fi
    ln -sfn ".fenwit/environments/$name" .venv.new && mv -T .venv.new .venv
    rm -rf .venv.old
  fi
  echo ".fenwit/environments/$name" > "$state/environment"
  stamp "python-$kind" "requirements/$kind.lock" requirements/setup.lock
  find "$state/environments" -mindepth 1 -maxdepth 1 ! -name "$name" -exec rm -rf {} +
}

# node_packages run|all: what builds the front end, or that and the tools of the checks.
node_packages() {
  local kind=$1 beside=frontend/.beside omit=()
  [ "$kind" = run ] && omit=(--omit=dev)
  [ -d frontend/node_modules ] && { stamped node-all frontend/package-lock.json || stamped "node-$kind" frontend/package-lock.json; } && return
  say "installing npm packages from the lock file"
  rm -rf "$beside"; mkdir "$beside"
  cp frontend/package.json frontend/package-lock.json "$beside/"
  (cd "$beside" && npm ci --silent --no-audit --no-fund ${omit[@]+"${omit[@]}"}) >&2
  rm -f "$state/stamps/node-run" "$state/stamps/node-all"
  put_in_place "$beside/node_modules" frontend/node_modules
  rm -rf "$beside"
  stamp "node-$kind" frontend/package-lock.json
}

api_types() {
  "$python" -m fenwit openapi > frontend/openapi.json.new
  if ! cmp -s frontend/openapi.json.new frontend/openapi.json || [ ! -f frontend/src/api/schema.d.ts ]; then
    say "generating the front end's types from the API"
    (cd frontend && npm run -s types -- openapi.json.new -o src/api/schema.d.ts.new) >/dev/null
    mv frontend/src/api/schema.d.ts.new frontend/src/api/schema.d.ts
    # Last: while it is the old one the types are made again.
    mv frontend/openapi.json.new frontend/openapi.json
  fi
  rm -f frontend/openapi.json.new
}

front_end() {
  api_types
  local sources
  mapfile -t sources < <(find frontend/src frontend/index.html frontend/vite.config.ts frontend/package-lock.json -type f | sort)
  stamped frontend "${sources[@]}" && [ -f frontend/dist/index.html ] && return
  say "building the front end"
  rm -rf frontend/dist.new
  (cd frontend && npm run -s build -- --outDir dist.new --logLevel warn) >&2
  put_in_place frontend/dist.new frontend/dist
  stamp frontend "${sources[@]}"
}

# Two commands started at once must not install into each other.
mkdir -p "$state" 2>/dev/null || fail "cannot write in $root: is the disk full or read-only?"
exec 9>"$state/setup.lock" || fail "cannot write in $state: is the disk full or read-only?"
# set_up run|all PACKAGES…: everything that has to be there, for running it or for checking it.
set_up() {
  local kind=$1
  shift
  flock 9
  # Reports are set with Pango; DejaVu has every sign the shipped fonts lack.
  debian_packages python3-venv nodejs npm libpangoft2-1.0-0 fonts-dejavu-core "$@"
  check_versions
  python_packages "$kind"
  node_packages "$kind"
  front_end
  flock -u 9
}
