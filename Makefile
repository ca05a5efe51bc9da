# Everything a fresh Debian 12 machine with Python 3.11 and Node 20 needs. `make demo` and `make test` do all of it.

PORT ?= 8400
PYTHON ?= python3
PYTEST_ARGS ?=
BIN := .venv/bin
STAMPS := .local/stamps
SOURCES := $(shell find frontend/src frontend/public frontend/index.html frontend/vite.config.ts frontend/compress.mjs -type f 2>/dev/null)

.PHONY: setup demo demo-reset test test-attack test-deep mutants lint format build backup restore bench screenshots types clean
.DELETE_ON_ERROR:

setup: $(STAMPS)/system-test $(STAMPS)/python build  ## Install everything; start nothing
	@echo "Ready. The command line is .venv/bin/sign-shelf"

demo: $(STAMPS)/system $(STAMPS)/python build  ## Everything at once, at PORT
	@exec $(BIN)/sign-shelf demo --port $(PORT)

demo-reset:  ## Forget the demo's data; the next `make demo` starts over
	@bin/demo-reset

test: $(STAMPS)/system-test $(STAMPS)/python build  ## Every test; PYTEST_ARGS narrows it
	@bin/test $(PYTEST_ARGS)

test-attack: $(STAMPS)/system-test $(STAMPS)/python build  ## Everything that nobody should be able to do to it
	ATTACK=1 $(BIN)/python -m pytest -q -s tests/attack tests/api/test_every_route.py tests/api/test_roles.py tests/desk/test_take_in.py

test-deep: $(STAMPS)/system-test $(STAMPS)/python build  ## Random kills, many clients, long typing, 10 000 states, laws on more examples
	DEEP=1 $(BIN)/python -m pytest -q -n 2 --timeout 3600 tests/core tests/interface
	DEEP=1 $(BIN)/python -m pytest -q tests/desk/test_release_ends.py -k kills
	DEEP=1 $(BIN)/python -m pytest -q --timeout 1800 tests/api/test_many_hands.py tests/outside/test_ten_sites.py
	DEEP=1 $(BIN)/python -m pytest -q tests/browser/test_every_keystroke.py

mutants: $(STAMPS)/system-test $(STAMPS)/python build  ## Plant 40 faults, seeded; at least 34 must be caught. SEED=12 plants others
	$(BIN)/python -m tools.mutants --seed $(or $(SEED),11)

lint: $(STAMPS)/system $(STAMPS)/python $(STAMPS)/node  ## Style, types, and the direction of imports
	$(BIN)/ruff format --check src tests bench tools
	$(BIN)/ruff check src tests bench tools
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m tools.contracts --check
	cd frontend && npm run --silent types -- --check
	cd frontend && npm run --silent lint

format:  ## Bring all sources into their form
	$(BIN)/ruff check --fix src tests bench tools
	$(BIN)/ruff format src tests bench tools
	cd frontend && npx biome check --write .

types: $(STAMPS)/python $(STAMPS)/node  ## The published schemas, and the client's types made from them
	$(BIN)/python -m tools.contracts
	cd frontend && npm run --silent types

bench: $(STAMPS)/system-test $(STAMPS)/python build  ## Measure, and write docs/benchmarks.md; PARTS="delivery shelf" measures these alone
	$(BIN)/python -m bench $(PARTS)

screenshots: $(STAMPS)/system-test $(STAMPS)/python build  ## Refresh docs/screenshots from the demo data
	$(BIN)/python -m tools.screenshots

backup: $(STAMPS)/python  ## The whole database in FILE, which SIGN_SHELF_DATABASE names
	@test -n "$(FILE)" || { echo "Write make backup FILE=shelf.dump" >&2; exit 2; }
	@$(BIN)/sign-shelf backup "$(FILE)"

restore: $(STAMPS)/python  ## FILE into the empty database that SIGN_SHELF_DATABASE names; OVER=1 takes away what is in it
	@test -n "$(FILE)" || { echo "Write make restore FILE=shelf.dump" >&2; exit 2; }
	@$(BIN)/sign-shelf restore "$(FILE)" $(if $(OVER),--over)

build: $(STAMPS)/build

$(STAMPS)/build: $(STAMPS)/node $(SOURCES)
	@echo "Building the interface …"
	cd frontend && npm run --silent build
	@touch $@

$(STAMPS)/system: bin/system-packages
	@mkdir -p $(STAMPS)
	@bin/system-packages
	@touch $@

$(STAMPS)/system-test: bin/system-packages
	@mkdir -p $(STAMPS)
	@bin/system-packages --tests
	@touch $@ $(STAMPS)/system

$(STAMPS)/python: requirements.lock pyproject.toml | $(STAMPS)/system
	@echo "Installing the Python packages …"
	@test -x $(BIN)/python || $(PYTHON) -m venv .venv
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.lock || \
	  { echo "The Python packages of requirements.lock could not be installed: is the package index reachable?" >&2; exit 1; }
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

$(STAMPS)/node: frontend/package-lock.json | $(STAMPS)/system
	@echo "Installing the packages of the interface …"
	@# npm 11 refuses a lock that lacks optional packages of other platforms; installing from it takes the same versions.
	@cd frontend && (npm ci --silent --no-fund --no-audit 2>/dev/null || npm install --no-save --silent --no-fund --no-audit) || \
	  { echo "The packages of frontend/package-lock.json could not be installed: is the npm registry reachable?" >&2; exit 1; }
	@touch $@

clean:  ## Remove what was installed and built; the demo's data stay
	rm -rf .venv $(STAMPS) frontend/node_modules src/sign_shelf/static
