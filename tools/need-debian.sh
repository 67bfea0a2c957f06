#!/usr/bin/env bash
# Installs what Debian brings: "pango" for PDF sheets, "chromium" for browser tests, "pdftools" for tests of sheets, "spreadsheet" for make spreadsheet. Does nothing where it is there.
set -u
case "$1" in
  pango) packages="libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 fonts-dejavu-core"
         there() { ldconfig -p | grep -q libpangoft2-1.0 && ldconfig -p | grep -q libharfbuzz-subset; } ;;
  # without windows it starts and draws in less than half the time
  chromium) packages="chromium-headless-shell fonts-dejavu-core"
         there() { command -v chromium-headless-shell >/dev/null; } ;;
  pdftools) packages="poppler-utils"
         there() { command -v pdffonts >/dev/null; } ;;
  spreadsheet) packages="libreoffice-calc-nogui"
         there() { command -v soffice >/dev/null; } ;;
  *) echo "idlebench: $0 pango | chromium | pdftools | spreadsheet" >&2; exit 2 ;;
esac
there && exit 0
root=""
[ "$(id -u)" = 0 ] || root="sudo"
if ! command -v apt-get >/dev/null || { [ -n "$root" ] && ! command -v sudo >/dev/null; }; then
  echo "idlebench: install these first: $packages" >&2
  exit 1
fi
# one at a time, however many are asked for side by side, and the lists are fetched once an hour
mkdir -p .stamps
exec 9>.stamps/apt-lock
flock 9
if [ -z "$(find .stamps/apt-lists -mmin -60 2>/dev/null)" ]; then
  $root apt-get update -qq && touch .stamps/apt-lists
fi
DEBIAN_FRONTEND=noninteractive $root apt-get install -y -qq --no-install-recommends $packages >/dev/null 9>&-
there || { echo "idlebench: could not install $packages" >&2; exit 1; }
