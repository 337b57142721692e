/* Parts that the fuzzers share. Each is one LLVMFuzzerTestOneInput(); scripts/fuzz runs them all. */
#ifndef TESTS_FUZZ_H
#define TESTS_FUZZ_H

#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <stddef.h>
#include <stdint.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

/* Ticks with readings made of the bytes, over and over: good ones, missing ones, a clock that jumps. */
void fuzz_ticks(rgp_engine *engine, uint32_t ticks, const uint8_t *data, size_t size);

/* Opens an image in memory of its own and ticks it, when it is one. */
void fuzz_image(const void *image, uint32_t size, uint32_t ticks, const uint8_t *data, size_t length);

/* Stops the fuzzer unless it holds: a broken promise is as bad as a crash. */
void fuzz_insist(bool holds);

/* One of the examples, whole; it lives for ever. */
const char *fuzz_example(const char *name);

/* The address of a folder of the process's own. */
const char *fuzz_folder(void);

#endif
