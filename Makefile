# make demo: see it. make test: test it. Both set up what they need in $(VENV).
# make test-sql: the tests that need a PostgreSQL server. make test-long: very many made-up sites.
# make test-hostile: folders that were made to do harm. make test-browser: the report in Debian's Chromium.
# make test-exhaustive: every step of a write, every way of each finding, every declared name, whole roads.
PYTHON ?= python3
VENV ?= .venv
BIN = $(VENV)/bin
DEMO ?= build/quillmere
PAGES ?= 100000
SITES ?= 200
FOLDERS ?= 400
FIRST ?= 0
KILLS ?= 3
EMPTY ?= 150
SEED ?= $(shell $(PYTHON) -c 'import secrets; print(secrets.randbelow(10**9))')
SEED := $(SEED)

.PHONY: demo test test-exhaustive test-sql test-browser test-long test-hostile check lint types bench clean

demo: $(VENV)/.ready-demo
	@echo "== walking through the demo site in $(DEMO)"
	@$(BIN)/davlo demo $(DEMO)

test: $(VENV)/.ready-test
	@echo "== running the tests (four to six minutes on two cores)"
	$(BIN)/python -m pytest -n logical -m "not exhaustive" --ignore tests/hostile
	@echo "== left out: every step, way and name (make test-exhaustive), hostile folders (make test-hostile), the tests"
	@echo "   that need a PostgreSQL server (make test-sql) or a browser (make test-browser), new made-up sites (make test-long)"

test-exhaustive: $(VENV)/.ready-test
	@echo "== running the tests that go through every step, way and name (three minutes on two cores)"
	$(BIN)/python -m pytest -n logical -m exhaustive

test-sql: $(VENV)/.ready-sql
	@echo "== running the tests that need a PostgreSQL server (half a minute; installing it takes another)"
	$(BIN)/python -m tests.sql.with_server $(BIN)/python -m pytest tests/sql

test-browser: $(VENV)/.ready-browser
	@echo "== looking at the report in a browser (half a minute; installing the browser takes another)"
	$(BIN)/python -m tests.browser.with_chromium $(BIN)/python -m pytest tests/browser

test-long: $(VENV)/.ready-test
	@echo "== checking each property on $(SITES) newly made-up sites (200 take an hour on two cores)"
	@echo "== seed $(SEED); to draw the same sites again: make test-long SEED=$(SEED)"
	DAVLO_SITES=$(SITES) $(BIN)/python -m pytest -n logical -m made_up --hypothesis-profile=new --hypothesis-seed=$(SEED)

test-hostile: $(VENV)/.ready-test
	@echo "== asking every command about $(FOLDERS) folders with mistakes and malice in them (400 take four minutes on two cores)"
	DAVLO_KILLS=$(KILLS) DAVLO_EMPTY_SITES=$(EMPTY) DAVLO_FOLDERS=$(FOLDERS) DAVLO_FIRST_FOLDER=$(FIRST) $(BIN)/python -m pytest -n logical tests/hostile

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
	@echo "== measuring what is quick once a site is read"
	$(BIN)/python -m benchmarks.inside --pages $(PAGES)
	@echo "== measuring a large site, and the ways to do it by hand (with PAGES=1000000 half an hour)"
	$(BIN)/python -m benchmarks.size --pages $(PAGES) --check --peers
	@echo "== measuring what each kind of finding takes"
	$(BIN)/python -m benchmarks.kinds --pages $(PAGES)
	@echo "== measuring check on large sites of other shapes"
	$(BIN)/python -m benchmarks.large_shapes --pages $(PAGES)
	@echo "== measuring how the time grows with the size of odd sites (a minute)"
	$(BIN)/python -m benchmarks.growth
	@echo "== measuring what a cache would save"
	$(BIN)/python -m benchmarks.cache --pages $(PAGES)

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

$(VENV)/.ready-sql: $(VENV)/.ready-test
	@echo "== installing the driver for PostgreSQL"
	@$(BIN)/python -m pip install --disable-pip-version-check --editable '.[postgresql]'
	@touch $@

$(VENV)/.ready-browser: $(VENV)/.ready-test
	@echo "== installing what drives a browser"
	@$(BIN)/python -m pip install --disable-pip-version-check --editable '.[browser]'
	@touch $@

clean:
	rm -rf $(VENV) build dist .mypy_cache .pytest_cache .ruff_cache .hypothesis
	find . -name __pycache__ -type d -prune -exec rm -rf {} +
