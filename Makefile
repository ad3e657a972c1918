# Two commands do everything on a fresh machine: `make demo` and `make test`.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
RUNS := $(VENV)/.runs
TESTS := $(VENV)/.tests

.PHONY: demo test fresh lint kernels bench screenshots clean

demo: $(RUNS)
	$(BIN)/haptos demo --out demo-output

test: $(TESTS)
	$(MAKE) --no-print-directory -j2 lint fresh
	$(BIN)/python -m pytest -n 2

# One kernel made again is the same, byte for byte, as the one that ships.
fresh: $(TESTS)
	$(BIN)/python tools/make_kernels.py side-full

lint: $(TESTS)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

# After a change of anything that kernels are made of.
kernels: $(TESTS)
	$(BIN)/python tools/make_kernels.py

bench: $(TESTS)
	PYTHONPATH=. $(BIN)/python benchmarks/run.py

screenshots: $(TESTS)
	$(BIN)/python docs/make_screenshots.py

$(VENV)/bin/python:
	$(PYTHON) -m venv $(VENV)

# What runs the tool alone; the rest is installed for tests.
$(RUNS): pyproject.toml | $(VENV)/bin/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e .
	touch $(RUNS)

$(TESTS): pyproject.toml | $(VENV)/bin/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e ".[dev]"
	touch $(TESTS) $(RUNS)

clean:
	rm -rf $(VENV) demo-output benchmarks/build
