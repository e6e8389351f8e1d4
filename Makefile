# Two commands for a fresh clone: make demo, make test. Each makes its own .venv.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin

.PHONY: demo test test-all clients test-clients seldom quick coverage noticed same garbled wheel check bench profile screenshots clean

$(VENV)/.installed: pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable .
	touch $@

$(VENV)/.tested: $(VENV)/.installed
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[test]'
	touch $@

demo: $(VENV)/.installed
	$(BIN)/onomaxis demo

test: $(VENV)/.tested
	$(BIN)/python -m pytest -n auto --dist worksteal --ignore tests/test_clients.py

# For a release: every seed and kind of art, three times the examples, other ones each time.
test-all: $(VENV)/.tested
	ONOMAXIS_TEST_ALL=1 $(BIN)/python -m pytest -n auto --dist worksteal

# The frameworks' own commands, a fixed version of each, from the npm registry.
build/clients/node_modules/.installed: tests/clients/package.json
	mkdir -p build/clients
	cp tests/clients/package.json build/clients/
	cd build/clients && npm install --no-audit --no-fund --ignore-scripts --legacy-peer-deps --omit=optional --loglevel=error
	touch $@

clients: build/clients/node_modules/.installed

# What those commands judge; make test leaves them out.
test-clients: $(VENV)/.tested clients
	ONOMAXIS_NO_SKIP=1 $(BIN)/python -m pytest -n auto --dist worksteal tests/test_clients.py

# Which cases of each test reach a branch that no other does, measured anew (half an hour).
seldom: $(VENV)/.tested
	$(BIN)/python tools/seldom.py

quick: $(VENV)/.tested
	$(BIN)/python -m pytest -n auto --dist worksteal -m "not pictures and not faults and not processes and not journeys"

coverage: $(VENV)/.tested
	$(BIN)/python -m pytest -n auto --dist worksteal --cov --cov-branch --cov-report=
	$(BIN)/python tools/branches.py

# Which share of 300 small changes to the program its tests notice, and which they do not.
noticed: $(VENV)/.tested
	$(BIN)/python benchmarks/mutants.py

# What every command reads and writes in projects of every kind, as digests: to be renewed where it is meant to change.
same: $(VENV)/.tested
	PYTHONPATH=tests $(BIN)/python tests/test_same_bytes.py --write

# Every command on projects of which one file is broken: what ends with a fault, hangs, writes or does not come back.
garbled: $(VENV)/.tested
	$(BIN)/python benchmarks/garbled.py

check: $(VENV)/.tested
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

# The program once as it is published: what is in the wheel, over the packages that it asks for, run from elsewhere.
wheel: $(VENV)/.installed
	rm -rf build
	$(BIN)/python -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir build/wheel .
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --target build/clean build/wheel/*.whl
	$(BIN)/python -m pip check --disable-pip-version-check
	cd build && PYTHONPATH=clean ../$(BIN)/python -c 'import onomaxis; assert "clean" in onomaxis.__file__, onomaxis.__file__'
	cd build && PYTHONPATH=clean ../$(BIN)/python -m onomaxis demo lendspan --quiet >/dev/null
	cd build && PYTHONPATH=clean ../$(BIN)/python -m onomaxis survey lendspan --json >/dev/null
	rm -rf build

bench: $(VENV)/.installed
	$(BIN)/python benchmarks/run.py
	$(BIN)/python benchmarks/pictures.py
	$(BIN)/python benchmarks/brands.py
	$(BIN)/python benchmarks/fleets.py

# Where the time of the main commands goes.
profile: $(VENV)/.installed
	$(BIN)/python benchmarks/profiled.py

screenshots: $(VENV)/.installed
	$(BIN)/python tools/screenshots.py

clean:
	rm -rf $(VENV) build *.egg-info src/*.egg-info .pytest_cache .mypy_cache .ruff_cache
