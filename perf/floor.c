/* The rig of the benchmark by hand, without anything that it does not need. */
#include "floor.h"

#include <math.h>

#define DT      0.02f
#define SMOOTH  0.0951626f  /* 1 - exp(-DT / 200 ms) */
#define FUSE    0.00995017f /* 1 - exp(-DT / 2 s) */
#define FILTER  0.18126925f /* 1 - exp(-DT / 100 ms) */
#define DEGREES 57.29577951f

static inline float least(float a, float b)
{
    return a < b ? a : b;
}

static inline float most(float a, float b)
{
    return a > b ? a : b;
}

/* Of five, by seven comparisons that are no branches (a network of Devillard, 1998). */
static inline float median(float a, float b, float c, float d, float e)
{
    const float low = most(least(a, b), least(d, e)), high = least(most(a, b), most(d, e));
    const float lesser = least(low, high), greater = most(low, high);
    return most(lesser, least(greater, c));
}

static inline float depth_of(float raw)
{
    const float first = (raw - 312.0f) * (6.0f / 1578.0f), second = 6.0f + (raw - 1890.0f) * (6.0f / 1130.0f);
    return least(most(raw < 1890.0f ? first : second, 0.0f), 12.0f);
}

static void read_all(floor_rig *f, const rgp_port *port)
{
    for (uint16_t i = 0; i < READINGS; i++) {
        rgp_sample sample;
        if (port->read(port->self, i, &sample) == RGP_OK && sample.quality == RGP_GOOD) {
            f->raw[i] = (float)sample.raw;
        }
    }
}

static void chains(floor_rig *f)
{
    for (int i = 0; i < CHAINS; i++) {
        floor_chain *c = &f->chain[i];
        c->ring[f->next] = f->raw[i];
        const float *r = c->ring;
        c->output += SMOOTH * (depth_of(median(r[0], r[1], r[2], r[3], r[4])) - c->output);
        f->depth[i] = c->output;
    }
}

static void chains_side_by_side(floor_rig *f)
{
    float(*r)[CHAINS] = f->lane_ring;
    for (int i = 0; i < CHAINS; i++) {
        r[f->next][i] = f->raw[i];
    }
    for (int i = 0; i < CHAINS; i++) {
        const float depth = depth_of(median(r[0][i], r[1][i], r[2][i], r[3][i], r[4][i]));
        f->depth[i] += SMOOTH * (depth - f->depth[i]);
    }
}

static void sets(floor_rig *f, uint64_t now_us)
{
    for (int i = 0; i < SETS; i++) {
        floor_set *s = &f->set[i];
        const float depth = f->depth[i];
        s->band = depth < (s->band == 0 ? 3.4f : 3.0f) ? 0 : depth > (s->band == 2 ? 8.6f : 9.0f) ? 2 : 1;
        if (s->band == 0 && now_us >= s->ready_at) {
            s->acts_until = now_us + 2000000u;
            s->ready_at = s->acts_until + 3000000u;
        }
        f->output[i] = now_us < s->acts_until ? 80.0f : 0.0f;
    }
}

static void sequences(floor_rig *f, uint64_t now_us)
{
    for (int i = 0; i < SEQUENCES; i++) {
        floor_sequence *s = &f->sequence[i];
        s->awaited = f->depth[SETS + i] > (s->awaited ? 4.6f : 5.0f);
        const bool over = s->step == 0 ? now_us - s->since >= 1000000u : s->awaited || now_us - s->since >= 3000000u;
        if (over) {
            s->step ^= 1;
            s->since = now_us;
        }
        f->output[SETS + i] = s->step == 0 ? 30.0f : 0.0f;
    }
}

static void loops(floor_rig *f)
{
    for (int i = 0; i < f->loops; i++) {
        floor_loop *l = &f->loop[i];
        const float measured = f->depth[SETS + SEQUENCES + i], error = 6.0f - measured;
        l->slope += FILTER * ((l->before - measured) / DT - l->slope);
        l->before = measured;
        const float others = 8.0f * error + l->slope, sum = others + l->i + 2.0f * DT * error;
        const float output = least(most(sum, 0.0f), 100.0f);
        l->i = output - others; /* by the limits, without windup */
        f->output[SETS + SEQUENCES + i] = output;
    }
}

static void angle(floor_rig *f)
{
    const float *axis = &f->raw[CHAINS];
    const float lean = atan2f(axis[2], axis[3]) * DEGREES, turned = f->angle + axis[0] * 0.1f * DT;
    f->angle = turned + FUSE * (lean - turned);
}

static void write_all(floor_rig *f, const rgp_port *port)
{
    for (uint16_t i = 0; i < SETS + SEQUENCES + f->loops; i++) {
        port->write(port->self, i, f->output[i]);
    }
}

static void tick(floor_rig *f, const rgp_port *port, bool lanes)
{
    const uint64_t now_us = port->now(port->self);
    read_all(f, port);
    if (lanes) {
        chains_side_by_side(f);
    } else {
        chains(f);
    }
    f->next = f->next == WINDOW - 1 ? 0 : f->next + 1;
    sets(f, now_us);
    sequences(f, now_us);
    loops(f);
    angle(f);
    write_all(f, port);
}

void floor_tick(floor_rig *f, const rgp_port *port)
{
    tick(f, port, false);
}

void floor_tick_lanes(floor_rig *f, const rgp_port *port)
{
    tick(f, port, true);
}
