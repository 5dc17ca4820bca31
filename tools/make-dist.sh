#!/bin/sh
# Build the wheel and the source archive, check them, install each into a clean environment and render there.
# make-dist.sh BIN_FOLDER
set -eu
bin=$1
work=$(mktemp -d)
started=$(date +%s)
objects=src/nimble_quake/kernels/objects
trap 'rm -rf "$work" "$objects"' EXIT
rm -rf dist build "$objects"

echo "Building the wheel and the source archive ..."
"$bin/python" -m venv "$work/tools"
"$work/tools/bin/python" -m pip install --quiet --disable-pip-version-check -r requirements/package.txt
"$work/tools/bin/python" -m build --sdist --outdir dist . >"$work/build.log" 2>&1 || { cat "$work/build.log"; exit 1; }
echo "Compiling the kernels that go into the wheel ..."
"$bin/python" -m nimble_quake.session.warm_up --ship "$objects"
"$work/tools/bin/python" -m build --wheel --outdir dist . >"$work/build.log" 2>&1 || { cat "$work/build.log"; exit 1; }
"$work/tools/bin/twine" check --strict dist/*
"$work/tools/bin/check-wheel-contents" dist/*.whl

for archive in dist/*.whl dist/*.tar.gz; do
  echo "Installing $archive into a clean environment ..."
  rm -rf "$work/clean"
  "$bin/python" -m venv "$work/clean"
  "$work/clean/bin/python" -m pip install --quiet --disable-pip-version-check -r requirements/run.txt
  "$work/clean/bin/python" -m pip install --quiet --disable-pip-version-check --no-deps "$archive"
  sample=$("$work/clean/bin/python" -c 'from nimble_quake.samples import sample_path; print(sample_path("lantern-row"))')
  began=$(date +%s%N)
  (cd "$work" && "$work/clean/bin/nimble-quake" frame "$sample" 0 -o "$work/first.png")
  echo "First frame after $(( ($(date +%s%N) - began) / 1000000 )) ms"
  (cd "$work" && "$work/clean/bin/nimble-quake" render "$sample" -o "$work/out.mp4" --frames 0-3 --size 25%)
  "$work/clean/bin/python" -c '
import sys, av
with av.open(sys.argv[1]) as clip:
    count = sum(1 for _ in clip.decode(video=0))
sys.exit(0 if count == 4 else f"4 frames were rendered, {count} are there")' "$work/out.mp4"
done
took=$(( $(date +%s) - started ))
echo "Good: $(ls dist | tr '\n' ' ')- built, checked and tried in $((took / 60)) min $((took % 60)) s"
