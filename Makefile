# make demo: see it. make test: test it. Both set up what they need in $(VENV).
PYTHON ?= python3
VENV ?= .venv
BIN = $(VENV)/bin
DEMO ?= build/quillmere
PAGES ?= 100000

.PHONY: demo test check lint types bench clean

demo: $(VENV)/.ready-demo
	@echo "== walking through the demo site in $(DEMO)"
	@$(BIN)/davlo demo $(DEMO)

test: $(VENV)/.ready-test
	@echo "== running the tests (about two minutes)"
	$(BIN)/python -m pytest

check: lint types test

lint: $(VENV)/.ready-test
	@echo "== looking at the style"
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .

types: $(VENV)/.ready-test
	@echo "== checking the types"
	$(BIN)/mypy

bench: $(VENV)/.ready-test
	@echo "== measuring how fast small answers come (about a minute)"
	$(BIN)/python -m benchmarks.start
	@echo "== measuring a large site (PAGES=1000000 takes about ten minutes)"
	$(BIN)/python -m benchmarks.size --pages $(PAGES)

$(BIN)/python:
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || \
	  { echo "Davlo needs Python 3.11 or later; name one with: make PYTHON=python3.12 ..."; exit 1; }
	@echo "== making a virtual environment in $(VENV)"
	@$(PYTHON) -m venv $(VENV)

$(VENV)/.ready-demo: pyproject.toml | $(BIN)/python
	@echo "== installing davlo and what it stands on into $(VENV)"
	@$(BIN)/python -m pip install --disable-pip-version-check --editable .
	@touch $@

$(VENV)/.ready-test: pyproject.toml | $(BIN)/python
	@echo "== installing davlo and what its tests need into $(VENV)"
	@$(BIN)/python -m pip install --disable-pip-version-check --editable '.[dev]'
	@touch $@ $(VENV)/.ready-demo

clean:
	rm -rf $(VENV) build dist .mypy_cache .pytest_cache .ruff_cache .hypothesis
	find . -name __pycache__ -type d -prune -exec rm -rf {} +
