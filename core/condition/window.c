/* A moving window of time in pieces. */
#include "rigpulse/condition/window.h"

#include "rigpulse/numeric.h"

#define PLACES (RGP_WINDOW_PIECES + 1u)

/* The pieces that have begun since the last step hold nothing but this reading. */
static void move_on(rgp_window_state *s, uint64_t piece_us, uint64_t passed_us, float value)
{
    s->in_us += passed_us;
    const uint64_t begun = s->in_us / piece_us;
    s->in_us -= begun * piece_us;
    for (uint64_t i = 0; i < begun && i < PLACES; i++) {
        s->at = (s->at + 1u) % PLACES;
        s->extreme[s->at] = value;
    }
}

static float beyond(float a, float b, float sign)
{
    return sign * a > sign * b ? a : b;
}

rgp_reading rgp_window_step(rgp_window_state *s, float time, rgp_reading in, float dt, float sign)
{
    const uint64_t passed_us = rgp_microseconds(dt);
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        s->gap_us += passed_us;
        return rgp_reading_of(s->known ? s->output : in.value, in.quality);
    }
    const uint64_t piece_us = rgp_microseconds(time / (float)RGP_WINDOW_PIECES);
    if (!s->known) {
        s->known = 1;
        for (uint32_t i = 0; i < PLACES; i++) {
            s->extreme[i] = in.value;
        }
    } else {
        move_on(s, piece_us > 0 ? piece_us : 1u, passed_us + s->gap_us, in.value);
    }
    s->gap_us = 0;
    s->extreme[s->at] = beyond(in.value, s->extreme[s->at], sign);
    s->output = s->extreme[0];
    for (uint32_t i = 1; i < PLACES; i++) {
        s->output = beyond(s->extreme[i], s->output, sign);
    }
    return rgp_reading_of(s->output, in.quality);
}
