# Everything a fresh machine needs: `make demo` to try it, `make test` to check it.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready
TRAIN_BIN := .venv-train/bin

# Tests run beside each other, and each with a single thread: threads that wait for a core turn in circles meanwhile.
ONE_THREAD = OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 VIPS_CONCURRENCY=1 OPENCV_FOR_THREADS_NUM=1

# Compiled modules are stored even where the environment forbids it: tests start some hundred processes.
export PYTHONDONTWRITEBYTECODE =

.PHONY: demo test lint check install uninstall bundle bundle-test bench docs screenshots setup system demo-pictures \
        train-setup train-fetch train-prepare train train-export train-test train-chains train-reader train-judge evaluate evaluate-crispness evaluate-unlisted evaluate-real evaluate-raw evaluate-condition

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt
	sh tools/system_packages.sh
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e ".[dev]"
	touch $@

demo: setup
	@sh tools/demo.sh $(BIN)/wamplex

# Tests stand back almost as far as what works beside the window: three at once on two cores would starve it.
test: setup
	$(ONE_THREAD) nice -n 8 $(BIN)/pytest -q -n 3 --dist worksteal

lint: setup
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy

check: setup
	$(BIN)/ruff format .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(ONE_THREAD) nice -n 8 $(BIN)/pytest -q -n 3 --dist worksteal -m "not slow"

# Menu entry, icon, kinds of file, manual and completion, for this user alone.
install: setup
	$(BIN)/wamplex desktop install

uninstall: setup
	$(BIN)/wamplex desktop uninstall

# One folder that runs on a bare system without Python: build/wamplex-linux-*.tar.gz.
bundle: setup
	$(BIN)/pip install --quiet -c constraints.txt -e ".[bundle]"
	sh tools/bundle/make.sh $(BIN)

# The same, tried in a bare system that debootstrap makes; as root.
bundle-test: bundle
	sh tools/bundle/try.sh

bench: setup
	$(BIN)/python -m benchmarks

# API reference of the core: build/api/index.html. A warning is an error.
docs: setup
	$(BIN)/pip install --quiet -c constraints.txt -e ".[docs]"
	$(BIN)/sphinx-build -q -E -W --keep-going -b html docs/api build/api

screenshots: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tools.screenshots

demo-pictures: setup
	$(BIN)/pip install --quiet -c constraints.txt -e ".[demo]"
	$(BIN)/python -m tools.demo
	$(BIN)/python -m tools.demo.degrade

train-setup:
	$(PYTHON) -m venv .venv-train
	$(TRAIN_BIN)/pip install --quiet -c constraints.txt -e ".[train]"

train-fetch:
	$(TRAIN_BIN)/python -m training fetch

train-prepare:
	$(TRAIN_BIN)/python -m training prepare

# For instance: make train FAMILY=mender MINUTES=60
FAMILY ?= vellum-standard
MINUTES ?= 30

train:
	nice -n 19 $(TRAIN_BIN)/python -m training train --family $(FAMILY) --minutes $(MINUTES)

train-export:
	$(TRAIN_BIN)/python -m training export --family $(FAMILY)

train-test:
	$(TRAIN_BIN)/python -m pytest -q tests/training

train-chains:
	$(TRAIN_BIN)/python -m training chains

evaluate:
	$(TRAIN_BIN)/python -m training evaluate

evaluate-condition:
	$(TRAIN_BIN)/python -m training condition

evaluate-raw:
	$(TRAIN_BIN)/python -m training evaluate-raw

evaluate-crispness:
	$(TRAIN_BIN)/python -m training evaluate-crispness

evaluate-unlisted:
	$(TRAIN_BIN)/python -m training evaluate-unlisted

train-judge:
	$(TRAIN_BIN)/python -m training collect --minutes 600
	$(TRAIN_BIN)/python -m training judge

evaluate-real:
	$(TRAIN_BIN)/python -m training evaluate-real

# Describes pictures for DESCRIBE_MINUTES with a single core (run it with another SEED beside it), then learns from all.
DESCRIBE_MINUTES ?= 15
SEED ?= 1

train-reader:
	nice -n 19 $(TRAIN_BIN)/python -m training describe --minutes $(DESCRIBE_MINUTES) --seed $(SEED)
	nice -n 19 $(TRAIN_BIN)/python -m training reader
	$(TRAIN_BIN)/python -m training export-reader
