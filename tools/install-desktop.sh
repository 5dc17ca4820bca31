#!/bin/sh
# Add Nimble Quake to the desktop's menu and teach it .nquake files, for this user: install-desktop.sh BIN_FOLDER
set -eu
bin=$1
here=$(cd "$(dirname "$0")" && pwd)
data=${XDG_DATA_HOME:-$HOME/.local/share}
mkdir -p "$data/applications" "$data/mime/packages" "$data/icons/hicolor/scalable/apps"
sed "s|@BIN@|$bin|" "$here/desktop/nimble-quake.desktop" > "$data/applications/nimble-quake.desktop"
cp "$here/desktop/nimble-quake.xml" "$data/mime/packages/"
cp "$here/desktop/nimble-quake.svg" "$data/icons/hicolor/scalable/apps/"
command -v update-mime-database >/dev/null 2>&1 && update-mime-database "$data/mime" || true
command -v update-desktop-database >/dev/null 2>&1 && update-desktop-database "$data/applications" || true
echo "Nimble Quake is in your desktop's menu; .nquake files open with it."
