/* The engine's tick on a generated rig, beside the same work by hand, and the floor.
 *
 * Usage: perf_tick engine|hand|floor|lanes|none|compare|time[+loops] TICKS  (a script counts instructions; see
 * perf/run)
 */
#include "floor.h"
#include "hand.h"

#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#define TICK_US 20000u

static rgp_rig *make_rig(int loops)
{
    static char text[8192];
    size_t at = (size_t)snprintf(text, sizeof text, "rig perf\ntick 20 ms\n");
    for (int i = 0; i < CHAINS; i++) {
        at += (size_t)snprintf(
            text + at, sizeof text - at,
            "sensor s%d counts 0..4095\n"
            "signal d%d = s%d | despike 5 | table 312: 0 cm, 1890: 6 cm, 3020: 12 cm | smooth 200 ms\n",
            i, i, i);
    }
    for (int i = 0; i < SETS; i++) {
        at += (size_t)snprintf(text + at, sizeof text - at,
                               "actuator a%d percent 0..100, rest at 0\n"
                               "bands b%d = d%d: low below 3 cm, mid, high above 9 cm; margin 0.4 cm\n"
                               "while b%d is low\n    a%d 80 %% for 2 s\n    holdoff 3 s\n",
                               i, i, i, i, i);
    }
    for (int i = 0; i < SEQUENCES; i++) {
        at +=
            (size_t)snprintf(text + at, sizeof text - at,
                             "actuator q%d percent 0..100, rest at 0\nsequence go_%d\n    cycle\n        q%d 30 %%\n"
                             "        dwell 1 s\n        q%d 0 %%\n"
                             "        await d%d above 5 cm, margin 0.4 cm within 3 s, else go over\n        part over\n"
                             "on start\n    begin go_%d\n",
                             i, i, i, i, SETS + i, i);
    }
    for (int i = 0; i < loops; i++) {
        at += (size_t)snprintf(text + at, sizeof text - at,
                               "actuator p%d percent 0..100, rest at 0\nloop l%d: d%d at 6 cm with p%d\n"
                               "    pid kp 8, ki 2, kd 1, filter 100 ms\n    one way\n",
                               i, i, SETS + SEQUENCES + i, i);
    }
    at += (size_t)snprintf(text + at, sizeof text - at,
                           "sensor rate counts -2000..2000\n"
                           "sensor ax mg -2000..2000\nsensor ay mg -2000..2000\nsensor az mg -2000..2000\n"
                           "signal lean = ax | tilt roll with ay, az\n"
                           "signal turning = rate | line 0.1 deg/s/counts, 0 deg/s\n"
                           "signal angle = turning | fuse with lean, over 2 s\n");
    return rgp_rig_compile("perf.rig", text, at, NULL);
}

static void open_engine(rgp_engine *engine, void **memory, rgp_rig *rig)
{
    const rgp_image_header *image = rig->image;
    if (!image) {
        fprintf(stderr, "%s", rgp_rig_report(rig));
        exit(1);
    }
    *memory = calloc(1, image->memory);
    const rgp_status status = rgp_engine_open(engine, image, rig->image_size, *memory, image->memory);
    if (status != RGP_OK) {
        fprintf(stderr, "%s\n", rgp_status_text(status));
        exit(1);
    }
}

/* A port that costs nothing: its samples lie ready, and what is written goes into a list. */
typedef struct still_port {
    const rgp_sample *sample;
    uint64_t now_us;
    float written[64];
} still_port;

static uint64_t now_of(void *self)
{
    return ((still_port *)self)->now_us;
}

static rgp_status read_of(void *self, uint16_t sensor, rgp_sample *sample)
{
    *sample = ((still_port *)self)->sample[sensor];
    return RGP_OK;
}

static rgp_status write_of(void *self, uint16_t actuator, float value)
{
    ((still_port *)self)->written[actuator] = value;
    return RGP_OK;
}

static still_port still;
static const rgp_port port = {
    .version = RGP_PORT_VERSION, .self = &still, .now = now_of, .read = read_of, .write = write_of};

/* All four do the same work: the engine; by hand, with qualities and its very arithmetic; and the floor, in two ways.
 */
typedef struct contest {
    rgp_engine engine;
    hand hand;
    floor_rig floor, lanes;
} contest;

enum { ENGINE, HAND, FLOOR, LANES, CONTESTANTS };
static const char *const names[CONTESTANTS] = {"engine", "hand", "floor", "lanes"};

static void tick(contest *c, int who, uint32_t n, const rgp_sample *sample)
{
    still.sample = sample;
    still.now_us = (uint64_t)n * TICK_US;
    switch (who) {
    case ENGINE:
        rgp_engine_tick(&c->engine, &port);
        break;
    case HAND:
        hand_tick(&c->hand, still.now_us, sample);
        break;
    case FLOOR:
        floor_tick(&c->floor, &port);
        break;
    default:
        floor_tick_lanes(&c->lanes, &port);
    }
}

/* The last signal of the file. */
static float angle_of(const rgp_engine *engine)
{
    for (uint32_t slot = 0; slot < engine->image->slots; slot++) {
        if (strcmp(rgp_image_text(engine->image, RGP_NAME_SLOT, slot, 0), "angle") == 0) {
            return rgp_engine_value(engine, slot).value;
        }
    }
    return -1.0f;
}

static int by_size(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

static double seconds_now(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (double)now.tv_sec + (double)now.tv_nsec * 1e-9;
}

#define ROUNDS 200
#define TICKS  1000u

static uint32_t bytes_of(const contest *c, int who)
{
    const uint32_t loops = c->hand.loops ? 0 : (uint32_t)sizeof c->hand.loop, chains = (uint32_t)sizeof c->floor.chain,
                   rings = (uint32_t)sizeof c->floor.lane_ring;
    return who == ENGINE ? c->engine.image->memory
           : who == HAND ? (uint32_t)sizeof c->hand - loops
                         : (uint32_t)sizeof c->floor - (who == FLOOR ? rings : chains);
}

/* Of each, in turns on the same readings: the mean of the fastest twentieth of the rounds, in nanoseconds a tick, as
 * what the machine does besides only ever adds to it; and the bytes of state. */
static void print_times(contest *c)
{
    rgp_sample *sample = calloc((size_t)TICKS * READINGS, sizeof *sample);
    static double ns[CONTESTANTS][ROUNDS];
    uint32_t chance = 1;
    for (uint32_t i = 0; sample && i < TICKS * READINGS; i++) {
        sample[i] = reading_at(i / READINGS, i % READINGS, &chance);
    }
    for (uint32_t round = 0; sample && round < ROUNDS; round++) {
        for (int who = 0; who < CONTESTANTS; who++) {
            const double begun = seconds_now();
            for (uint32_t n = 0; n < TICKS; n++) {
                tick(c, who, round * TICKS + n, &sample[(size_t)n * READINGS]);
            }
            ns[who][round] = (seconds_now() - begun) * 1e9 / TICKS;
        }
    }
    for (int who = 0; who < CONTESTANTS; who++) {
        double sum = 0.0;
        qsort(ns[who], ROUNDS, sizeof *ns[who], by_size);
        for (int i = 0; i < ROUNDS / 20; i++) {
            sum += ns[who][i];
        }
        printf("%s %.0f %u\n", names[who], sum / (ROUNDS / 20), bytes_of(c, who));
    }
    free(sample);
}

/* The engine and the careful hand agree to the bit. The floor has no qualities, and is no other rig for that: it drives
 * the same in nearly all ticks; its two ways agree to the bit. */
static int compare(contest *c, uint32_t ticks)
{
    uint32_t chance = 1, others = 0;
    const uint16_t outputs = (uint16_t)(SETS + SEQUENCES + c->hand.loops);
    for (uint32_t n = 0; n < ticks; n++) {
        rgp_sample sample[READINGS];
        for (uint32_t i = 0; i < READINGS; i++) {
            sample[i] = reading_at(n, i, &chance);
        }
        for (int who = 0; who < CONTESTANTS; who++) {
            tick(c, who, n, sample);
        }
        for (uint16_t i = 0; i < outputs; i++) {
            if (rgp_engine_output(&c->engine, i) != c->hand.output[i] || c->floor.output[i] != c->lanes.output[i]) {
                fprintf(stderr, "tick %u: actuator %u is driven otherwise\n", n, i);
                return 1;
            }
            others += i < SETS + SEQUENCES && fabsf(c->floor.output[i] - c->hand.output[i]) > 0.5f;
        }
        if (angle_of(&c->engine) != c->hand.angle || (n > 500 && fabsf(c->floor.angle - c->hand.angle) > 0.5f)) {
            fprintf(stderr, "tick %u: the angles are %g, %g and %g\n", n, (double)angle_of(&c->engine),
                    (double)c->hand.angle, (double)c->floor.angle);
            return 1;
        }
    }
    if (others > ticks * (SETS + SEQUENCES) / 50) {
        fprintf(stderr, "the floor drives otherwise in %u of %u\n", others, ticks * (SETS + SEQUENCES));
        return 1;
    }
    return 0;
}

static void run(contest *c, int who, uint32_t ticks)
{
    uint32_t chance = 1;
    for (uint32_t n = 0; n < ticks; n++) {
        rgp_sample sample[READINGS];
        for (uint32_t i = 0; i < READINGS; i++) {
            sample[i] = reading_at(n, i, &chance);
        }
        if (who < CONTESTANTS) {
            tick(c, who, n, sample);
        }
    }
}

int main(int argc, char **argv)
{
    if (argc != 3) {
        return 2;
    }
    static contest c;
    const uint32_t ticks = (uint32_t)strtoul(argv[2], NULL, 10);
    c.hand.loops = c.floor.loops = c.lanes.loops = strstr(argv[1], "+loops") ? LOOPS : 0;
    rgp_rig *rig = make_rig(c.hand.loops);
    void *memory;
    int who = 0, status = 0;
    open_engine(&c.engine, &memory, rig);
    while (who < CONTESTANTS && strncmp(argv[1], names[who], strlen(names[who])) != 0) {
        who++;
    }
    if (strncmp(argv[1], "compare", strlen("compare")) == 0) {
        status = compare(&c, ticks);
    } else if (strncmp(argv[1], "time", strlen("time")) == 0) {
        print_times(&c);
    } else {
        run(&c, who, ticks);
    }
    free(memory);
    rgp_rig_free(rig);
    return status;
}
