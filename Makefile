# The few commands that a developer and a newcomer need. Each may be run again; it is quick when nothing changed.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready

.PHONY: setup demo test lint bench screenshots lock clean

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt tools/system-libraries
	tools/system-libraries
	$(PYTHON) -c 'import sys; sys.exit("Anakinema needs Python 3.11 or newer; run: make PYTHON=python3.11 setup" if sys.version_info < (3, 11) else 0)'
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt setuptools
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt --no-build-isolation -e '.[dev]'
	$(BIN)/python tools/warm.py
	touch $(STAMP)

demo: setup
	$(BIN)/anakinema --demo

test: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest

lint: setup
	$(BIN)/ruff check src tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/python tools/check_layers.py

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks

screenshots: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/screenshots.py

lock: setup
	(sed -n 1p constraints.txt; $(BIN)/python -m pip freeze --all --exclude-editable | grep -v '^pip==') > constraints.new && mv constraints.new constraints.txt

clean:
	rm -rf $(VENV) build .mypy_cache .ruff_cache .pytest_cache
