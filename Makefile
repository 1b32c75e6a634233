# What each does is said in the README. Needs Python 3.11, make and, for Chromium, apt; `make check` needs Node too.
PYTHON ?= python3.11
BIN := .venv/bin
# Several tests run side by side, so that each works out its matrices by itself.
ALONE := OPENBLAS_NUM_THREADS=1

.PHONY: setup demo test test-long check bench shots assets

setup: .venv/ready

.venv/ready: requirements.lock pyproject.toml
	test -x $(BIN)/python || $(PYTHON) -m venv .venv || python3 -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $@

demo: setup
	$(BIN)/pebble-wheel serve --demo

test: setup
	scripts/chromium
	$(ALONE) $(BIN)/python -m pytest -n 3 --dist worksteal

test-long: setup
	scripts/chromium
	$(ALONE) $(BIN)/python -m pytest -n 2 --dist worksteal --hypothesis-profile=long
	for room in mechanics notation drawing store web; do \
		$(BIN)/python scripts/mutate.py pebble_wheel/$$room tests/$$room; \
	done

check: setup node_modules/.ready
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	node scripts/assets.mjs --compare

bench: setup
	$(BIN)/python -m bench
	$(BIN)/python -m bench.grist docs/grist.svg

shots: setup
	scripts/chromium
	$(BIN)/python scripts/shots.py

assets: node_modules/.ready
	node scripts/assets.mjs

node_modules/.ready: package-lock.json
	npm ci --ignore-scripts --silent
	touch $@
