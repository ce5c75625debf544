# make demo    set everything up and open the product on demo data
# make test    set everything up and run all checks and tests
# make setup   set up only: Debian packages, .venv, front end
# make check   linters, types, contracts, unit tests of the front end
# make shots   take the pictures of docs/screenshots anew
# make bench   measure, side by side with a baseline
# make lock    write requirements.lock anew from pyproject.toml (needs uv)
.PHONY: demo test setup setup-test check shots bench lock
.DEFAULT_GOAL := demo

export PONTIFEX_STATE ?= $(CURDIR)/.state
BIN := .venv/bin
WEB_SOURCES := $(shell find web/src web/public -type f -not -name schema.d.ts) web/index.html web/vite.config.ts

demo: setup
	@exec $(BIN)/pontifex demo

setup: .stamps/web

.stamps/python: requirements.lock pyproject.toml scripts/debian-packages.sh
	@sh scripts/debian-packages.sh run
	@echo "Installing Python packages into .venv (about a minute the first time) …"
	@python3 -m venv .venv
	@$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	@$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@mkdir -p .stamps && touch $@

.stamps/node: web/package-lock.json .stamps/python
	@echo "Installing the front end's packages …"
	@cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

.stamps/types: .stamps/node $(shell find src/pontifex/core src/pontifex/api -name '*.py')
	@echo "Generating the front end's types from the API …"
	@$(BIN)/pontifex openapi > web/openapi.json
	@cd web && npm run --silent types > /dev/null
	@touch $@

.stamps/web: .stamps/types $(WEB_SOURCES)
	@echo "Building the front end …"
	@cd web && npm run --silent build -- --logLevel warn
	@touch $@

setup-test: setup
	@sh scripts/debian-packages.sh test

check: setup
	@echo "Checking …"
	@$(BIN)/ruff check --quiet src tests
	@$(BIN)/ruff format --quiet --check src tests
	@$(BIN)/mypy
	@$(BIN)/lint-imports
	@cd web && npm run --silent check && npm run --silent test

test: setup-test check
	@echo "Testing …"
	@$(BIN)/pytest -n 2 --dist loadscope

shots: setup-test
	@$(BIN)/python -m tests.ui.shots

bench: setup-test
	@$(BIN)/python -m tests.bench

lock:
	@uv pip compile --quiet --generate-hashes --no-header --no-annotate --python-version 3.11 --extra dev pyproject.toml -o requirements.lock
