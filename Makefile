# make demo   set everything up and start Neige with the demo projects (Ctrl-C stops all of it)
# make test   set everything up and run every test
# make check  linters, types, the import contract, the front end's checks
# PORT and NEIGE_DATA choose the port (8700) and the data directory (.neige).

PORT ?= 8700
NEIGE_DATA ?= $(if $(filter 0,$(shell id -u)),/var/lib/neige,.neige)
PY := .venv/bin/python
STAMPS := .make
export PATH := $(CURDIR)/.venv/bin:$(PATH)
NPM := tools/npm.sh

.PHONY: demo test check setup bench clean screenshots

setup: $(STAMPS)/static

demo: setup
	@NEIGE_DATA="$(NEIGE_DATA)" .venv/bin/neige serve --demo --port $(PORT)

test: setup
	$(PY) -m unittest discover -s tests -t . -v
	cd frontend && ../$(NPM) run -s test

check: setup
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/mypy
	.venv/bin/lint-imports
	cd frontend && ../$(NPM) run -s check && ../$(NPM) run -s lint

bench: setup
	$(PY) -m bench.speed

screenshots: setup
	$(PY) tools/screenshots.py

$(STAMPS)/system: tools/system_packages.sh
	@mkdir -p $(STAMPS)
	sh tools/system_packages.sh
	@touch $@

$(STAMPS)/python: requirements.txt requirements-models.txt pyproject.toml $(STAMPS)/system
	sh tools/python_packages.sh
	@touch $@

$(STAMPS)/models: tools/build_models.py $(STAMPS)/python
	$(PY) tools/build_models.py
	@touch $@

$(STAMPS)/fonts: tools/build_catalogue.py fonts/package-lock.json $(STAMPS)/python
	cd fonts && ../$(NPM) ci --no-audit --no-fund
	$(PY) tools/build_catalogue.py
	@touch $@

$(STAMPS)/node_modules: frontend/package-lock.json $(STAMPS)/python
	cd frontend && ../$(NPM) ci --no-audit --no-fund
	@touch $@

$(STAMPS)/static: $(STAMPS)/models $(STAMPS)/fonts $(STAMPS)/node_modules $(shell find frontend/src frontend/public -type f -not -name schema.d.ts) $(wildcard src/neige/web/*.py)
	$(PY) tools/write_openapi.py
	cd frontend && ../$(NPM) run -s types && ../$(NPM) run -s build
	@touch $@

clean:
	rm -rf $(STAMPS) .venv frontend/node_modules fonts/node_modules src/neige/fonts src/neige/models src/neige/web/static
