/* A loop that moves its output step by step. */
#include "loop_nudge.h"

#include "explain/describe.h"

#include <math.h>

#define LEAST_ROWS 40u
#define HUNTS      4u  /* turns in the second half */
#define FEW_STEPS  12u /* from turn to turn: it is the loop that turns it, and nothing from outside */
#define SLOW       0.4 /* of its time beyond the tolerance */
#define LESS       0.5
#define MORE       1.4

static double error_at(const rgp_response_row *r)
{
    return r->target - r->measured;
}

char *rgp_nudge_advice(const rgp_nudged *of, GString *to)
{
    size_t turns = 0, beyond = 0, usable = 0, steps = 0;
    double side = 0.0, most = 0.0;
    for (size_t i = of->rows / 2; i < of->rows; i++) {
        const rgp_response_row *r = &of->row[i];
        steps += i > of->rows / 2 && r->output != of->row[i - 1].output;
        if (!r->usable) {
            continue;
        }
        const bool out = fabs(error_at(r)) > of->tolerance;
        usable++;
        beyond += out;
        most = fmax(most, fabs(error_at(r)));
        if (out) {
            turns += side * error_at(r) < 0.0;
            side = error_at(r) > 0.0 ? 1.0 : -1.0;
        }
    }
    if (usable < LEAST_ROWS / 2) {
        g_string_append(to, "it is too short: forty steps of the loop are needed");
        return NULL;
    }
    const bool hunts = turns >= HUNTS && steps < FEW_STEPS * turns,
               slow = !hunts && (double)beyond > SLOW * (double)usable;
    if (hunts) {
        g_string_append_printf(
            to,
            "it hunts: its steps come faster than it answers, so it goes beyond its tolerance %zu times, by up to "
            "%s%s%s",
            turns, rgp_digits(most, 2).text, *of->unit ? " " : "", of->unit);
    } else if (slow) {
        g_string_append_printf(to, "it comes slowly: for %.0f %% of the time it is beyond its tolerance",
                               100.0 * (double)beyond / (double)usable);
    } else {
        g_string_append(to, "healthy: it stays about its tolerance");
    }
    return hunts || slow ? g_strdup_printf("stride %.3g", (hunts ? LESS : MORE) * of->stride) : NULL;
}
