#!/bin/sh
# Fails when the committed styles are not what assets/ and the templates give; passes where there is no Node to tell.
set -eu
if ! command -v npm >/dev/null 2>&1; then
  echo "No Node here: the committed styles are taken as they are."
  exit 0
fi
make --no-print-directory node_modules/ready
made=$(mktemp)
trap 'rm -f "$made"' EXIT
node_modules/.bin/tailwindcss -i assets/app.css -o "$made" --minify >/dev/null 2>&1
if ! cmp -s "$made" pondrel/web/static/dist/app.css; then
  echo "pondrel/web/static/dist/app.css is stale: run 'make css' and commit it." >&2
  exit 1
fi
