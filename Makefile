# Each command installs what it needs first and says what it is doing.
PYTHON ?= python3
PORT ?= 8642
VENV := .venv
PY := $(VENV)/bin/python
SOURCES := frost_tally tests bench scripts

.PHONY: help demo run test coverage check mutants package drill bench screenshots reference vendor lock clean

help:  ## what there is
	@grep -E '^[a-z]+:.*##' $(MAKEFILE_LIST) | sed -E 's/:.*##/:/' | sort

demo: $(VENV)/run.stamp  ## start with the made-up household
	$(PY) -m frost_tally demo --port $(PORT)

run: $(VENV)/run.stamp  ## start on your own data
	$(PY) -m frost_tally serve --port $(PORT)

test: $(VENV)/dev.stamp chromium  ## every test
	$(PY) -m tests

coverage: $(VENV)/dev.stamp chromium  ## every test, and that they reach nine in ten of our lines
	$(PY) -m tests --measured

check: $(VENV)/dev.stamp  ## lint, types, import rules
	$(VENV)/bin/ruff check $(SOURCES)
	$(VENV)/bin/ruff format --check $(SOURCES)
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports
	$(PY) -m scripts.dead_code
	$(PY) -m scripts.places
	$(PY) -m scripts.toothless
	$(VENV)/bin/deptry frost_tally

mutants: $(VENV)/dev.stamp  ## nudge the code at random places: would a test notice? (SEED=, CORE=, REST= how many)
	$(PY) -m scripts.mutants $(if $(SEED),--seed $(SEED)) --core $(or $(CORE),60) --rest $(or $(REST),30)

package: $(VENV)/dev.stamp  ## build sdist and wheel, install afresh, and start the demo from it
	$(PY) -m scripts.try_package

drill: $(VENV)/dev.stamp  ## kill it 500 times at work, forty clients, 10 000 requests; the check tables in full (SEED= for other cases)
	$(PY) -m scripts.drill
	$(PY) -m scripts.drill_clients
	$(PY) -m scripts.drill_points
	FROST_TALLY_DRILL=$(or $(SEED),1) $(PY) -m tests tests.core.test_control tests.core.test_long_day tests.core.test_runner tests.core.test_year tests.household.test_chains tests.live.test_killed tests.reference.test_capacity tests.reference.test_night tests.reference.test_park tests.web.test_documents tests.web.test_fresh tests.web.test_fuzz

bench: $(VENV)/dev.stamp chromium  ## ratios against references run beside ours
	$(PY) -m bench

screenshots: $(VENV)/dev.stamp chromium  ## renew docs/screenshots from the demo
	$(PY) -m scripts.screenshots

reference: $(VENV)/dev.stamp  ## run the public simulators of cars and cells and renew their small tables
	@echo "Installing the simulators (about 1.4 GB) …"
	$(PY) -m pip install --quiet --no-deps --require-hashes -r requirements/reference.txt  # one of them caps numpy lower than it needs
	$(PY) -m bench.reference
	$(PY) -m bench.battery_reference

vendor:  ## fetch the page's libraries and fonts at their pinned versions (needs npm)
	$(PYTHON) scripts/vendor.py

lock:  ## pin all versions with hashes (needs uv)
	uv pip compile -q pyproject.toml --python-version 3.11 --generate-hashes --no-header --no-annotate -o requirements/run.txt
	uv pip compile -q pyproject.toml --extra dev --python-version 3.11 -c requirements/run.txt --generate-hashes --no-header --no-annotate -o requirements/dev.txt
	uv pip compile -q pyproject.toml --extra dev --extra reference --python-version 3.11 -c requirements/dev.txt --generate-hashes --no-header --no-annotate -o requirements/reference.txt

$(PY):
	@echo "Setting up $(VENV) …"
	$(PYTHON) -m venv $(VENV)

$(VENV)/run.stamp: requirements/run.txt | $(PY)
	@echo "Installing what runs the app …"
	$(PY) -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/run.txt
	$(PY) -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

$(VENV)/dev.stamp: requirements/dev.txt $(VENV)/run.stamp
	@echo "Installing what tests it …"
	$(PY) -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/dev.txt
	@touch $@

.PHONY: chromium
chromium:
	@command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || { echo "Installing Debian's Chromium …"; \
	  sudo=$$( [ "$$(id -u)" = 0 ] || echo sudo ); $$sudo apt-get update -qq && $$sudo apt-get install -y -qq --no-install-recommends chromium-headless-shell; }

clean:
	rm -rf $(VENV) build *.egg-info .mypy_cache .ruff_cache .hypothesis .coverage
