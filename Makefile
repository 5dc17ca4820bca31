# make demo and make test are the two commands a new user needs; each sets up all it needs.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PIP := $(BIN)/python -m pip install --quiet --disable-pip-version-check
# What runs the program is set up for the demo; what checks it as well for everything else.
RUN := $(VENV)/.run-$(shell cat requirements/headless.txt requirements/run.txt pyproject.toml | cksum | cut -d' ' -f1)
DEVELOP := $(VENV)/.develop-$(shell cat requirements/*.txt pyproject.toml | cksum | cut -d' ' -f1)

# The tests start the program many times over: what Python compiled is kept, whatever the shell says.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: run setup kernels demo test test-all bounds check house format bench bench-peers bench-4k soak torture docs dist install-desktop \
	remove-desktop clean

run: $(RUN)

$(RUN): requirements/headless.txt requirements/run.txt pyproject.toml
	@sh tools/system-packages.sh window
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(BIN)/python -c 'import sys; sys.exit(sys.version_info < (3, 11))' || \
		{ echo "Nimble Quake needs Python 3.11 or newer: make PYTHON=python3.11 demo"; exit 1; }
	@echo "Installing what the program needs, and compiling the kernels of its first pictures, once ..."
	@$(PIP) --no-compile -r requirements/headless.txt
	@$(PIP) --no-compile --no-deps --editable .
	@$(BIN)/python -m nimble_quake.session.warm_up --demo & $(PIP) --no-compile -r requirements/run.txt && wait
	@rm -f $(VENV)/.run-* && touch $@

setup: $(DEVELOP)

$(DEVELOP): $(RUN) requirements/develop.txt requirements/farm.txt
	@sh tools/system-packages.sh tests
	@echo "Installing what checks the program ..."
	@$(PIP) -r requirements/develop.txt
	@rm -f $(VENV)/.develop-* && touch $@

kernels: setup
	@$(BIN)/python -m nimble_quake.session.warm_up

demo: run
	$(BIN)/nimble-quake demo

test: kernels
	QT_QPA_PLATFORM=offscreen NIMBLE_QUAKE_TEST_SEED=$(or $(SEED),1) $(BIN)/python -m pytest -n 2 \
		--dist worksteal --hypothesis-seed=$(or $(SEED),1)

test-all: kernels
	QT_QPA_PLATFORM=offscreen NIMBLE_QUAKE_TEST_ALL=1 $(BIN)/python -m pytest -n 2 --dist worksteal

# No kernel may write beside its arrays: numba checks every index, which takes ten times as long.
bounds: setup
	QT_QPA_PLATFORM=offscreen NUMBA_BOUNDSCHECK=1 NIMBLE_QUAKE_PLAIN_KERNELS=1 $(BIN)/python -m pytest -n 2 \
		tests/operators tests/raster tests/render tests/session/test_shipped_fronts.py tests/session/test_crossing_verbs.py \
		-k "not holds_no_memory"

check: setup
	$(BIN)/ruff format --check src tests benchmarks
	$(BIN)/ruff check src tests benchmarks
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python tools/house.py

house: setup
	$(BIN)/python tools/house.py --all

format: setup
	$(BIN)/ruff format src tests benchmarks
	$(BIN)/ruff check --fix src tests benchmarks

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks

bench-peers: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.peers

bench-4k: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.four_k

soak: kernels
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.soak $(or $(MINUTES),30) $(or $(SEED),1)

torture: setup
	$(BIN)/python tools/torture.py $(or $(KILLS),200) $(or $(SEED),1)

docs: setup
	$(BIN)/python -m nimble_quake.session.reference docs
	$(BIN)/python tools/draw_rooms.py docs

install-desktop: setup
	sh tools/install-desktop.sh $(abspath $(BIN))

remove-desktop:
	sh tools/install-desktop.sh --remove

dist: setup
	sh tools/make-dist.sh $(BIN)

clean:
	rm -rf $(VENV) out build dist
