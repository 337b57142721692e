# The front door. Everything else is CMake's (see CMakePresets.json).
MAKEFLAGS += --no-print-directory
JOBS := $(shell nproc)

.PHONY: reference all install uninstall demo check goldens install-deps perf evidence fuzz format clean screenshots

all:
	@scripts/install-deps run
	@cmake --preset release -Wno-dev >/dev/null
	@cmake --build build -j $(JOBS)

# PREFIX: where to; DESTDIR: a folder that stands for the root, as for packages.
PREFIX ?= /usr/local
install:
	@scripts/install-deps run
	@cmake --preset release -Wno-dev -DCMAKE_INSTALL_PREFIX=$(abspath $(PREFIX)) >/dev/null
	@cmake --build build -j $(JOBS)
	@DESTDIR=$(DESTDIR) cmake --install build >/dev/null
	@echo "installed in $(DESTDIR)$(abspath $(PREFIX)); take it back: make uninstall"

uninstall:
	@DESTDIR=$(DESTDIR) cmake --build build --target uninstall >/dev/null

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
	@scripts/configure check
	@cmake --build build-check -j $(JOBS) --target goldens_test
	@RIGPULSE_REWRITE=1 build-check/tests/goldens_test
	@git diff --stat -- tests/goldens.txt

perf:
	@scripts/install-deps run check
	@scripts/configure check
	@cmake --build build-check -j $(JOBS)
	@perf/run build-check/perf

evidence:
	@scripts/install-deps run check
	@scripts/configure check
	@cmake --build build-check -j $(JOBS)
	@tests/evidence/run build-check

# As long as one likes: make fuzz SECONDS=3600 (for each fuzzer).
SECONDS ?= 300
fuzz:
	@scripts/install-deps run check
	@scripts/configure sanitizers
	@cmake --build build-sanitizers -j $(JOBS)
	@scripts/fuzz build-sanitizers $(SECONDS)

# Pages of the public headers, in build/reference/html; a warning is an error.
reference:
	@scripts/install-deps reference
	@mkdir -p build/reference && scripts/room-pages >build/reference/rooms.dox
	@mkdir -p build
	@doxygen docs/Doxyfile
	@echo "build/reference/html/index.html"

format:
	@scripts/install-deps check
	@scripts/sources | xargs clang-format -i

screenshots: all
	@scripts/install-deps run pictures screenshots
	@scripts/screenshots

clean:
	rm -rf build build-check build-debug build-sanitizers
