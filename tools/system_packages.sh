#!/bin/sh
# Install what is missing of Debian's packages: the browser, PostgreSQL, fonts, Python's venv.
set -eu
missing=""
for package in chromium chromium-headless-shell postgresql fonts-dejavu-core fonts-dejavu-extra fonts-liberation fonts-lato python3-venv ca-certificates; do
  dpkg -s "$package" >/dev/null 2>&1 || missing="$missing $package"
done
[ -z "$missing" ] && exit 0
echo "installing Debian packages:$missing"
sudo=""
if [ "$(id -u)" != 0 ]; then
  command -v sudo >/dev/null 2>&1 || { echo "these packages are missing and sudo is not here:$missing" >&2; exit 1; }
  sudo=sudo
fi
$sudo apt-get update -q
# a cluster of the system's own is not wanted: Neige makes a private one
$sudo env DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends $missing
