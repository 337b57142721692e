/* The benchmark's rig, written by hand. */
#include "hand.h"

#include "rigpulse/numeric.h"

static float median_of_window(const hand_chain *c)
{
    float sorted[5];
    const int n = c->filled;
    for (int i = 0; i < n; i++) {
        const float value = c->ring[i];
        int at = i;
        while (at > 0 && sorted[at - 1] > value) {
            sorted[at] = sorted[at - 1];
            at--;
        }
        sorted[at] = value;
    }
    return sorted[(n - 1) / 2];
}

static float depth_of(float raw)
{
    if (raw <= 312.0f) {
        return 0.0f;
    }
    if (raw >= 3020.0f) {
        return 12.0f;
    }
    if (raw < 1890.0f) {
        return (raw - 312.0f) * (6.0f / (1890.0f - 312.0f));
    }
    return 6.0f + (raw - 1890.0f) * (6.0f / (3020.0f - 1890.0f));
}

static void chain_tick(hand_chain *c, const rgp_sample *sample, float dt)
{
    c->quality = sample->quality;
    if (c->quality == RGP_GOOD && (sample->raw < 0 || sample->raw > 4095)) {
        c->quality = RGP_OUT_OF_RANGE;
    }
    if (c->quality > RGP_HELD) {
        c->gap += dt;
        if (++c->missed >= 5) {
            c->filled = c->next = c->missed = 0;
        }
        return;
    }
    c->missed = 0;
    c->ring[c->next] = (float)sample->raw;
    c->next = (uint8_t)(c->next == 4 ? 0 : c->next + 1);
    c->filled = (uint8_t)(c->filled < 5 ? c->filled + 1 : 5);
    const float depth = depth_of(median_of_window(c));
    dt += c->gap;
    c->gap = 0.0f;
    if (!c->primed) {
        c->output = depth;
        c->primed = 1;
    }
    if (dt != c->last_dt) {
        c->last_dt = dt;
        c->share = rgp_decay(dt / 0.2f);
    }
    rgp_add(&c->output, &c->lost, c->share * ((depth - c->output) - c->lost));
}

static void band_tick(hand *h, int i)
{
    const hand_chain *c = &h->chain[i];
    if (c->quality > RGP_HELD) {
        return;
    }
    const float value = c->output, margin = h->known[i] ? 0.4f : 0.0f;
    int band = h->band[i];
    h->known[i] = 1;
    if (band == 0 && value >= 3.0f + margin) {
        band = 1;
    }
    if (band == 1 && value > 9.0f) {
        band = 2;
    }
    if (band == 2 && value <= 9.0f - margin) {
        band = 1;
    }
    if (band == 1 && value < 3.0f) {
        band = 0;
    }
    h->band[i] = (uint8_t)band;
}

static void rule_tick(hand *h, int i, uint64_t now_us)
{
    hand_rule *r = &h->rule[i];
    if (h->chain[i].quality <= RGP_HELD && h->band[i] == 0 && now_us >= r->ready_at) {
        r->acts_until = now_us + 2000000u;
        r->ready_at = r->acts_until + 3000000u;
    }
    h->output[i] = now_us < r->acts_until ? 80.0f : 0.0f;
}

static bool in_range(const rgp_sample *sample)
{
    return sample->quality == RGP_GOOD && sample->raw >= -2000 && sample->raw <= 2000;
}

/* The tilt from gravity, and a complementary filter of 2 s with the turning rate. */
static void angle_tick(hand *h, const rgp_sample *axis, float dt)
{
    if (!in_range(&axis[0]) || !in_range(&axis[1]) || !in_range(&axis[2]) || !in_range(&axis[3])) {
        h->angle_gap += dt;
        return;
    }
    dt += h->angle_gap;
    h->angle_gap = 0.0f;
    const float y = (float)axis[2].raw, z = (float)axis[3].raw;
    if (y == 0.0f && z == 0.0f) {
        h->angle_gap = dt;
        return;
    }
    const float lean = rgp_atan2_degrees(y, z);
    if (!h->angled) {
        h->angled = 1;
        h->angle = lean;
        return;
    }
    rgp_add(&h->angle, &h->angle_lost, (float)axis[0].raw * 0.1f * dt);
    rgp_add(&h->angle, &h->angle_lost, rgp_decay(dt / 2.0f) * ((lean - h->angle) - h->angle_lost));
}

/* Drives for a second, rests, and awaits a depth above 5 cm for at most three seconds; again and again. */
static void sequence_tick(hand *h, int i, uint64_t now_us)
{
    hand_sequence *s = &h->sequence[i];
    const hand_chain *c = &h->chain[SETS + i];
    if (c->quality <= RGP_HELD) {
        h->awaited[i] = c->output > (h->awaited[i] ? 4.6f : 5.0f);
    }
    if (!s->runs) {
        s->runs = 1;
        s->since = now_us;
        s->step = 0;
    }
    if (s->step == 0) {
        h->output[SETS + i] = 30.0f;
        s->step = 1;
        s->since = now_us;
    }
    if (s->step == 1 && now_us - s->since >= 1000000u) {
        h->output[SETS + i] = 0.0f;
        s->step = 2;
        s->since = now_us;
    } else if (s->step == 2) {
        const bool there = h->awaited[i] && c->quality <= RGP_HELD;
        if (there || now_us - s->since >= 3000000u) {
            h->output[SETS + i] = 30.0f;
            s->step = 1;
            s->since = now_us;
        }
    }
}

#define KP     8.0f
#define KI     2.0f
#define KD     1.0f
#define FILTER 0.1f

/* P, I without windup and with compensated summation, D behind a filter, at any dt. */
float hand_pid(hand_loop *l, float measured, uint8_t quality, float driven, float dt)
{
    if (quality > RGP_HELD) {
        return l->output;
    }
    const float error = 6.0f - measured;
    if (!l->primed) {
        l->primed = 1;
        l->before = -measured;
        l->asked = driven;
    }
    if (dt != l->share_dt) {
        l->share_dt = dt;
        l->share = rgp_decay(dt / FILTER);
    }
    l->slope += l->share * ((-measured - l->before) / dt - l->slope);
    l->before = -measured;
    l->error = error;
    l->p = KP * error;
    l->d = KD * l->slope;
    const float others = l->p + l->d, short_by = l->asked - driven;
    float growth = KI * error * dt;
    l->saturated = short_by > 1e-3f || short_by < -1e-3f;
    if (l->saturated && ((growth > 0.0f && short_by > 0.0f) || (growth < 0.0f && short_by < 0.0f))) {
        growth = 0.0f;
    }
    const float add = growth - l->lost, sum = l->i + add;
    l->lost = (sum - l->i) - add;
    l->i = sum;
    l->asked = others + l->i;
    if (l->asked < 0.0f || l->asked > 100.0f) {
        l->output = l->asked < 0.0f ? 0.0f : 100.0f;
        const float beyond = l->asked - l->output;
        if (beyond > 0.0f ? growth > 0.0f : growth < 0.0f) {
            l->i -= (beyond > 0.0f ? growth > beyond : growth < beyond) ? beyond : growth;
            l->lost = 0.0f;
            l->asked = others + l->i;
        }
        l->saturated = true;
        return l->output;
    }
    l->output = l->asked;
    return l->output;
}

/* With what a loop has around it: it begins with a good reading, bridges bad ones, and cuts out. */
static void loop_tick(hand *h, int i, float dt)
{
    hand_loop *l = &h->loop[i];
    const hand_chain *c = &h->chain[SETS + SEQUENCES + i];
    float *const output = &h->output[SETS + SEQUENCES + i];
    if (c->quality > RGP_HELD) {
        l->bad_for += dt;
        if (!l->engaged || l->bad_for > 0.2f) {
            l->out = l->engaged;
            *output = 0.0f;
        }
        return;
    }
    l->bad_for = 0.0f;
    if (!l->out) {
        l->engaged = 1;
        *output = hand_pid(l, c->output, c->quality, *output, dt);
    }
}

void hand_tick(hand *h, uint64_t now_us, const rgp_sample *sample)
{
    const uint64_t passed = h->started ? now_us - h->last_us : 20000u;
    h->started = 1;
    h->last_us = now_us;
    if (passed == 0) {
        return;
    }
    const float dt = rgp_seconds(passed);
    for (int i = 0; i < CHAINS; i++) {
        chain_tick(&h->chain[i], &sample[i], dt);
    }
    angle_tick(h, sample + CHAINS, dt);
    for (int i = 0; i < SEQUENCES; i++) {
        sequence_tick(h, i, now_us);
    }
    for (int i = 0; i < h->loops; i++) {
        loop_tick(h, i, dt);
    }
    for (int i = 0; i < SETS; i++) {
        band_tick(h, i);
        rule_tick(h, i, now_us);
    }
}
