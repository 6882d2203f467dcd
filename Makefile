# Two commands matter: `make demo` starts Pondrel with its demo depot, `make test` runs every test.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
BIN := .venv/bin
export PONDREL_PORT ?= 8765

.PHONY: demo serve test quick check coverage css css-check reset bench docs lock screenshots clean

# The demo has a folder of its own, so that it never mixes with real work.
demo reset: export PONDREL_DATA := $(or $(PONDREL_DATA),demo-data)

demo: .venv/ready
	@sh tools/run_needs.sh
	$(BIN)/pondrel demo
	$(BIN)/pondrel serve

serve: .venv/ready
	$(BIN)/pondrel serve

reset: .venv/ready
	$(BIN)/pondrel demo --reset

test: .venv/ready-test
	sh tools/test_needs.sh
	@sh tools/run_needs.sh
	$(MAKE) --no-print-directory check css-check
	OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest -n 2 --dist worksteal

# Without what takes more than some seconds.
quick: .venv/ready-test
	OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest -n 2 --dist worksteal -m "not slow" --ignore tests/browser

coverage: .venv/ready-test
	OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest -n 2 --dist worksteal --ignore tests/browser --cov=pondrel --cov-report=term:skip-covered

check: .venv/ready-test
	$(BIN)/ruff check pondrel tests benchmarks tools
	$(BIN)/ruff format --check --quiet pondrel tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/lint-imports

bench: .venv/ready-test
	$(BIN)/python -m benchmarks.engine
	$(BIN)/python -m benchmarks.sweep
	$(BIN)/python -m benchmarks.page
	$(BIN)/python -m benchmarks.lists
	$(BIN)/python -m benchmarks.capture
	$(BIN)/python -m benchmarks.scope
	$(BIN)/python -m benchmarks.bus

docs: .venv/ready
	$(BIN)/python tools/write_docs.py

# Exact versions with the digests of their files, from the environment as it is.
lock: .venv/ready-test
	$(BIN)/python tools/lock.py

screenshots: .venv/ready-test
	$(BIN)/python -m tools.screenshots

css: node_modules/ready
	npm run --silent css
	cp node_modules/@alpinejs/csp/dist/cdn.min.js pondrel/web/static/vendor/alpine-csp.min.js
	gzip -9n -c node_modules/axe-core/axe.min.js > tests/browser/vendor/axe.min.js.gz
	for w in 400 700; do cp node_modules/@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-$$w-normal.woff2 \
	  node_modules/@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-$$w-normal.woff2 pondrel/web/static/fonts/; done

# Where Node is at hand the committed styles must be what the sources give.
css-check:
	sh tools/css_check.sh

# package.json pins exactly; a lock file would carry addresses, and npm does not accept one without them.
node_modules/ready: package.json
	npm install --silent
	touch $@

.venv/made:
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Pondrel needs Python 3.11 or newer: install python3.11, or set PYTHON=..."; exit 1; }
	@$(PYTHON) -m venv .venv || { echo "Python's venv module is missing: install it with 'apt-get install python3-venv' and try again."; exit 1; }
	touch $@

# A lock holds all that is needed: nothing is looked up beside it, so that what is published tomorrow changes nothing.
.venv/ready: .venv/made requirements/run.lock pyproject.toml
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps -r requirements/run.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $@

.venv/ready-test: .venv/ready requirements/test.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps -r requirements/test.lock
	touch $@

clean:
	rm -rf .venv node_modules build *.egg-info .pytest_cache .mypy_cache .ruff_cache .hypothesis
