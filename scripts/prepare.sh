# Makes sure that Node.js and the packages of the lock file are there. Sourced by ./start and ./check.

say() { printf '%s\n' "$*" >&2; }

if ! command -v node >/dev/null 2>&1; then
  say "Node.js is missing. Install version 20.19 or later, then run this again."
  exit 1
fi
if ! node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)'; then
  say "Node.js $(node --version) is too old. Install version 20.19 or later, then run this again."
  exit 1
fi

export ASTRO_TELEMETRY_DISABLED=1 DO_NOT_TRACK=1

lock_sum=$(sha256sum package-lock.json | cut -d' ' -f1)
if [ ! -f node_modules/.lock-sum ] || [ "$(cat node_modules/.lock-sum)" != "$lock_sum" ]; then
  say "Installing packages from the lock file (a minute or two) ..."
  if ! npm ci --no-audit --no-fund --loglevel=error >&2; then
    say "The packages could not be installed. Check the network and the free disk space, then run this again."
    exit 1
  fi
  printf '%s' "$lock_sum" >node_modules/.lock-sum
fi
