PY := .venv/bin/python

.PHONY: help demo run test check unit demo-data kit-loudness bench fuzz mutants screenshots lock clean

help:
	@echo "make demo         set up and open the program with the demo"
	@echo "make run          set up and open the program"
	@echo "make test         set up and run every check and test"
	@echo "make demo-data    compose and render the demo again, byte for byte"
	@echo "make kit-loudness measure the strokes of the kit again"
	@echo "make bench        measure speed and memory"
	@echo "make fuzz         break 20,000 files for the readers (FUZZ_CASES, FUZZ_SEED)"
	@echo "make mutants      put 300 small faults into the core and count those that tests notice"
	@echo "make screenshots  take the pictures in docs/screenshots again"
	@echo "make lock         compile the locks anew from setup/*.in"

demo:
	@setup/setup.sh run
	@$(PY) -m ghoststep --demo

run:
	@setup/setup.sh run
	@$(PY) -m ghoststep

test:
	@setup/setup.sh test
	@$(MAKE) --no-print-directory check unit

check:
	@.venv/bin/ruff format --check .
	@.venv/bin/ruff check .
	@.venv/bin/mypy
	@.venv/bin/lint-imports --no-cache

unit:
	@$(PY) -m pytest

demo-data:
	@setup/setup.sh run
	@$(PY) -m tools.make_demo

kit-loudness:
	@setup/setup.sh run
	@$(PY) -m tools.measure_kit

FUZZ_CASES ?= 20000
FUZZ_SEED ?= 1
fuzz:
	@setup/setup.sh test
	@QT_QPA_PLATFORM=offscreen $(PY) -m tools.fuzz --cases $(FUZZ_CASES) --seed $(FUZZ_SEED)

MUTANTS ?= 300
MUTANTS_SEED ?= 1
MUTANTS_MINUTES ?= 90
mutants:
	@setup/setup.sh test
	@$(PY) -m tools.mutants --count $(MUTANTS) --seed $(MUTANTS_SEED) --minutes $(MUTANTS_MINUTES)

bench:
	@setup/setup.sh run
	@test -x build/bench/bin/python || { python3 -m venv build/bench && \
		build/bench/bin/pip install -q --require-hashes -r setup/requirements-bench.txt; }
	@$(PY) -m bench

screenshots:
	@setup/setup.sh test
	@$(PY) -m tools.screenshots

lock:
	@test -x build/lock/bin/uv || { python3 -m venv build/lock && build/lock/bin/pip install -q uv; }
	@for n in requirements requirements-dev requirements-bench; do build/lock/bin/uv pip compile -q setup/$$n.in --universal \
		--python-version 3.11 --generate-hashes --no-emit-index-url --no-emit-find-links --no-header \
		-o setup/$$n.txt; done

clean:
	@rm -rf build .venv

# The listening network, from material we make ourselves; see docs/training.md.
# A small try of the whole: make train TRAIN_KITS=24 TRAIN_MINUTES=0.3 TRAIN_DIR=build/small TRAIN_OUT=build/small/out
TRAIN_PY ?= build/training/env/bin/python
TRAIN_DIR ?= build/training
TRAIN_KITS ?= 2800
TRAIN_MINUTES ?= 45
TRAIN_OUT ?= src/ghoststep/listen/data
.PHONY: train
train:
	@setup/setup.sh run
	@mkdir -p $(TRAIN_OUT)
	@command -v fluidsynth >/dev/null || { \
		echo "please run: sudo apt-get install fluidsynth fluid-soundfont-gm musescore-general-soundfont-small"; exit 1; }
	@$(PY) -m tools.training.examples $(TRAIN_DIR) --kits $(TRAIN_KITS) --minutes 600 --seed 21
	@test -x $(TRAIN_PY) || { python3 -m venv build/training/env && build/training/env/bin/pip install -q torch==2.13.0 numpy; }
	@$(TRAIN_PY) -m tools.training.train $(TRAIN_DIR) $(TRAIN_DIR)/voices-1.npz --minutes $(TRAIN_MINUTES)
	@for n in 2 3; do $(TRAIN_PY) -m tools.training.train $(TRAIN_DIR) $(TRAIN_DIR)/voices-$$n.npz \
		--minutes $(TRAIN_MINUTES) --rate 6e-4 --start $(TRAIN_DIR)/voices-$$((n - 1)).pt || exit 1; done
	@cp $(TRAIN_DIR)/voices-[123].npz $(TRAIN_OUT)/
