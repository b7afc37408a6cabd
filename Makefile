PORT ?= 8420
PACE ?= 6
MINUTES ?= 10
SEED ?= $(shell date +%s)
PYTHON := .venv/bin/python
# What was compiled is kept, also where the machine says otherwise: every worker of the tests reads it.
export PYTHONDONTWRITEBYTECODE :=
SOURCES := $(shell find web/src web/index.html web/vite.config.ts web/package-lock.json -type f 2>/dev/null)

.PHONY: demo test test-rest check check-python check-web setup build types bench fuzz format screenshots clean

demo: build ## run the demo laboratory until Ctrl-C
	@exec .venv/bin/endurant demo --port $(PORT) --pace $(PACE)

test: check ## lint, types, front-end tests, and the tests that are quick
	$(PYTHON) -m pytest -m "not rest"

test-rest: build ## what is slow: browser, devices, planning, years of record
	$(PYTHON) -m pytest -m rest

check: build ## lint, types and front-end tests, both languages at once
	@$(MAKE) --no-print-directory -j 2 --output-sync check-python check-web

check-python:
	.venv/bin/ruff format --check .
	.venv/bin/ruff check .
	.venv/bin/mypy
	.venv/bin/lint-imports
	.venv/bin/endurant openapi | diff - web/src/api/openapi.json

check-web:
	cd web && npm run --silent format && npm run --silent lint && npm run --silent types && npm run --silent unit

setup:
	@scripts/setup.sh

build: setup web/dist/index.html

web/dist/index.html: $(SOURCES)
	@cd web && npm run --silent api >/dev/null && npm run --silent build -- --logLevel error
	@touch $@

types: setup ## write the OpenAPI document and the types made from it
	.venv/bin/endurant openapi > web/src/api/openapi.json
	cd web && npm run --silent api

format: setup
	.venv/bin/ruff format .
	.venv/bin/ruff check --fix .
	cd web && npm run --silent format:write

bench: setup ## print the performance table
	$(PYTHON) scripts/bench.py
	$(PYTHON) -m scripts.bench_cutting
	$(PYTHON) -m scripts.bench_load
	$(PYTHON) -m scripts.bench_office
	$(PYTHON) -m scripts.bench_live
	$(PYTHON) -m scripts.bench_plan
	$(PYTHON) -m scripts.bench_screens

fuzz: setup ## explore at random for MINUTES; what it prints becomes an example in a test
	$(PYTHON) -m scripts.fuzz $(MINUTES) $(SEED)

screenshots: build ## the pictures in docs/screenshots, from the demo data
	$(PYTHON) scripts/screenshots.py
	$(PYTHON) scripts/tour.py

clean:
	rm -rf .venv .tools .endurant web/node_modules web/dist
