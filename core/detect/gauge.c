/* Gauges of a switch (pulse width, gap, interval, rate, count, duty): the check of its settings, its reset, and what
 * survives. */
#include "rigpulse/detect/gauge.h"

#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

#define HALF_PI 1.57079633f

const char *rgp_gauge_fault(const rgp_gauge_config *c)
{
    return RGP_FAULT_OF(gauge);
}

rgp_status rgp_gauge_check(const rgp_gauge_config *config)
{
    return rgp_gauge_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_gauge_reset(rgp_gauge_state *state)
{
    *state = (rgp_gauge_state){0};
}

/* The sine from 0 to a right angle: the series of Taylor to the ninth power, wrong by 4e-6 at most. */
static float sine(float x)
{
    const float q = x * x;
    return x * (1.0f - q / 6.0f * (1.0f - q / 20.0f * (1.0f - q / 42.0f * (1.0f - q / 72.0f))));
}

/* It stands until the next one. */
static void measure(rgp_gauge_state *s, float value)
{
    s->measure = value;
    s->measured = 1;
}

/* The two half-periods between the last three mid-times: of a pendulum that swings through the middle of the gate they
 * are equal. */
static void measure_halves(const rgp_gauge_config *config, rgp_gauge_state *s)
{
    const uint64_t later = s->mid_us[0] - s->mid_us[1], earlier = s->mid_us[1] - s->mid_us[2];
    const float difference = rgp_seconds(later > earlier ? later - earlier : earlier - later);
    if (config->what == RGP_GAUGE_UNEVEN) {
        measure(s, difference);
    } else if (config->what == RGP_GAUGE_OFFCENTRE) {
        measure(s, 100.0f * sine(HALF_PI * difference / rgp_seconds(later + earlier)));
    }
}

/* Times are those of the change, not of the step that has found it. */
static void begin_interval(const rgp_gauge_config *config, rgp_gauge_state *s, uint64_t at_us)
{
    if (config->what == RGP_GAUGE_GAP && s->fell) {
        measure(s, rgp_seconds(at_us - s->fell_us));
    }
    s->count++;
    if (s->seen == 0 || s->seen == config->every) {
        if (config->what == RGP_GAUGE_INTERVAL && s->seen == config->every) {
            measure(s, rgp_seconds(at_us - s->interval_us));
        }
        s->interval_us = at_us;
        s->seen = 0;
    }
    s->seen++;
    s->rose_us[1] = s->rose_us[0];
    s->rose_us[0] = at_us;
    s->rises = s->rises < 2 ? (uint8_t)(s->rises + 1) : 2;
}

/* An end without a beginning, as at the start, measures nothing. */
static void end_interval(const rgp_gauge_config *config, rgp_gauge_state *s, uint64_t at_us)
{
    s->fell_us = at_us;
    s->fell = 1;
    if (!s->rises) {
        return;
    }
    if (config->what == RGP_GAUGE_WIDTH) {
        measure(s, rgp_seconds(at_us - s->rose_us[0]));
    }
    s->mid_us[2] = s->mid_us[1];
    s->mid_us[1] = s->mid_us[0];
    s->mid_us[0] = s->rose_us[0] + (at_us - s->rose_us[0]) / 2;
    s->mids = s->mids < 3 ? (uint8_t)(s->mids + 1) : 3;
    if (s->mids == 3) {
        measure_halves(config, s);
    }
}

/* A change that counts. */
static void change(const rgp_gauge_config *config, rgp_gauge_state *s, uint64_t at_us, bool rising)
{
    s->is = rising;
    if (rising) {
        begin_interval(config, s, at_us);
    } else {
        end_interval(config, s, at_us);
    }
}

/* A change that has lasted long enough by now counts; of a short blockage neither end does. */
static void settle(const rgp_gauge_config *config, rgp_gauge_state *s, uint64_t now_us)
{
    if (s->waits && now_us - s->waits_since_us >= rgp_microseconds(config->least)) {
        s->waits = 0;
        change(config, s, s->waits_since_us, !s->is);
    }
}

/* Edges come in the order of their times. A change back within `least` takes the waiting one with it. An event while it
 * is true is a beginning without an end: events have none. */
static void take_edge(const rgp_gauge_config *config, rgp_gauge_state *s, const rgp_port_edge *edge)
{
    const bool event = s->is && edge->rising && !s->waits;
    settle(config, s, edge->time_us);
    if (config->least <= 0.0f || event) {
        change(config, s, edge->time_us, edge->rising != 0);
    } else if (s->waits) {
        s->waits = 0;
    } else if (s->is != (edge->rising != 0)) {
        s->waits = 1;
        s->waits_since_us = edge->time_us;
    }
}

/* Whatever a change that was missed would have ended. */
static void forget(rgp_gauge_state *s)
{
    s->waits = s->rises = s->mids = s->fell = s->began = 0;
    s->seen = 0;
}

/* Of changes that were lost half were beginnings. */
static uint32_t counted(const rgp_gauge_state *s)
{
    return s->count + s->lost / 2;
}

/* From the last interval, but no more than the time since the last beginning allows: a wheel that stops slows down in
 * the reading, too. An interval of 0 counts as 1 us. */
static float rate(const rgp_gauge_config *config, const rgp_gauge_state *s, uint64_t now_us)
{
    const uint64_t since = now_us > s->rose_us[0] ? now_us - s->rose_us[0] : 0;
    if (s->rises < 2 || since >= rgp_microseconds(config->window)) {
        return 0.0f;
    }
    const uint64_t last = s->rose_us[0] - s->rose_us[1];
    return 1.0f / rgp_seconds(since > last ? since : last > 0 ? last : 1);
}

/* The time in which it was true is added up from step to step and from change to change. */
static void add_on(rgp_gauge_state *s, uint64_t to_us)
{
    s->on_us += s->is && to_us > s->looked_us ? to_us - s->looked_us : 0;
    s->looked_us = to_us > s->looked_us ? to_us : s->looked_us;
}

/* Windows follow one another without a gap; one that ends between two steps ends with the step, and its share is of its
 * real length. */
static void close_window(const rgp_gauge_config *config, rgp_gauge_state *s, uint64_t now_us)
{
    const uint64_t window = rgp_microseconds(config->window);
    if (!s->began) {
        s->window_us = s->looked_us = now_us;
        s->on_us = 0;
    }
    add_on(s, now_us);
    if (now_us - s->window_us >= window) {
        measure(s, 100.0f * rgp_seconds(s->on_us) / rgp_seconds(now_us - s->window_us));
        s->window_us = now_us;
        s->on_us = 0;
    }
}

rgp_reading rgp_gauge_step(const rgp_gauge_config *config, rgp_gauge_state *s, const rgp_edges *in, float dt)
{
    const rgp_quality quality = in->now.quality;
    if (!rgp_usable(quality)) {
        s->doubtful = 1;
    } else if (dt > 0.0f) {
        const bool doubtful = s->doubtful || in->lost > 0;
        s->lost += in->lost;
        if (doubtful) {
            forget(s);
        }
        if (!s->began && in->count == 0 && !config->event) {
            s->is = in->now.value != 0.0f;
        }
        for (uint32_t i = 0; i < in->count; i++) {
            add_on(s, in->edge[i].time_us);
            take_edge(config, s, &in->edge[i]);
        }
        if (doubtful) { /* what changed meanwhile has counted; when it did is not known */
            forget(s);
            s->is = config->event ? 0 : in->now.value != 0.0f;
            s->doubtful = 0;
        }
        settle(config, s, in->now_us);
        if (config->what == RGP_GAUGE_DUTY) {
            close_window(config, s, in->now_us);
        }
        s->began = 1;
    }
    switch (config->what) {
    case RGP_GAUGE_COUNT:
        return (rgp_reading){(float)counted(s), quality};
    case RGP_GAUGE_RATE:
        return rgp_number(rate(config, s, in->now_us), quality);
    case RGP_GAUGE_SINCE:
        return s->rises ? (rgp_reading){rgp_seconds(in->now_us - s->rose_us[0]), quality}
                        : (rgp_reading){0.0f, rgp_worst(quality, RGP_LEARNING)};
    default:
        return (rgp_reading){s->measure, s->measured ? quality : rgp_worst(quality, RGP_LEARNING)};
    }
}

bool rgp_gauge_retain(const rgp_gauge_state *state, rgp_retained *kept)
{
    *kept = (rgp_retained){.count = state->count + state->lost / 2};
    return kept->count > 0;
}

bool rgp_gauge_restore(rgp_gauge_state *state, const rgp_retained *kept)
{
    state->count = kept->count;
    state->lost = 0;
    return true;
}
