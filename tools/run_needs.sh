#!/bin/sh
# Reports are set as PDF with Pango, which no Python package brings: install it if missing and allowed; all else runs without it.
set -eu
ldconfig -p 2>/dev/null | grep -q libpangoft2-1.0 && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends libpangoft2-1.0-0 >/dev/null && exit 0
fi
echo "Reports as PDF need Pango: install it with 'apt-get install libpangoft2-1.0-0'. All else works without it." >&2
