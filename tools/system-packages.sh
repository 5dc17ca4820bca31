#!/bin/sh
# Install what Qt's window and Skia need from the system, where we may; else say what is missing: system-packages.sh window
# With "tests" in place of "window" what the tests need beside that.
set -eu
case "${1:-window}" in
  tests) wanted="xvfb" ;;
  *) wanted="python3-venv libegl1 libgl1 libglib2.0-0 libfontconfig1 libdbus-1-3 libxkbcommon-x11-0 libxcb-cursor0 \
libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 \
libxcb-xkb1 libpulse0" ;;
esac
command -v dpkg-query >/dev/null 2>&1 || { echo "Not a Debian or Ubuntu machine; needed: $wanted"; exit 0; }
missing=""
for name in $wanted; do
  dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q "ok installed" && continue
  # Newer releases rename some libraries (libglib2.0-0t64); the new name provides the old one.
  dpkg-query -W -f='${Status}' "${name}t64" 2>/dev/null | grep -q "ok installed" && continue
  missing="$missing $name"
done
[ -n "$missing" ] || exit 0
if [ "$(id -u)" = 0 ]; then run=""
elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then run="sudo"
else
  echo "Please install these system packages, then try again (the window and some tests need them):"
  echo "  sudo apt-get install$missing"
  exit 0
fi
echo "Installing system packages:$missing"
$run apt-get update -qq || true
# All at once; where one of them has another name here, one by one, so that the others come.
$run env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null 2>&1 && exit 0
for name in $missing; do
  $run env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$name" >/dev/null 2>&1 ||
    echo "  $name could not be installed; the window may not start without it"
done
