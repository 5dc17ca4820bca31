# make demo and make test are the two commands a new user needs; each sets up all it needs.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready-$(shell cat requirements/*.txt pyproject.toml | cksum | cut -d' ' -f1)

.PHONY: setup demo test check format bench bench-4k soak docs dist install-desktop remove-desktop clean

setup: $(STAMP)

$(STAMP): requirements/run.txt requirements/develop.txt pyproject.toml
	@sh tools/system-packages.sh
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(BIN)/python -c 'import sys; sys.exit(sys.version_info < (3, 11))' || \
		{ echo "Nimble Quake needs Python 3.11 or newer: make PYTHON=python3.11 setup"; exit 1; }
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements/develop.txt
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --editable .
	@echo "Compiling the kernels, once ..."
	@$(BIN)/python -m compileall -q src
	@$(BIN)/python -m nimble_quake.session.warm_up
	@rm -f $(VENV)/.ready-* && touch $@

demo: setup
	$(BIN)/nimble-quake demo

test: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2

check: setup
	$(BIN)/ruff format --check src tests benchmarks
	$(BIN)/ruff check src tests benchmarks
	$(BIN)/mypy
	$(BIN)/lint-imports

format: setup
	$(BIN)/ruff format src tests benchmarks
	$(BIN)/ruff check --fix src tests benchmarks

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks

bench-4k: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.four_k

soak: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.soak $(or $(MINUTES),30) $(or $(SEED),1)

docs: setup
	$(BIN)/python -m nimble_quake.operators.reference > docs/operators.md

install-desktop: setup
	sh tools/install-desktop.sh $(abspath $(BIN))

remove-desktop:
	sh tools/install-desktop.sh --remove

dist: setup
	sh tools/make-dist.sh $(BIN)

clean:
	rm -rf $(VENV) out build dist
