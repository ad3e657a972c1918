# Two commands do everything on a fresh machine: `make demo` and `make test`.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.installed

.PHONY: demo test lint bench screenshots clean

demo: $(STAMP)
	$(BIN)/haptos demo --out demo-output

test: lint
	$(BIN)/python tests/compile_kernels.py
	$(BIN)/python -m pytest -n 2

lint: $(STAMP)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

bench: $(STAMP)
	PYTHONPATH=. $(BIN)/python benchmarks/run.py

screenshots: $(STAMP)
	$(BIN)/python docs/make_screenshots.py

$(STAMP): pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e ".[dev]"
	touch $(STAMP)

clean:
	rm -rf $(VENV) demo-output benchmarks/build
