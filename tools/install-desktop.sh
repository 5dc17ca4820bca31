#!/bin/sh
# Add Nimble Quake to the desktop's menu and teach it .nquake files, for this user: install-desktop.sh BIN_FOLDER
# `install-desktop.sh --remove` takes all of it away again.
set -eu
here=$(cd "$(dirname "$0")" && pwd)
data=${XDG_DATA_HOME:-$HOME/.local/share}
commands=$HOME/.local/bin

refresh() {
  command -v update-mime-database >/dev/null 2>&1 && update-mime-database "$data/mime" >/dev/null 2>&1 || true
  command -v update-desktop-database >/dev/null 2>&1 && update-desktop-database "$data/applications" || true
  command -v gtk-update-icon-cache >/dev/null 2>&1 && gtk-update-icon-cache -q -t "$data/icons/hicolor" || true
}

if [ "$1" = --remove ]; then
  rm -f "$data/applications/nimble-quake.desktop" "$data/mime/packages/nimble-quake.xml" \
    "$data/metainfo/nimble-quake.metainfo.xml" "$data/man/man1/nimble-quake.1" \
    "$data/bash-completion/completions/nimble-quake" "$data/fish/vendor_completions.d/nimble-quake.fish" \
    "$data/zsh/site-functions/_nimble-quake"
  [ -L "$commands/nimble-quake" ] && rm -f "$commands/nimble-quake"
  find "$data/icons/hicolor" -name 'nimble-quake.*' -delete 2>/dev/null || true
  refresh
  echo "Nimble Quake is out of your desktop's menu; your shots and preferences stay."
  exit 0
fi

bin=$1
mkdir -p "$data/applications" "$data/mime/packages" "$data/icons/hicolor/scalable/apps" "$data/metainfo" \
  "$data/man/man1" "$data/bash-completion/completions" "$data/fish/vendor_completions.d" "$data/zsh/site-functions"
sed "s|@BIN@|$bin|" "$here/desktop/nimble-quake.desktop" > "$data/applications/nimble-quake.desktop"
cp "$here/desktop/nimble-quake.xml" "$data/mime/packages/"
cp "$here/desktop/nimble-quake.metainfo.xml" "$data/metainfo/"
cp "$here/desktop/nimble-quake.svg" "$data/icons/hicolor/scalable/apps/"
"$bin/python" "$here/draw_icons.py" "$data/icons/hicolor"
"$bin/nimble-quake" manual > "$data/man/man1/nimble-quake.1"
"$bin/nimble-quake" completion bash > "$data/bash-completion/completions/nimble-quake"
"$bin/nimble-quake" completion fish > "$data/fish/vendor_completions.d/nimble-quake.fish"
"$bin/nimble-quake" completion zsh > "$data/zsh/site-functions/_nimble-quake"
mkdir -p "$commands"
if [ -e "$commands/nimble-quake" ] && [ ! -L "$commands/nimble-quake" ]; then
  echo "$commands/nimble-quake is something else and stays; the command is $bin/nimble-quake."
else
  ln -sf "$bin/nimble-quake" "$commands/nimble-quake"
fi
case ":$PATH:" in
  *":$commands:"*) ;;
  *) echo "Your PATH lacks $commands: put it there, and nimble-quake is found in every shell." ;;
esac
refresh
echo "Nimble Quake is in your desktop's menu; .nquake files open with it; man nimble-quake tells the rest."
