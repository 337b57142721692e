/* Parts that the suites share: a rig from its text, ticked by hand; and the tool as a user calls it. */
#ifndef TESTS_SUPPORT_H
#define TESTS_SUPPORT_H

#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <glib.h>

#include <setjmp.h>
#include <stdarg.h>
#include <stddef.h>

#include <cmocka.h>

#define EVENTS_KEPT 64u

/* Of trials by chance so many; the sanitizers, which look for other things and are slow, get a fifth. */
#ifdef RIGPULSE_SANITIZED
#define OFTEN(times) ((unsigned)(times) / 5u)
#else
#define OFTEN(times) ((unsigned)(times))
#endif

typedef struct bench {
    rgp_rig *rig;
    void *memory;
    rgp_engine engine;
    uint64_t now_us;
    rgp_event event[EVENTS_KEPT]; /* of the last tick and what was done before it */
    uint32_t events;
} bench;

/* Fails the test, showing the messages, when the text has errors. */
void bench_open(bench *b, const char *text);
void bench_close(bench *b);

/* Hands in a raw reading of each sensor in turn, then ticks `tick` later than before (0: the rig's). */
void bench_tick(bench *b, uint64_t tick_us, int32_t raw);
void bench_tick_bad(bench *b, rgp_quality quality);

/* The value of a named slot; fails when there is none. */
rgp_reading bench_value(const bench *b, const char *name);
uint16_t bench_slot(const bench *b, const char *name);
uint32_t bench_events(const bench *b, uint8_t kind);

void assert_near(double got, double wanted, double tolerance);

typedef struct called {
    int status;
    char *out, *err;
} called;

/* Runs the tool with arguments split as a shell splits them, in `folder`. */
called call_tool(const char *folder, const char *arguments);
void call_done(called *c);

/* A call and what has to come of it: `says` is a piece of what is printed, of the error stream when the status is 2. */
typedef struct call_case {
    const char *arguments;
    int status;
    const char *says;
} call_case;
void check_calls(const char *folder, const call_case *cases, size_t count);

void assert_says(const char *text, const char *wanted);

/* The number that stands behind those words, the first time; fails when they are not there. */
double number_behind(const char *text, const char *what);

char *make_folder(void);
void remove_folder(char *folder);
void put_file(const char *folder, const char *name, const char *text, gssize length);
char *get_file(const char *folder, const char *name);

/* The text with a piece of it replaced, which must be there. To be freed. */
char *replaced(const char *text, const char *piece, const char *by);

/* Of a normal distribution with a standard deviation of 1 (Box and Muller 1958). */
double gauss(GRand *chance);

/* The names in a folder that end so, sorted; to be given back with g_ptr_array_unref(). */
GPtrArray *list_files(const char *folder, const char *ending);

#endif
