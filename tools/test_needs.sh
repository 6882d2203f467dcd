#!/bin/sh
# The tests drive Debian's Chromium and compare with ngspice: install both if missing and allowed, else say what to install.
set -eu
missing=""
command -v chromium >/dev/null 2>&1 || missing="$missing chromium"
command -v ngspice >/dev/null 2>&1 || missing="$missing ngspice"
[ -z "$missing" ] && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
  apt-get update -qq
  # shellcheck disable=SC2086
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
else
  echo "The tests need$missing: install with 'apt-get install$missing' and run make test again." >&2
  exit 1
fi
