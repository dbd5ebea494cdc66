# The few commands that a developer and a newcomer need. Each may be run again; it is quick when nothing changed.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready

.PHONY: setup demo test test-bounds lint bench monkey fuzz screenshots declare lock clean

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt tools/system-libraries
	tools/system-libraries
	$(PYTHON) -c 'import sys; sys.exit("Anakinema needs Python 3.11 or newer; run: make PYTHON=python3.11 setup" if sys.version_info < (3, 11) else 0)'
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt setuptools
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt --no-build-isolation -e '.[dev]'
	$(BIN)/python -m compileall -q src
	$(BIN)/python tools/warm.py
	touch $(STAMP)

demo: setup
	$(BIN)/anakinema --demo

test: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n auto --dist loadfile

# The compiled loops again, with every index checked; they are compiled for it anew, which takes three minutes.
test-bounds: setup
	NUMBA_BOUNDSCHECK=1 $(BIN)/python -m pytest -o faulthandler_timeout=600 tests/kinematics tests/reference \
		tests/clearance/test_approach.py -k "not a_changed_constant"

lint: setup
	$(BIN)/ruff check src tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/lint-imports --no-cache --no-logo
	$(BIN)/python tools/check_makers.py

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks

# A random user of the real window, and mutants of the examples for the command line; see docs/reliability.md.
SECONDS ?= 60
SEED ?= 1
COUNT ?= 2000
monkey: setup
	$(BIN)/python tests/randomly/hour.py --seconds $(SECONDS) --seed $(SEED)

fuzz: setup
	$(BIN)/python tests/randomly/files.py --count $(COUNT) --seed $(SEED)

screenshots: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/screenshots.py

# The JSON Schema and the tables of the docs, from what the kinds declare.
declare: setup
	$(BIN)/python tools/declare.py

lock: setup
	(sed -n 1p constraints.txt; $(BIN)/python -m pip freeze --all --exclude-editable | grep -v '^pip==') > constraints.new && mv constraints.new constraints.txt

clean:
	rm -rf $(VENV) build .mypy_cache .ruff_cache .pytest_cache
