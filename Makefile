# make demo    set everything up and open the product on demo data
# make dev     serve both sides with reload, on the demo design
# make test    set everything up and run all checks and tests
# make setup   set up only: Debian packages, .venv, front end
# make check   linters, types, contracts, unit tests of the front end
# make shots   take the pictures of docs/screenshots anew
# make bench   measure, side by side with a baseline
# make attack  kills, heavy questions, drawn requests and canaries, counted
# make truth   hold predictions against the standards and the kernel, on a large scale
# make lock    write requirements/*.lock anew from pyproject.toml (needs uv)
.PHONY: demo dev test setup check shots bench attack truth lock
.DEFAULT_GOAL := demo

export PONTIFEX_STATE ?= $(CURDIR)/.state
BIN := .venv/bin
PIP := $(BIN)/pip install --quiet --disable-pip-version-check
WEB_SOURCES := $(shell find web/src web/public -type f -not -name schema.d.ts -not -name kinds.json) web/index.html web/vite.config.ts
LOCK := uv pip compile --quiet --generate-hashes --no-header --no-annotate --python-version 3.11 pyproject.toml

demo: setup
	@exec $(BIN)/pontifex demo

dev: setup
	@echo "Open the address that is printed below with port 5173 in place of 8470."
	@trap 'kill 0' EXIT INT TERM; PONTIFEX_PORT=8470 $(BIN)/watchfiles --filter python "$(BIN)/pontifex demo" src/pontifex & \
	cd web && npx vite

setup: .stamps/web

.stamps/python: requirements/run.lock pyproject.toml scripts/debian-packages.sh
	@sh scripts/debian-packages.sh run
	@echo "Installing Python packages into .venv …"
	@python3 -m venv .venv
	@$(PIP) --require-hashes -r requirements/run.lock
	@$(PIP) --no-deps --no-build-isolation -e .
	@mkdir -p .stamps && touch $@

.stamps/python-%: requirements/%.lock .stamps/python
	@sh scripts/debian-packages.sh $*
	@echo "Installing Python packages for $* …"
	@$(PIP) --require-hashes -r requirements/$*.lock
	@touch $@

.stamps/node: web/package-lock.json .stamps/python
	@echo "Installing the front end's packages …"
	@cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

.stamps/types: .stamps/node web/types.mjs $(shell find src/pontifex -name '*.py')
	@$(BIN)/python -m compileall -q src
	@echo "Generating the front end's types from the API …"
	@$(BIN)/pontifex openapi > web/openapi.json
	@$(BIN)/pontifex kinds > web/src/api/kinds.json
	@cd web && npm run --silent types > /dev/null
	@touch $@

.stamps/web: .stamps/types $(WEB_SOURCES)
	@echo "Building the front end …"
	@cd web && npm run --silent build -- --logLevel warn
	@touch $@

check: setup .stamps/python-test
	@echo "Checking …"
	@$(BIN)/ruff check --quiet src tests tools
	@$(BIN)/ruff format --quiet --check src tests tools
	@$(BIN)/mypy
	@$(BIN)/lint-imports
	@cd web && npm run --silent check && npm run --silent test

test: check
	@echo "Testing …"
	@$(BIN)/pytest -n 2 --dist loadscope

shots: setup .stamps/python-test
	@$(BIN)/python -m tests.ui.shots

bench: setup .stamps/python-test .stamps/python-bench
	@$(BIN)/python -m tests.bench

lock:
	@$(LOCK) --extra setup -o requirements/run.lock
	@$(LOCK) --extra setup --extra dev -o requirements/test.lock
	@$(LOCK) --extra setup --extra dev --extra bench -o requirements/bench.lock

attack: setup .stamps/python-test
	@$(BIN)/python -m tests.attack

truth: setup .stamps/python-test
	@$(BIN)/python -m tests.truth
