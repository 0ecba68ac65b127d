# Everything a fresh machine needs is installed by these targets.
SHELL := /bin/bash
.SHELLFLAGS := -euo pipefail -c
PORT ?= 8000
UV := $(shell command -v uv || echo $(HOME)/.local/bin/uv)
RUN := $(UV) run --frozen
# Beside the tests, what checks the sources gives way to them.
EASY :=
BROWSABLE := var/browsable
export npm_config_update_notifier := false
# Compiled modules are kept: every command and every server that a test starts is up in half the time.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: soak check-light check-bench golden serve demo demo-reset build migrate test test-all browsable loops test-core test-api test-web test-browser lint lint-python lint-web format bench screenshots count types tools chromium

demo: tools build migrate  ## serve the demo practice on 127.0.0.1:$(PORT)
	@$(RUN) python tools/port.py $(PORT)
	@$(RUN) python manage.py fill_demo
	@echo "Apt Mallet serves http://127.0.0.1:$(PORT)/   (stop with Ctrl-C)"
	@$(RUN) gunicorn practice.wsgi --bind 127.0.0.1:$(PORT) --workers 1 --threads 4 --log-level warning

# Apart from the demo practice.
serve: export MALLET_VAR = $(CURDIR)/var/practice
serve: tools build migrate  ## serve a practice of your own on 127.0.0.1:$(PORT); an empty database asks to be set up
	@$(RUN) python tools/port.py $(PORT)
	@echo "Apt Mallet serves http://127.0.0.1:$(PORT)/   (stop with Ctrl-C)"
	@$(RUN) gunicorn practice.wsgi --bind 127.0.0.1:$(PORT) --workers 1 --threads 4 --log-level warning

demo-reset:  ## forget the demo practice's data and start afresh
	@rm -f var/mallet.sqlite3 var/mallet.sqlite3-wal var/mallet.sqlite3-shm
	@$(MAKE) --no-print-directory demo

tools:
	@bash tools/install.sh

.venv/.synced: pyproject.toml uv.lock | tools
	@$(UV) sync --frozen --quiet && touch $@

web/node_modules/.installed: web/package.json web/package-lock.json | tools
	@cd web && npm ci --no-audit --no-fund --loglevel=error && touch node_modules/.installed

web/dist/index.html: web/node_modules/.installed web/index.html web/vite.config.ts $(shell find web/src -type f)
	@cd web && npm run --silent build -- --logLevel warn && touch dist/index.html

build: .venv/.synced web/dist/index.html

migrate: .venv/.synced
	@$(RUN) python manage.py migrate --verbosity 0

types: .venv/.synced web/node_modules/.installed  ## write the API's description and the types made from it
	@$(RUN) python manage.py export_openapi_schema --api practice.api.api --sorted --indent 2 > web/src/api/openapi.json
	@cd web && npm run --silent types > /dev/null && npx prettier --log-level warn --write src/api/generated.ts

format: .venv/.synced web/node_modules/.installed
	@$(RUN) ruff format --quiet . && $(RUN) ruff check --fix --quiet .
	@cd web && npm run --silent format:write > /dev/null

lint: lint-python lint-web

lint-python: .venv/.synced
	$(EASY) $(RUN) ruff format --check --quiet .
	$(EASY) $(RUN) ruff check --quiet .
	$(EASY) $(RUN) mypy
	$(EASY) $(RUN) lint-imports | tail -5
	$(EASY) $(RUN) python manage.py makemigrations --check --dry-run

lint-web: web/node_modules/.installed
	cd web && $(EASY) npm run --silent check && $(EASY) npm run --silent lint && $(EASY) npm run --silent format

loops: .venv/.synced  ## compile the heart's loops, so that servers and tests just load them
	@$(RUN) mallet plan examples/lower_first_molar_mo.json > /dev/null

chromium: tools
	@bash tools/chromium.sh

test:  ## everything: format, lint, types, interface, core, API, browser
	@rm -f $(BROWSABLE)
	@$(MAKE) --no-print-directory -j6 test-all browsable lint-python lint-web test-web EASY="nice -n 10"

test-all: loops
	MALLET_BROWSABLE=$(CURDIR)/$(BROWSABLE) $(RUN) pytest -n 3 --dist worksteal tests

browsable: build chromium  ## browser tests wait for this, all others begin before
	@mkdir -p $(dir $(BROWSABLE)) && touch $(BROWSABLE)

test-web: web/node_modules/.installed
	cd web && $(EASY) npm test --silent

test-core: .venv/.synced
	$(RUN) pytest -n 2 --dist loadfile tests/core

test-api: .venv/.synced
	$(RUN) pytest -n 2 --dist loadfile tests/practice

test-browser: build chromium
	$(RUN) pytest -n 2 --dist worksteal tests/views

soak: build chromium  ## the server killed fifty times in the middle of a run
	MALLET_KILLS=50 $(RUN) pytest tests/views/test_kills.py

check-light: .venv/.synced  ## the light of every worked case, held against another tracer
	$(RUN) python -m tools.check_light

check-bench: build chromium  ## the Bench of every worked case in a browser: the drawing's height, and what its lengths cover
	$(RUN) python -m tools.check_bench

golden: .venv/.synced  ## write anew what plans and drawings of the worked cases say, once an answer is meant to change
	@$(RUN) python -m tests.core.golden

bench: build chromium  ## where a preview's time goes, how smoothly a drag runs, and lists with 100 000 restorations (filled once, into var/many)
	$(RUN) python -m tools.bench
	$(RUN) python -m tools.bench_many
	$(RUN) python -m tools.bench_field
	$(RUN) python -m tools.frames

screenshots: build chromium  ## refresh docs/screenshots from the demo practice
	$(RUN) python tools/screenshots.py
	$(RUN) python tools/contact_sheet.py
	$(RUN) python tools/class_sheet.py

count:  ## lines of code and of tests
	@python3 tools/count.py
