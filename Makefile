# Green Satchel. `make demo` and `make test` do everything from a fresh checkout.
SHELL := /bin/bash
PYTHON := .venv/bin/python
PORT ?= 8000
STAMPS := .stamps
DEBIAN := chromium poppler-utils qpdf libjpeg-turbo-progs
OFFICE := libreoffice-writer-nogui libreoffice-impress-nogui libreoffice-calc-nogui jbig2dec tesseract-ocr sane-airscan sane-utils libtiff-tools cups-ipp-utils redis-server postgresql
.DEFAULT_GOAL := help

.PHONY: help setup demo dev test check lint types imports schema schema-check test-core test-web \
  test-browser test-frontend bench bench-fit load kill scale fuzz fuzz-parsers package screenshots stats format debian

help: ## list the targets
	@grep -E '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed 's/:.*##/\t/' | expand -t 16

setup: $(STAMPS)/python $(STAMPS)/node ## install what the project needs into it

$(STAMPS)/python: requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	test -x $(PYTHON) || python3 -m venv .venv || { echo "Install Debian's python3-venv first."; exit 1; }
	$(PYTHON) -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(PYTHON) -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	$(PYTHON) -m lighten.worker_start
	@touch $@

$(STAMPS)/node: frontend/package-lock.json
	@mkdir -p $(STAMPS)
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

FRONTEND := $(shell find frontend/src -type f) frontend/index.html frontend/vite.config.ts
$(STAMPS)/built: $(STAMPS)/node $(FRONTEND)
	cd frontend && npm run --silent build
	@touch $@

debian: ## the outside programs that tests look through; installed where this is root
	@missing=""; for tool in chromium pdftotext qpdf jpegtran; do command -v $$tool >/dev/null || missing="$$missing $$tool"; done; \
	if [ -n "$$missing" ]; then \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -qq && apt-get install -y -qq $(DEBIAN) >/dev/null; \
	  else echo "Not here:$$missing. Ask for: apt-get install $(DEBIAN)"; exit 1; fi; fi
	@if ! command -v soffice >/dev/null || ! command -v jbig2dec >/dev/null || ! command -v scanimage >/dev/null || ! command -v tesseract >/dev/null || ! command -v tiffcp >/dev/null || ! command -v ipptool >/dev/null || ! command -v redis-server >/dev/null || ! ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || ! dpkg -s libreoffice-calc-nogui >/dev/null 2>&1; then \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -qq; \
	    apt-get install -y -qq --no-install-recommends $(OFFICE) >/dev/null || true; fi; \
	  command -v soffice >/dev/null || echo "No office suite here: tests of laid-out pages are skipped ($(OFFICE))."; fi

demo: $(STAMPS)/python $(STAMPS)/built ## start the application with demo data (PORT=8000)
	@PORT=$(PORT) exec $(PYTHON) -m demo.serve

dev: setup ## start it for work on the front end: server, workers, and Vite on port 5173
	@trap 'kill 0' EXIT; PORT=$(PORT) $(PYTHON) -m demo.serve & cd frontend && npm run dev

test: setup debian $(STAMPS)/built ## every test; ends with how many passed
	@$(PYTHON) -m tests.all

check: lint types imports schema-check test ## everything that must be green

lint: setup
	.venv/bin/ruff format --check .
	.venv/bin/ruff check .
	cd frontend && npm run --silent lint

types: setup
	.venv/bin/mypy
	cd frontend && npm run --silent types

imports: setup
	.venv/bin/lint-imports

schema: setup ## write docs/openapi.json and the front end's types from it
	$(PYTHON) manage.py spectacular --fail-on-warn --format openapi-json --file docs/openapi.json
	cd frontend && npm run --silent schema

schema-check: setup $(STAMPS)/built
	$(PYTHON) manage.py spectacular --fail-on-warn --format openapi-json --file $(STAMPS)/openapi.json
	diff $(STAMPS)/openapi.json docs/openapi.json
	cd frontend && npx openapi-typescript ../docs/openapi.json -o ../$(STAMPS)/schema.d.ts >/dev/null
	diff $(STAMPS)/schema.d.ts frontend/src/api/schema.d.ts

test-core: setup debian
	$(PYTHON) -W error manage.py test tests.core

test-web: setup $(STAMPS)/built
	$(PYTHON) manage.py test tests.web

test-browser: setup debian $(STAMPS)/built
	$(PYTHON) manage.py test tests.browser

test-frontend: setup
	cd frontend && npm test

format: setup ## put the code into its form
	.venv/bin/ruff format .
	.venv/bin/ruff check --fix .
	cd frontend && npm run --silent format

bench: setup ## speed, size and memory against the plain loop
	$(PYTHON) -m benchmarks.run

load: setup ## fifty people at once for three minutes
	$(PYTHON) -m benchmarks.load

kill: setup $(STAMPS)/built ## forty times something killed in an installation
	$(PYTHON) -m benchmarks.kill

scale: setup debian $(STAMPS)/built ## what more workers do, on PostgreSQL and Redis
	$(PYTHON) -m benchmarks.scale

bench-fit: setup ## fits against one setting for all, at equal bytes
	$(PYTHON) -m benchmarks.fitting

package: setup $(STAMPS)/built ## one wheel, with the built front end inside, in dist/
	rm -rf web/built build && cp -r frontend/dist web/built
	$(PYTHON) -m pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation -w dist .
	rm -rf web/built build && ls dist

fuzz: setup ## damaged files of every format through the core: ten thousand
	$(PYTHON) -m benchmarks.fuzz --inputs 10000

fuzz-parsers: setup ## our own parsers under a fuzzer that looks where it has not been
	$(PYTHON) -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements-fuzz.lock
	$(PYTHON) -m benchmarks.fuzz_parsers

screenshots: setup debian $(STAMPS)/built ## docs/screenshots from the demo data
	$(PYTHON) -m demo.screenshots

stats: ## the share of tests in the code
	@python3 benchmarks/stats.py
