# Two commands for a newcomer: make demo, make test.  make help lists the rest.
ARGS ?=
PY = .venv/bin/python

.PHONY: help demo run test lint unit coverage bench pictures texts package setup clean

help:            ## this list
	@grep -hE '^[a-z]+:.*##' $(MAKEFILE_LIST) | sed 's/:.*##/\t/' | expand -t 14

demo: setup      ## open the demo (ARGS= is passed on, such as ARGS=--smoke)
	@.venv/bin/inner-rim --demo $(ARGS)

run: setup       ## open the program on your own data
	@.venv/bin/inner-rim $(ARGS)

test: setup-test lint unit   ## set up and run every check

lint:            ## style, types, the import contract, commit subjects
	.venv/bin/ruff check src tests benchmarks tools
	.venv/bin/ruff format --check src tests benchmarks tools
	.venv/bin/mypy
	.venv/bin/lint-imports
	$(PY) tools/subjects.py

unit:            ## the tests alone (ARGS= is passed to pytest)
	$(PY) -m pytest -n 2 $(ARGS)

coverage: setup-test   ## the tests, and the share of lines that they run
	$(PY) -m pytest -n 2 --cov=inner_rim --cov-report=term:skip-covered $(ARGS)

bench: setup     ## the benchmarks, printed as ratios
	$(PY) benchmarks/planning.py
	$(PY) benchmarks/window.py
	$(PY) benchmarks/look.py
	$(PY) benchmarks/shelf.py
	$(PY) benchmarks/logbook.py
	$(PY) benchmarks/schedule.py
	$(PY) benchmarks/startup.py

pictures: setup  ## take the pictures in docs/screenshots again
	QT_QPA_PLATFORM=offscreen $(PY) -m tools.pictures

texts: setup     ## collect all texts for the translators
	.venv/bin/python tools/texts.py update

package: setup   ## dist/: a wheel and a .deb (docs/release.md)
	tools/package.sh

setup:           ## make or refresh .venv
	@tools/setup.sh

.PHONY: setup-test
setup-test:
	@tools/setup.sh test

clean:           ## remove what can be made again
	rm -rf .venv build dist .mypy_cache .ruff_cache .pytest_cache .hypothesis .import_linter_cache
