# Two commands do everything on a fresh machine: make demo, make test.
SHELL := /bin/bash
PORT ?= 8000
VENV := .venv
PY := $(VENV)/bin/python
STAMPS := .stamps
DEMO_HOME := $(CURDIR)/.demo
ALL_CODE := idlebench tests tools
TEMPLATES := $(wildcard idlebench/web/*/templates/*/*.html)
# a machine that forbids Python to keep its bytecode makes every command and every test start at half the speed
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo test set-up tests quick unit browser lint words rooms dist bench torture trials spreadsheet screenshots size data lock clean

# Set-up

# bytecode is written for what is loaded, not for all that was fetched: half of the time
PIP_QUICKLY := install -q --no-compile --disable-pip-version-check

$(STAMPS)/checked: tools/check-machine.sh
	@bash tools/check-machine.sh
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/venv: $(STAMPS)/checked requirements/base.txt pyproject.toml
	@test -x $(PY) || python3 -m venv $(VENV)
	$(PY) -m pip $(PIP_QUICKLY) --require-hashes -r requirements/base.txt
	$(PY) -m pip $(PIP_QUICKLY) --no-deps --no-build-isolation -e .
	@touch $@

$(STAMPS)/dev: $(STAMPS)/venv requirements/dev.txt
	$(PY) -m pip $(PIP_QUICKLY) --require-hashes -r requirements/dev.txt
	@touch $@

$(STAMPS)/npm: $(STAMPS)/checked package.json package-lock.json
	npm ci --silent --no-progress --ignore-scripts
	@touch $@

$(STAMPS)/ui: $(STAMPS)/npm tools/build-ui.mjs $(wildcard docs/guide/*.md docs/screenshots/*.png) $(shell find idlebench/web -name '*.html' -o -name '*.css' | grep -v /build/)
	npm run --silent build
	@touch $@

# the empty bench that a new one is a copy of
$(STAMPS)/empty: $(STAMPS)/venv tools/empty_bench.py $(shell find idlebench/web/records idlebench/catalogue -name '*.py' -o -name 'capacitors.csv')
	$(PY) tools/empty_bench.py
	@touch $@

$(STAMPS)/pango: $(STAMPS)/checked tools/need-debian.sh
	@bash tools/need-debian.sh pango
	@touch $@

$(STAMPS)/chromium: $(STAMPS)/checked tools/need-debian.sh
	@bash tools/need-debian.sh chromium
	@touch $@

$(STAMPS)/pdftools: $(STAMPS)/checked tools/need-debian.sh
	@bash tools/need-debian.sh pdftools
	@touch $@

# What people run

demo: $(STAMPS)/venv $(STAMPS)/ui $(STAMPS)/empty $(STAMPS)/pango
	@if [ -n "$(RESET)" ]; then rm -rf "$(DEMO_HOME)"; fi
	@IDLEBENCH_HOME="$(DEMO_HOME)" $(VENV)/bin/idlebench demo
	@IDLEBENCH_HOME="$(DEMO_HOME)" exec $(VENV)/bin/idlebench serve --port $(PORT)

# what is to be fetched is fetched side by side, and says how long it took
test:
	@start=$$SECONDS; $(MAKE) --no-print-directory -j 3 set-up && echo "set-up: $$((SECONDS - start)) s"
	@start=$$SECONDS; $(MAKE) --no-print-directory -j 2 lint tests && echo "tests: $$((SECONDS - start)) s"

set-up: $(STAMPS)/dev $(STAMPS)/ui $(STAMPS)/empty $(STAMPS)/pango $(STAMPS)/chromium $(STAMPS)/pdftools $(STAMPS)/fresh

# a new user's environment: what the wheel asks for from the package index, while other things are fetched, and then the wheel;
# tests/installed starts it there
$(STAMPS)/asked-for: $(STAMPS)/venv requirements/base.in
	rm -rf $(STAMPS)/new-user && python3 -m venv --without-pip $(STAMPS)/new-user
	$(PY) -m pip --python $(STAMPS)/new-user/bin/python $(PIP_QUICKLY) -r requirements/base.in
	@touch $@

$(STAMPS)/fresh: $(STAMPS)/dist $(STAMPS)/asked-for
	$(PY) -m pip --python $(STAMPS)/new-user/bin/python $(PIP_QUICKLY) --force-reinstall --no-deps dist/*.whl
	$(PY) -m pip --python $(STAMPS)/new-user/bin/python check
	@touch $@

# all tests in one run, lint beside them: three workers keep two cores busy while a browser draws, the longest begin first
tests: set-up
	$(PY) -m pytest -n 3 --dist loadgroup --no-loadscope-reorder --durations 30 tests

# the tests of the core but for the few that take seconds each: what a developer runs at each save
quick: $(STAMPS)/dev
	$(PY) -m pytest -n auto --dist worksteal -m "not long" tests/core

unit: $(STAMPS)/dev $(STAMPS)/ui $(STAMPS)/empty $(STAMPS)/pango $(STAMPS)/pdftools
	$(PY) -m pytest -n auto --dist worksteal tests/core tests/instruments tests/web

browser: $(STAMPS)/dev $(STAMPS)/ui $(STAMPS)/empty $(STAMPS)/pango $(STAMPS)/chromium
	$(PY) -m pytest -n 3 --dist worksteal tests/browser

# what can be checked of our words by machine
words: $(STAMPS)/dev
	$(PY) tools/words.py

# the page of each room, from its docstrings
rooms: $(STAMPS)/dev
	$(PY) tools/rooms.py

lint: $(STAMPS)/dev words
	$(PY) tools/rooms.py --check
	$(VENV)/bin/ruff check $(ALL_CODE)
	$(VENV)/bin/ruff format --check $(ALL_CODE)
	$(VENV)/bin/lint-imports --no-cache
	$(VENV)/bin/pydoclint --quiet idlebench/core
	@$(VENV)/bin/djhtml --tabwidth 2 --check $(TEMPLATES)
	@awk 'length > 160 {print FILENAME ":" FNR ": longer than 160"; long = 1} END {exit long}' $(TEMPLATES)
	IDLEBENCH_HOME=$$(mktemp -d) $(PY) -m django makemigrations --check --dry-run --settings idlebench.web.settings

# one file to install, with all that was built in it; and the source that it can be made of without Node
dist: $(STAMPS)/dist

$(STAMPS)/dist: $(STAMPS)/dev $(STAMPS)/ui $(STAMPS)/empty MANIFEST.in README.md $(shell git ls-files idlebench 2>/dev/null)
	@rm -rf dist build
	$(PY) -m build --no-isolation -x -o dist . > $(STAMPS)/dist.log 2>&1 || { cat $(STAMPS)/dist.log; exit 1; }
	@rm -rf build
	@touch $@

bench: $(STAMPS)/dev $(STAMPS)/ui $(STAMPS)/empty $(STAMPS)/chromium
	$(PY) tools/bench.py

# Kills under writes, crowds, hostile requests, pairs at once, a full disk, mangled bundles: a quarter of an hour, on 127.0.0.1 only
torture: $(STAMPS)/dev $(STAMPS)/ui
	$(PY) tools/torture.py $(TORTURE)

# 500 hidden faults on six simulated supplies, found by what is asked for: five minutes on two cores; and 40 made-up boards in photos
trials: $(STAMPS)/dev
	$(PY) tools/trials.py
	$(PY) tools/photo_trials.py

# Makes the figures anew that the simulated bench is held against, where a circuit simulator (ngspice) is installed
reference: $(STAMPS)/dev
	$(PY) tools/reference.py

# Opens the tables that Gather writes in LibreOffice and holds its numbers against them; not in make test, for it is a large package
spreadsheet: $(STAMPS)/dev $(STAMPS)/ui
	@bash tools/need-debian.sh spreadsheet
	$(PY) tools/spreadsheet.py

screenshots: $(STAMPS)/dev $(STAMPS)/ui $(STAMPS)/chromium
	$(PY) tools/screenshots.py

size:
	@python3 tools/size.py

# Data made by scripts in this repo: the house catalogue and the demo
data: $(STAMPS)/venv
	$(PY) -m idlebench.catalogue.make
	$(PY) idlebench/demo/make.py

# Lock files anew: versions and hashes, no addresses
lock:
	node tools/lock-ui.mjs
	python3 -m venv $(STAMPS)/pip-tools && $(STAMPS)/pip-tools/bin/pip install -q pip-tools
	cd requirements && for f in base dev; do ../$(STAMPS)/pip-tools/bin/pip-compile -q --generate-hashes --no-emit-index-url \
	  --no-emit-find-links --no-emit-trusted-host --no-header --strip-extras --allow-unsafe -o $$f.txt $$f.in; done

clean:
	rm -rf $(VENV) node_modules $(STAMPS) idlebench/web/ui/static/build idlebench/web/records/empty-*.sqlite3 dist build
