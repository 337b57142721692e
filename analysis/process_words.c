/* Reasons for which a model is not to be built on, in words. */
#include "process.h"

#include <glib.h>
#include <math.h>

#define FIT_LEAST  80.0 /* percent; a model that fits less is called bad */
#define NOISES     6.0  /* that the answer has to move at least */
#define WIDE_GAIN  0.3  /* of the gain: half the width of its interval from which on it is not known */
#define WIDE_LAG   0.5  /* likewise of the logarithm of the lag */
#define LAG_TICKS  3.0  /* a lag that is shorter is too fast for the tick */
#define LOAD_SHARE 0.5  /* of the weight: from there on a load that walks is what was seen */

static bool has_gain(const rgp_process *p)
{
    return (p->gain.high - p->gain.low) / 2.0 <= WIDE_GAIN * fabs(p->gain.value);
}

static bool has_lag(const rgp_process *p)
{
    return p->kind == RGP_PROCESS_INTEGRAL || log(p->lag.high / p->lag.low) / 2.0 <= WIDE_LAG;
}

bool rgp_process_is_known(const rgp_process *p)
{
    return has_gain(p) && has_lag(p);
}

GPtrArray *rgp_process_doubts(const rgp_process *p, double step)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    if (p->fit < FIT_LEAST) {
        g_ptr_array_add(all,
                        g_strdup_printf("it is a bad model: it leaves %.0f %% of what moved unexplained; is there a "
                                        "friction, a play, spikes, or something else that drives?",
                                        100.0 - p->fit));
    }
    if (p->excursion < NOISES * p->noise) {
        g_ptr_array_add(all,
                        g_strdup_printf("the answer moved by %.2g noises of a reading, at least %g are needed: let it "
                                        "go farther (--size)",
                                        p->excursion / fmax(p->noise, 1e-300), NOISES));
    }
    if (!has_gain(p)) {
        g_ptr_array_add(all, g_strdup("the gain is not known to a third: record for longer, or let it go farther"));
    }
    if (!has_lag(p)) {
        g_ptr_array_add(all,
                        g_strdup("the lag is not known to a half: hold each piece of the test for longer (--each)"));
    }
    if (p->kind != RGP_PROCESS_INTEGRAL && p->lag.value < LAG_TICKS * step) {
        g_ptr_array_add(
            all, g_strdup_printf("the lag is shorter than three steps of the loop, one each %g ms: too fast for it",
                                 1e3 * step));
    }
    if (p->load > LOAD_SHARE) {
        g_ptr_array_add(all,
                        g_strdup("a load that wanders is in it, so its intervals are too narrow: take pulses to and "
                                 "fro, and several of them (--times)"));
    }
    if (p->may_fall) {
        g_ptr_array_add(all, g_strdup("without its loop it may fall, which would explain far more of this: push it "
                                      "well about while the loop holds it (--test held)"));
    }
    return all;
}
