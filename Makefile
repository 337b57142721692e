# The front door. Everything else is CMake's (see CMakePresets.json).
MAKEFLAGS += --no-print-directory
JOBS := $(shell nproc)

.PHONY: all demo check goldens install-deps perf evidence format clean screenshots

all:
	@scripts/install-deps run
	@cmake --preset release -Wno-dev >/dev/null
	@cmake --build build -j $(JOBS)

demo:
	@scripts/install-deps run pictures
	@$(MAKE) all
	@build/rigpulse demo

check:
	@scripts/install-deps run pictures check
	@scripts/check

# A change of them needs a line in CHANGELOG.md that says why.
goldens:
	@scripts/install-deps run check
	@cmake --preset check -Wno-dev >/dev/null
	@cmake --build build-check -j $(JOBS) --target goldens_test
	@RIGPULSE_REWRITE=1 build-check/tests/goldens_test
	@git diff --stat -- tests/goldens.txt

perf:
	@scripts/install-deps run check
	@cmake --preset check -Wno-dev >/dev/null
	@cmake --build build-check -j $(JOBS)
	@perf/run build-check/perf

evidence:
	@scripts/install-deps run check
	@cmake --preset check -Wno-dev >/dev/null
	@cmake --build build-check -j $(JOBS)
	@tests/evidence/run build-check

format:
	@scripts/install-deps check
	@scripts/sources | xargs clang-format -i

screenshots: all
	@scripts/install-deps run pictures
	@scripts/screenshots

clean:
	rm -rf build build-check build-debug build-sanitizers
