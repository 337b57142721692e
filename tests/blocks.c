/* Helpers for tests of blocks: rows of readings that go in, and of what has to come out. */
#include "blocks.h"

#include <math.h>
#include <string.h>

void run_cases(const sequence_case *cases, size_t count, step_one *step, double tolerance)
{
    for (size_t i = 0; i < count; i++) {
        const sequence_case *c = &cases[i];
        union {
            double align;
            unsigned char bytes[512];
        } state;
        memset(&state, 0xA5, sizeof state);
        step(c, &state, rgp_good(0.0f), true);
        for (int k = 0; k < ROW && !isnan(c->in[k]); k++) {
            const bool bad = c->in[k] == BAD;
            const rgp_reading r =
                step(c, &state, (rgp_reading){bad ? 777.0f : c->in[k], bad ? RGP_LATE : RGP_GOOD}, false);
            if (!(fabs((double)r.value - (double)c->out[k]) <= tolerance) || r.quality != (bad ? RGP_LATE : RGP_GOOD)) {
                fail_msg("%s: step %d gives %.9g, not %.9g (%s)", c->what, k, (double)r.value, (double)c->out[k],
                         rgp_quality_text(r.quality));
            }
        }
    }
}
