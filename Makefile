# `make demo` and `make test` need Python 3.11 or later and nothing else.
PYTHON ?= python3
VENV ?= .venv
BIN := $(VENV)/bin

.PHONY: demo test docs lint types fuzz fuzz-guided bench screenshots clean

demo: $(VENV)/running
	@$(BIN)/even-sieve demo --to harbour-demo

test: $(VENV)/ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	PATH="$(CURDIR)/$(BIN):$$PATH" $(BIN)/lint-imports
	$(BIN)/pytest -n auto

# SECONDS and SEED are yours to choose.
fuzz: $(VENV)/ready
	$(BIN)/python fuzz/run.py $(or $(SECONDS),600) $(SEED)

# Coverage-guided; needs `pip --python .venv/bin/python install atheris`.
fuzz-guided: $(VENV)/ready
	$(BIN)/python fuzz/guided.py $(or $(SECONDS),600)

bench: $(VENV)/ready
	$(BIN)/python bench/ten_million.py
	$(BIN)/python bench/criteria.py
	$(BIN)/python bench/measures.py
	$(BIN)/python bench/labels.py
	$(BIN)/python bench/session.py
	$(BIN)/python bench/reading.py
	$(BIN)/python bench/shapes.py
	$(BIN)/python bench/workbook.py
	$(BIN)/python bench/longer.py
	$(BIN)/python bench/cluster.py

# Builds the documentation into build/site; a link that leads nowhere is an error.
docs: $(VENV)/ready
	NO_MKDOCS_2_WARNING=1 $(BIN)/mkdocs build --quiet

screenshots: $(VENV)/ready
	bash scripts/screenshots.sh

# What running needs, by uv where it is there; `ready` adds what the tests need. What every start
# brings is compiled at once: where Python is told to write no bytecode, it would be each time.
how := --quiet --no-compile --disable-pip-version-check
define install
if command -v uv >/dev/null; then uv pip install --quiet --python $(BIN)/python -c constraints.txt -e '$(1)'; \
	elif test -x $(BIN)/pip; then $(BIN)/python -m pip install $(how) -c constraints.txt -e '$(1)'; \
	else $(PYTHON) -m pip --python $(BIN)/python install $(how) -c constraints.txt -e '$(1)'; fi
endef

$(VENV)/running: pyproject.toml setup.py constraints.txt $(wildcard src/even_sieve/*/*.[ch])
	@echo "Setting up $(VENV) (once)"
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Even Sieve needs Python 3.11 or later: make PYTHON=python3.11")'
	@if command -v uv >/dev/null; then uv venv --quiet --allow-existing --python $(PYTHON) $(VENV); \
	elif $(PYTHON) -m pip --python "$$(command -v $(PYTHON))" --version >/dev/null 2>&1; then $(PYTHON) -m venv --without-pip $(VENV); \
	else $(PYTHON) -m venv $(VENV); fi
	@$(call install,.)
	@$(BIN)/python -m compileall -q -j 0 src $(foreach each,click numpy pyarrow rich,$(VENV)/lib/*/site-packages/$(each))
	@touch $@

$(VENV)/ready: $(VENV)/running
	@echo "Adding what the tests need"
	@$(call install,.[dev])
	@touch $@

clean:
	rm -rf $(VENV) build dist harbour-demo src/even_sieve/*/*.so
