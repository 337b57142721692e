/* scan (extreme of a sweep and its place): the check of its settings, its reset, and the shape of a pass. */
#include "rigpulse/detect/scan.h"

#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

#define BACK           0.125f /* of its way, by which a pass is over */
#define PARTIAL_PASSES 4u     /* after so many in a row their stretch is the one that is swept */

const char *rgp_scan_fault(const rgp_scan_config *c)
{
    return RGP_FAULT_OF(scan);
}

rgp_status rgp_scan_check(const rgp_scan_config *config)
{
    return rgp_scan_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_scan_reset(rgp_scan_state *state)
{
    state->kept = state->phase = state->passes = 0;
    state->stride = 0;
    state->known = state->found = state->partial = 0;
    state->low = state->high = 0.0f;
    state->result = 0.0f;
}

/* The size without its sign. */
static float size_of(float x)
{
    return x < 0.0f ? -x : x;
}

/* A pass that is longer than there is room for is thinned out evenly: every second reading goes, and from then on every
 * second one stays away, so that what is kept always has one spacing. */
static void keep_half(rgp_scan_state *s)
{
    for (uint32_t i = 0; i < RGP_SCAN_KEPT / 2; i++) {
        s->value[i] = s->value[2 * i];
        s->place[i] = s->place[2 * i];
    }
    s->kept = RGP_SCAN_KEPT / 2;
    s->stride = s->stride > 0 ? 2 * s->stride : 2u;
}

/* The first of every `stride` readings is kept. */
static void keep(rgp_scan_state *s, float value, float place)
{
    if (s->phase++ % (s->stride > 0 ? s->stride : 1u) != 0) {
        return;
    }
    if (s->kept == RGP_SCAN_KEPT) {
        keep_half(s);
    }
    s->value[s->kept] = value;
    s->place[s->kept++] = place;
}

/* Of equal readings the earliest is the best. The stretch around it ends at the first reading that is farther off than
 * `within`, so a second dip elsewhere does not count. */
static float result_of(const rgp_scan_config *config, const rgp_scan_state *s)
{
    uint32_t best = 0;
    for (uint32_t i = 1; i < s->kept; i++) {
        best = (config->strongest ? s->value[i] > s->value[best] : s->value[i] < s->value[best]) ? i : best;
    }
    uint32_t first = best, last = best;
    while (first > 0 && size_of(s->value[first - 1] - s->value[best]) <= config->within) {
        first--;
    }
    while (last + 1 < s->kept && size_of(s->value[last + 1] - s->value[best]) <= config->within) {
        last++;
    }
    switch (config->give) {
    case RGP_SCAN_PLACE:
        return 0.5f * (s->place[first] + s->place[last]);
    case RGP_SCAN_EXTENT:
        return size_of(s->place[last] - s->place[first]);
    default:
        return s->value[best];
    }
}

/* True when the pass that is over went through the stretch of the one before it, or when that has become another. */
static bool goes_through(rgp_scan_state *s)
{
    const float low = s->begun < s->far ? s->begun : s->far, high = s->begun < s->far ? s->far : s->begun;
    const float room = BACK * (s->high - s->low);
    const bool whole = s->passes == 0 || (low <= s->low + room && high >= s->high - room);
    if (!whole && ++s->partial < PARTIAL_PASSES) {
        return false;
    }
    s->partial = 0;
    s->low = low;
    s->high = high;
    return true;
}

/* The next pass begins where this one was farthest; what came on the way back, up to BACK of the way, belongs to
 * neither. */
static void end_pass(const rgp_scan_config *config, rgp_scan_state *s, float place)
{
    const bool whole = goes_through(s);
    if (whole && s->passes >= config->skip) {
        s->found = s->kept > 0;
        s->result = s->found ? result_of(config, s) : 0.0f;
    }
    s->passes += whole && s->passes < 1000;
    s->kept = s->phase = 0;
    s->stride = 0;
    s->begun = s->far;
    s->far = place;
}

/* A pass is over when the place has come back by BACK of its way: less is a wobble. */
static void move(const rgp_scan_config *config, rgp_scan_state *s, float place)
{
    if (!s->known) {
        s->known = 1;
        s->begun = s->far = place;
        return;
    }
    const float way = s->far - s->begun, back = s->far - place;
    if (way == 0.0f || back * way < 0.0f) { /* on, or for the first time */
        s->far = place;
    } else if (size_of(back) > BACK * size_of(way)) {
        end_pass(config, s, place);
    }
}

rgp_reading rgp_scan_step(const rgp_scan_config *config, rgp_scan_state *s, rgp_reading in, rgp_reading place, float dt)
{
    if (rgp_usable(place.quality) && dt > 0.0f) {
        move(config, s, place.value);
        if (rgp_usable(in.quality)) {
            keep(s, in.value, place.value);
        }
    }
    if (s->passes <= config->skip) {
        return (rgp_reading){0.0f, RGP_LEARNING};
    }
    return (rgp_reading){s->result, !s->found ? RGP_MISSING : s->partial ? RGP_HELD : RGP_GOOD};
}
