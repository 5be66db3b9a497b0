# Two commands for a newcomer: `make demo` and `make test`. `make help` lists the rest.
PORT ?= 8765
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .stamps
PAGES := src/spare_margin/web/app/index.html
FRONT := $(shell find frontend/src frontend/public -type f 2>/dev/null) frontend/index.html docs/guide/README.md docs/run-line.md \
	frontend/vite.config.ts frontend/vite.worker.config.ts frontend/tsconfig.json frontend/package.json

# Where a machine is set to keep no compiled modules, every worker and every program that a test starts would
# compile all of them again.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: help demo serve test test-core bench check types shots contracts demo-data lock clean browser wheel try-wheel fuzz dependencies

help: ## List these commands
	@grep -E '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 14

demo: $(STAMPS)/app $(PAGES) ## Start the application with a fresh copy of the demo jobs (PORT=8765)
	@exec $(BIN)/spare-margin demo --port $(PORT)

serve: $(STAMPS)/app $(PAGES) ## Start the application over your own jobs (PORT=8765)
	@exec $(BIN)/spare-margin serve --port $(PORT)

# Three at once on two cores: a test in the browser waits half of its time.
test: check browser $(PAGES) ## Run every check and every test
	@$(BIN)/pytest -n 3 --dist worksteal

# What needs no pages, no program of its own and no long search; property tests try fewer examples.
test-core: $(STAMPS)/dev ## Run the quick tests: rules, files, store, wording (under 90 s)
	@$(BIN)/pytest -q -n 2 --dist worksteal --hypothesis-profile=quick -m "not slow" \
		tests/core tests/exchange tests/store tests/wording tests/test_cases.py tests/test_docstrings.py

fuzz: $(STAMPS)/dev ## Make up requests from the API's description, FUZZ for each address (FUZZ=100)
	@FUZZ=$(or $(FUZZ),100) $(BIN)/pytest tests/fuzz

check: $(STAMPS)/dev $(STAMPS)/node ## Lint, types, layers, contracts, both sides
	@$(BIN)/ruff check src tests scripts
	@$(BIN)/ruff format --check src tests scripts
	@$(BIN)/mypy
	@$(BIN)/lint-imports
	@$(BIN)/python scripts/write_contracts.py --check
	@cd frontend && npm run --silent check && npm run --silent test

bench: $(STAMPS)/app $(PAGES) ## Print what speed is felt, as ratios in one run
	@PYTHONPATH=. $(BIN)/python scripts/bench.py

shots: browser $(PAGES) ## Re-make docs/screenshots from the demo jobs
	@$(BIN)/python scripts/take_screenshots.py

contracts: $(STAMPS)/dev $(STAMPS)/node ## Re-write the OpenAPI document, the job file schema, the TypeScript types
	@$(BIN)/python scripts/write_contracts.py
	@cd frontend && npm run --silent types

wheel: $(STAMPS)/app $(PAGES) ## Build a wheel with pages and demo jobs in it, in dist/
	@rm -rf build dist
	@$(BIN)/pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
	@ls dist

try-wheel: wheel browser ## Install the wheel into an empty environment and open its page
	@$(BIN)/python scripts/try_wheel.py dist

demo-data: $(STAMPS)/dev ## Re-compute the demo jobs
	@PYTHONPATH=. $(BIN)/python scripts/write_demo.py

lock: $(STAMPS)/dev ## Pin the newest Python packages that pyproject.toml allows
	@$(BIN)/pip install --quiet --disable-pip-version-check pip-tools==7.6.2
	@$(BIN)/pip-compile --quiet --no-emit-index-url --no-emit-find-links --strip-extras --generate-hashes -o requirements/app.txt pyproject.toml
	@$(BIN)/pip-compile --quiet --no-emit-index-url --no-emit-find-links --strip-extras --generate-hashes --allow-unsafe --extra dev -c requirements/app.txt -o requirements/dev.txt pyproject.toml

dependencies: $(STAMPS)/dev $(STAMPS)/node ## Re-write docs/dependencies.md from what is installed
	@$(BIN)/python scripts/write_dependencies.py

clean: ## Remove everything that was installed or built here
	rm -rf $(VENV) $(STAMPS) frontend/node_modules src/spare_margin/web/app src/*.egg-info build dist

# What the commands above rest on. A stamp says that a step is done for the files it depends on.

$(STAMPS)/tools:
	@sh scripts/need_tools.sh $(PYTHON)
	@mkdir -p $(STAMPS) && touch $@

$(BIN)/python: | $(STAMPS)/tools
	@$(PYTHON) -m venv $(VENV)

$(STAMPS)/app: requirements/app.txt pyproject.toml | $(BIN)/python
	@echo "Installing the Python packages ..."
	@$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/app.txt
	@$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --editable .
	@touch $@

$(STAMPS)/dev: requirements/dev.txt $(STAMPS)/app
	@echo "Installing what the tests need ..."
	@$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/dev.txt
	@touch $@

$(STAMPS)/node: frontend/package.json frontend/package-lock.json | $(STAMPS)/tools
	@echo "Installing the front end's packages ..."
	@cd frontend && npm ci --silent --no-audit --no-fund
	@touch $@

$(PAGES): $(STAMPS)/node $(FRONT)
	@echo "Building the pages ..."
	@cd frontend && npm run --silent build
	@touch $@

browser: $(STAMPS)/dev
	@sh scripts/need_browser.sh
