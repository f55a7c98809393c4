PY := .venv/bin/python
# One thread for each process: several that multiply matrices wait for one another, and sums come out the same.
ONE_THREAD := OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 MKL_NUM_THREADS=1

# An environment that forbids bytecode would have every test that starts the program compile all of it again.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: help demo run test check unit demo-data kit-loudness bench fuzz mutants screenshots lock clean

help:
	@echo "make demo         set up and open the program with the demo"
	@echo "make run          set up and open the program"
	@echo "make test         set up and run every check and test"
	@echo "make demo-data    compose and render the demo again, byte for byte"
	@echo "make kit-loudness measure the strokes of the kit again"
	@echo "make bench        measure speed and memory"
	@echo "make fuzz         break 20,000 files for the readers (FUZZ_CASES, FUZZ_SEED)"
	@echo "make mutants      put 300 small faults into the code and count those that tests notice"
	@echo "make ablation     tell what each rule of listening is worth, on fresh sets"
	@echo "make screenshots  take the pictures in docs/screenshots again"
	@echo "make figures      measure, and write docs/figures.md"
	@echo "make docs         write the pages that are made from tables"
	@echo "make man          write the man page from what the commands take"
	@echo "make install-check  install the wheel with each Python that is here and do the demo"
	@echo "make deb          build a package for Debian, with all it needs"
	@echo "make lock         compile the locks anew from setup/*.in"

demo:
	@setup/setup.sh run
	@$(PY) -m ghoststep --demo

run:
	@setup/setup.sh run
	@$(PY) -m ghoststep

test:
	@setup/setup.sh test
	@$(MAKE) --no-print-directory -j 2 check unit

check:
	@.venv/bin/ruff format --check .
	@.venv/bin/ruff check .
	@.venv/bin/mypy
	@.venv/bin/lint-imports --no-cache

unit:
	@$(ONE_THREAD) $(PY) -m pytest -n 2 --dist loadfile

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

# The listening networks, from material we make ourselves; see docs/training.md, which tells of a small try of the whole.
# Every stage follows from its seed; what is there is not made again, and what was stopped goes on where it was.
TRAIN_PY ?= build/training/env/bin/python
TRAIN_DIR ?= build/training
# Kits of each of the four kinds of material, and steps of each of the four stages of a network.
TRAIN_KITS ?= 1400
TRAIN_COLOUR_KITS ?= 800
TRAIN_METAL_KITS ?= 800
TRAIN_NATURAL_KITS ?= 240
TRAIN_STEPS ?= 9500
TRAIN_MORE_STEPS ?= 4800
TRAIN_WHOLE_STEPS ?= 1500
TRAIN_OWN_STEPS ?= 300
TRAIN_SEEDS ?= 1 2 5
# Networks that are shown whole clips from the start; the others see less of them until the third stage.
TRAIN_WHOLE_SEEDS ?= 2 5
NO_KITS ?= 180
TRAIN_OUT ?= $(TRAIN_DIR)/out
# One stage of the networks of all seeds, two at a time: material, name of what comes out, name of what it starts from, more.
trained = printf '%s\n' $(TRAIN_SEEDS) | xargs -P 2 -I SEED env $(ONE_THREAD) PYTHONPATH=src $(TRAIN_PY) -m tools.training.train \
	$(TRAIN_DIR)/$(1) $(TRAIN_DIR)/$(2)-SEED.npz $(if $(3),--start $(TRAIN_DIR)/$(3)-SEED.npz) $(4) --seed SEED
.PHONY: train train-material judge-sets judge ablation
train: train-material
	@mkdir -p $(TRAIN_OUT)
	@test -x $(TRAIN_PY) || { python3 -m venv build/training/env && build/training/env/bin/pip install -q torch==2.13.0 numpy; }
	@$(call trained,plain,first,,--steps $(TRAIN_STEPS) --whole-seeds $(TRAIN_WHOLE_SEEDS))
	@$(call trained,plain,more,first,--besides $(TRAIN_DIR)/recoloured $(TRAIN_DIR)/metal --steps $(TRAIN_MORE_STEPS) --rate 7e-4 \
		--whole-seeds $(TRAIN_WHOLE_SEEDS))
	@$(call trained,plain,whole,more,--besides $(TRAIN_DIR)/metal $(TRAIN_DIR)/natural --steps $(TRAIN_WHOLE_STEPS) --rate 6e-4 --whole)
	@$(call trained,natural,voices,whole,--steps $(TRAIN_OWN_STEPS) --rate 1.5e-3 --only-own)
	@$(ONE_THREAD) $(PY) -m tools.training.fit_no_kit $(TRAIN_DIR)/no-kit-strokes.npz $(TRAIN_OUT)/no-kit.npz
	@for n in $(TRAIN_SEEDS); do cp $(TRAIN_DIR)/voices-$$n.npz $(TRAIN_OUT)/ || exit 1; done

train-material:
	@setup/setup.sh run
	@command -v fluidsynth >/dev/null || { \
		echo "please run: sudo apt-get install fluidsynth fluid-soundfont-gm musescore-general-soundfont-small"; exit 1; }
	@$(ONE_THREAD) $(PY) -m tools.training.examples $(TRAIN_DIR)/plain --kits $(TRAIN_KITS) --seed 151 --hard 0.15 --apart 0.2 \
		--recoloured 0
	@$(ONE_THREAD) $(PY) -m tools.training.examples $(TRAIN_DIR)/recoloured --kits $(TRAIN_COLOUR_KITS) --seed 121
	@$(ONE_THREAD) $(PY) -m tools.training.examples $(TRAIN_DIR)/metal --kits $(TRAIN_METAL_KITS) --seed 152 --hard 0.15 --apart 0.2 \
		--recoloured 0.25 --other-metal 0.8
	@$(ONE_THREAD) $(PY) -m tools.training.examples $(TRAIN_DIR)/natural --kits $(TRAIN_NATURAL_KITS) --seed 153 --hard 0.15 --natural
	@test -f $(TRAIN_DIR)/no-kit-strokes.npz || $(ONE_THREAD) $(PY) -m tools.training.no_kit \
		$(TRAIN_DIR)/no-kit-strokes.npz --kits $(NO_KITS) --seed 131

# What listening is judged by: kits of other makers, more ghosts than usual, and single strokes of a recorded kit.
JUDGE_SEED ?= 9800
STROKES ?= /usr/share/sonic-pi/samples
judge-sets:
	@setup/setup.sh run
	@$(PY) -m tools.training.kept_back build/kept/ordinary --bank $(TRAIN_DIR)/bank --cases 40 --seed $(JUDGE_SEED)
	@$(PY) -m tools.training.kept_back build/kept/ghosts --bank $(TRAIN_DIR)/bank --cases 30 --seed $(JUDGE_SEED) --ghosts 0.15
	@$(PY) -m tools.training.kept_back build/kept/strokes --cases 24 --seed $(JUDGE_SEED) --ghosts 0.08 --strokes $(STROKES)
	@$(PY) -m tools.training.kept_back build/kept/plain --bank $(TRAIN_DIR)/bank --cases 40 --seed $(JUDGE_SEED) --plain
	@$(PY) -m tools.training.own_kit build/kept/own --cases 40 --seed $(JUDGE_SEED)
	@$(PY) -m tools.training.own_kit build/kept/alone --cases 40 --seed $(JUDGE_SEED) --alone

# What each rule of listening is worth: every one off by itself, on fresh sets.
ablation: judge-sets
	@$(ONE_THREAD) $(PY) -m tools.training.ablation build/kept/*

judge: judge-sets
	@for s in ordinary ghosts strokes plain own alone; do echo "$$s:"; $(PY) -m tools.training.judge build/kept/$$s; done

.PHONY: man deb docs figures
docs:
	@setup/setup.sh run
	@$(PY) -m tools.docs.commands_page
	@$(PY) -m tools.figures

# Measures anew what `make bench` measures, keeps it, and writes the page.
figures: bench docs

man:
	@setup/setup.sh run
	@$(PY) -m tools.packaging.man_page

deb:
	@setup/setup.sh run
	@$(PY) -m tools.packaging.deb build/deb

.PHONY: install-check
install-check:
	@setup/setup.sh run
	@$(PY) -m tools.packaging.install_check
