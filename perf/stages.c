/* Each stage in the engine, beside a straight hand-written version of the same mathematics with the same quality
 * handling.
 *
 * Usage: perf_stages list | engine NAME TICKS | hand NAME TICKS | bytes NAME     (a script counts instructions; see
 * perf/run) 16 channels each; NAME "none" is the making of the readings alone. */
#include "rigpulse/condition.h"
#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define CHANNELS 16

typedef struct hand_input {
    float value[CHANNELS];
    uint8_t quality[CHANNELS];
    float out[CHANNELS];
    uint8_t out_quality[CHANNELS];
    float dt;
} hand_input;

#define USABLE(q)    ((q) <= RGP_HELD)

/* HAND(name, state members, what is done with `in` and the state `s`, giving `out`): a bad reading steps nothing. */
#define MEMBERS(...) __VA_ARGS__
#define HAND(name, members, ...)                      \
    typedef struct state_##name {                     \
        MEMBERS members float last;                   \
    } state_##name;                                   \
    static state_##name of_##name[CHANNELS];          \
    static void hand_##name(hand_input *h)            \
    {                                                 \
        for (int i = 0; i < CHANNELS; i++) {          \
            state_##name *s = &of_##name[i];          \
            const float in = h->value[i], dt = h->dt; \
            float out = s->last;                      \
            uint8_t quality = h->quality[i];          \
            (void)in;                                 \
            (void)dt;                                 \
            if (USABLE(quality) && dt > 0.0f) {       \
                __VA_ARGS__ s->last = out;            \
            }                                         \
            h->out[i] = out;                          \
            h->out_quality[i] = quality;              \
        }                                             \
    }

static void hand_none(hand_input *h)
{
    (void)h;
}

HAND(
    despike, (float ring[5]; uint8_t next, filled;), s->ring[s->next] = in;
    s->next = (uint8_t)(s->next == 4 ? 0 : s->next + 1); s->filled = (uint8_t)(s->filled + (s->filled < 5)); float v[5];
    for (int k = 0; k < s->filled; k++) {
        int at = k;
        while (at > 0 && v[at - 1] > s->ring[k]) {
            v[at] = v[at - 1];
            at--;
        }
        v[at] = s->ring[k];
    } out = v[(s->filled - 1) / 2];)
HAND(
    smooth, (float gap, dt, share, lost; uint8_t known;), float t = dt + s->gap; s->gap = 0; if (!s->known) {
        s->known = 1;
        out = in;
    } if (t != s->dt) {
        s->dt = t;
        s->share = rgp_decay(t / 0.2f);
    } rgp_add(&out, &s->lost, s->share *((in - out) - s->lost));)
HAND(
    envelope, (uint8_t known;), const float size = in < 0.0f ? -in : in; if (!s->known) {
        s->known = 1;
        out = size;
    } else { out += rgp_decay(dt / (size > out ? 0.05f : 0.5f)) * (size - out); })
HAND(
    rms, (float square; uint8_t known;), const float square = in * in; if (!s->known) {
        s->known = 1;
        s->square = square;
    } else { s->square += rgp_decay(dt / 0.2f) * (square - s->square); } out = sqrtf(s->square);)
HAND(
    highest, (float piece[17], passed; uint8_t at, known;),
    for (int k = 0; k < 17 && !s->known; k++) { s->piece[k] = in; } s->known = 1;
    s->passed += dt; while (s->passed >= 0.125f) {
        s->passed -= 0.125f;
        s->at = (uint8_t)((s->at + 1) % 17);
        s->piece[s->at] = in;
    } s->piece[s->at] = fmaxf(in, s->piece[s->at]);
    out = s->piece[0]; for (int k = 1; k < 17; k++) { out = fmaxf(out, s->piece[k]); })
HAND(
    lowest, (float piece[17], passed; uint8_t at, known;),
    for (int k = 0; k < 17 && !s->known; k++) { s->piece[k] = in; } s->known = 1;
    s->passed += dt; while (s->passed >= 0.125f) {
        s->passed -= 0.125f;
        s->at = (uint8_t)((s->at + 1) % 17);
        s->piece[s->at] = in;
    } s->piece[s->at] = fminf(in, s->piece[s->at]);
    out = s->piece[0]; for (int k = 1; k < 17; k++) { out = fminf(out, s->piece[k]); })
HAND(
    average, (float ring[16], sum; uint8_t next, filled;),
    if (s->filled < 16) {
        s->filled++;
        s->sum += in;
    } else { s->sum += in - s->ring[s->next]; } s->ring[s->next] = in;
    if (++s->next == 16) {
        s->next = 0;
        s->sum = 0;
        for (int k = 0; k < 16; k++) {
            s->sum += s->ring[k];
        }
    } out = s->sum / (float)s->filled;)
HAND(table, (),
     out = in <= 312.0f    ? 0.0f
           : in >= 3020.0f ? 12.0f
           : in < 1890.0f  ? (in - 312.0f) * 6.0f / (1890.0f - 312.0f)
                           : 6.0f + (in - 1890.0f) * 6.0f / (3020.0f - 1890.0f);)
#define CHECKED(x)                  \
    out = (x);                      \
    if (!rgp_finite(out)) {         \
        out = 0.0f;                 \
        quality = RGP_OUT_OF_RANGE; \
    }
HAND(line, (), CHECKED(in * 0.0044f - 1.4f))
HAND(
    power, (),
    if (in > 0.0f) { CHECKED(10.0f * rgp_exp(-1.4f * rgp_log(in / 2000.0f))) } else { quality = RGP_OUT_OF_RANGE; })
HAND(
    divider, (), const float v = in / 4095.0f;
    if (v > 0.0f && v < 1.0f) { CHECKED(10.0f * (v / (1.0f - v))) } else { quality = RGP_OUT_OF_RANGE; })
HAND(
    beta, (), if (in > 0.0f) { CHECKED(1.0f / (1.0f / 298.15f + rgp_log(in / 2000.0f) / 3950.0f) - 273.15f) } else {
        quality = RGP_OUT_OF_RANGE;
    })
HAND(
    steinhart, (),
    if (in > 0.0f) {
        const float l = rgp_log(in);
        CHECKED(1.0f / (1.125e-3f + l * (2.347e-4f + 8.566e-8f * l * l)) - 273.15f)
    } else { quality = RGP_OUT_OF_RANGE; })
HAND(
    echo, (), const float d = 0.5f * in * 1e-6f * rgp_speed_of_sound(15.0f) * 100.0f;
    if (in > 0.0f && d >= 3.0f && d <= 400.0f) { out = d; } else { quality = RGP_MISSING; })
HAND(
    slope, (float before, lost; uint8_t known;),
    if (s->known) {
        rgp_add(&out, &s->lost, rgp_decay(dt / 0.5f) * (((in - s->before) / dt - out) - s->lost));
    } s->known = 1;
    s->before = in; CHECKED(out))
HAND(accumulate, (float rest, rate; uint8_t known;),
     const float step = 0.5f * ((s->known ? s->rate : in) + in) * dt + s->rest;
     const float sum = out + step; s->rest = step - (sum - out); s->rate = in; s->known = 1; out = sum;)
HAND(
    unwrap, (float before; int32_t turns; uint8_t known;), const float change = in - s->before;
    if (s->known && change > 180.0f) { s->turns--; } else if (s->known && change < -180.0f) {
        s->turns++;
    } s->known = 1;
    s->before = in; CHECKED(in + (float)s->turns * 360.0f))
HAND(wrap, (), out = in - 360.0f * floorf(in / 360.0f);)
HAND(deadband, (), out = in > 20.0f ? in - 20.0f : in < -20.0f ? in + 20.0f : 0.0f;)
HAND(limit, (), out = in < 100.0f ? 100.0f : in > 3000.0f ? 3000.0f : in;)

typedef struct state_hold {
    float value, left;
} state_hold;

static void hand_hold(hand_input *h)
{
    static state_hold of_hold[CHANNELS];
    for (int i = 0; i < CHANNELS; i++) {
        state_hold *s = &of_hold[i];
        h->out[i] = h->value[i];
        h->out_quality[i] = h->quality[i];
        if (USABLE(h->quality[i])) {
            s->value = h->value[i];
            s->left = 0.3f;
        } else if (s->left > 0.0f) {
            s->left -= h->dt;
            h->out[i] = s->value;
            h->out_quality[i] = s->left >= 0.0f ? (uint8_t)RGP_HELD : h->quality[i];
        }
    }
}

HAND(
    zero, (rgp_zero_state z;), const rgp_zero_config c = {0.1f, 5000, 5000, 0, 10};
    if (s->z.phase != RGP_ZERO_LEARNED) {
        rgp_zero_learn(&c, &s->z, in, quality, dt);
        quality = s->z.phase == RGP_ZERO_LEARNED ? quality : (uint8_t)RGP_LEARNING;
    } out = in - s->z.offset;)
HAND(span, (float low, high;), float share = (in - s->low) / (3000.0f + s->high - s->low); share = share < 0   ? 0
                                                                                                   : share > 1 ? 1
                                                                                                               : share;
     out = 100.0f * share;)
HAND(magnitude, (), out = in < 0.0f ? -in : in;)
HAND(root, (), CHECKED(sqrtf(in)))
HAND(
    turning, (float extreme, lowest; uint8_t way, known;), const float sign = s->way == 2 ? -1.0f : 1.0f;
    if (!s->known) {
        s->known = 1;
        s->extreme = s->lowest = in;
    } else if (!s->way) {
        s->extreme = fmaxf(s->extreme, in);
        s->lowest = fminf(s->lowest, in);
        s->way = in - s->lowest >= 20.0f ? 1 : s->extreme - in >= 20.0f ? 2 : 0;
        s->extreme = s->way ? in : s->extreme;
    } else if (sign * (in - s->extreme) > 0.0f) { s->extreme = in; } else if (sign * (s->extreme - in) >= 20.0f) {
        out = s->extreme;
        s->extreme = in;
        s->way = (uint8_t)(3 - s->way);
    })
HAND(tilt, (), const float y = h->value[(i + 1) % CHANNELS], z = h->value[(i + 2) % CHANNELS];
     quality = rgp_worst(quality, rgp_worst(h->quality[(i + 1) % CHANNELS], h->quality[(i + 2) % CHANNELS]));
     CHECKED(rgp_atan2_degrees(y, z)))
HAND(
    fuse, (float gap, lost; uint8_t known;), const float lean = h->value[(i + 1) % CHANNELS];
    quality = rgp_worst(quality, h->quality[(i + 1) % CHANNELS]); float t = dt + s->gap; s->gap = 0; if (!s->known) {
        s->known = 1;
        out = lean;
    } else {
        rgp_add(&out, &s->lost, in * t);
        rgp_add(&out, &s->lost, rgp_decay(t / 2.0f) * ((lean - out) - s->lost));
        CHECKED(out)
    })

/* `%d` and `%%d` of the stage text: this channel, and the next two; behind a = it is a whole expression. */
static const struct stage_case {
    const char *name, *unit, *stage;
    void (*hand)(hand_input *h);
    size_t bytes;
} cases[] = {
    {"none", "counts", NULL, hand_none, 0},
#define ROW(name, unit, text)                                \
    {                                                        \
#name, unit, text, hand_##name, sizeof(state_##name) \
    }
    ROW(despike, "counts", "despike 5"),
    ROW(smooth, "counts", "smooth 200 ms"),
    ROW(average, "counts", "average 16"),
    ROW(envelope, "counts", "envelope 50 ms, 500 ms"),
    ROW(rms, "counts", "rms 200 ms"),
    ROW(highest, "counts", "highest in 2 s"),
    ROW(lowest, "counts", "lowest in 2 s"),
    ROW(table, "counts", "table 312: 0 cm, 1890: 6 cm, 3020: 12 cm"),
    ROW(line, "counts", "line 0.0044 cm/counts, -1.4 cm"),
    ROW(power, "counts", "power 10 lx at 2000 counts, exponent -1.4"),
    ROW(divider, "counts", "divider 10 kohm above, full 4095"),
    ROW(beta, "ohm", "beta 3950 K, 2000 ohm at 25 degC"),
    ROW(steinhart, "ohm", "steinhart 1.125e-3, 2.347e-4, 8.566e-8"),
    ROW(echo, "us", "echo at 15 degC, near 3 cm, far 400 cm"),
    ROW(slope, "counts", "slope 500 ms"),
    ROW(accumulate, "deg/s", "accumulate"),
    ROW(unwrap, "deg", "unwrap 360 deg"),
    ROW(wrap, "deg", "wrap 360 deg"),
    ROW(deadband, "counts", "deadband 20 counts"),
    ROW(limit, "counts", "limit 100 counts, 3000 counts"),
    ROW(hold, "counts", "hold 300 ms"),
    ROW(zero, "counts", "zero over 100 ms, spread 5000 counts, drift 5000 counts"),
    ROW(span, "counts", "span over 100 ms, least 1 counts"),
    ROW(turning, "counts", "turning value 20 counts"),
    ROW(magnitude, "counts", "=abs(s%1$d)"),
    ROW(root, "m2", "=sqrt(s%1$d)"),
    ROW(tilt, "mg", "tilt roll with s%2$d, s%3$d"),
    ROW(fuse, "deg/s", "fuse with a%2$d, over 2 s"),
};

static const struct stage_case *find_case(const char *name)
{
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        if (strcmp(cases[i].name, name) == 0) {
            return &cases[i];
        }
    }
    return NULL;
}

/* Channels of the case's unit, and angles for `fuse` beside them; with or without the stage on each. */
static rgp_rig *make_rig(const struct stage_case *c, bool bare)
{
    static char text[16384];
    size_t at = (size_t)snprintf(text, sizeof text, "rig perf\ntick 20 ms\n");
    for (int i = 0; i < CHANNELS; i++) {
        at += (size_t)snprintf(text + at, sizeof text - at, "sensor s%d %s 0..4095\n", i, c->unit);
        if (strcmp(c->name, "fuse") == 0) {
            at += (size_t)snprintf(text + at, sizeof text - at, "sensor a%d deg 0..4095\n", i);
        }
    }
    for (int i = 0; !bare && i < CHANNELS; i++) {
        at += (size_t)snprintf(text + at, sizeof text - at,
                               *c->stage == '=' ? "signal d%d " : "signal d%1$d = s%1$d | ", i);
        at += (size_t)snprintf(text + at, sizeof text - at, c->stage, i, (i + 1) % CHANNELS, (i + 2) % CHANNELS);
        at += (size_t)snprintf(text + at, sizeof text - at, "\n");
    }
    rgp_rig *rig = rgp_rig_compile("perf.rig", text, at, NULL);
    if (!rig->image) {
        fputs(rgp_rig_report(rig), stderr);
        exit(1);
    }
    return rig;
}

static int32_t reading(uint32_t tick, uint32_t channel, uint32_t *chance)
{
    *chance = *chance * 1664525u + 1013904223u;
    return (int32_t)(600 + 700 * ((tick / (200 + 37 * channel) + channel) % 4) + (*chance >> 8) % 25 +
                     ((*chance >> 3) % 100 == 0 ? 900 : 0));
}

static void run_engine(const struct stage_case *c, bool bare, uint32_t ticks)
{
    rgp_rig *rig = make_rig(c, bare);
    const rgp_image_header *image = rig->image;
    void *memory = calloc(1, image->memory);
    rgp_engine engine;
    uint32_t chance = 1;
    if (rgp_engine_open(&engine, image, rig->image_size, memory, image->memory) != RGP_OK) {
        exit(1);
    }
    for (uint32_t n = 0; n < ticks; n++) {
        for (uint16_t i = 0; i < rgp_image_count(image, RGP_SECTION_SENSORS); i++) {
            const rgp_sample sample = {.raw = reading(n, i, &chance)};
            rgp_engine_sense(&engine, i, &sample);
        }
        rgp_engine_step(&engine, (uint64_t)n * 20000u);
    }
    free(memory);
    rgp_rig_free(rig);
}

static void run_hand(const struct stage_case *c, uint32_t ticks)
{
    static hand_input h;
    uint32_t chance = 1;
    h.dt = 0.02f;
    for (uint32_t n = 0; n < ticks; n++) {
        for (uint32_t i = 0; i < CHANNELS; i++) {
            h.value[i] = (float)reading(n, i, &chance);
            h.quality[i] = RGP_GOOD;
        }
        c->hand(&h);
    }
}

static void print_bytes(const struct stage_case *c)
{
    rgp_rig *with = make_rig(c, false), *without = make_rig(c, true);
    const uint32_t engine =
        ((const rgp_image_header *)with->image)->memory - ((const rgp_image_header *)without->image)->memory;
    printf("%u %zu\n", engine / CHANNELS, c->bytes + 1);
    rgp_rig_free(with);
    rgp_rig_free(without);
}

int main(int argc, char **argv)
{
    if (argc == 2 && strcmp(argv[1], "list") == 0) {
        for (size_t i = 1; i < sizeof cases / sizeof *cases; i++) {
            puts(cases[i].name);
        }
        return 0;
    }
    const struct stage_case *c = argc > 2 ? find_case(argv[2]) : NULL;
    if (!c) {
        return 2;
    }
    const uint32_t ticks = argc > 3 ? (uint32_t)strtoul(argv[3], NULL, 10) : 0;
    if (strcmp(argv[1], "bytes") == 0) {
        print_bytes(c);
    } else if (strcmp(argv[1], "hand") == 0) {
        run_hand(c, ticks);
    } else {
        run_engine(c, strcmp(argv[1], "bare") == 0, ticks);
    }
    return 0;
}
