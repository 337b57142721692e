/* Operations of one run that go four by four (core/lanes/lanes.h). */
#include "emit.h"

#include "lanes/lanes.h"

static bool goes(const operation *o)
{
    return o->way == RGP_WAY_PLAIN && rgp_op_goes_by_lanes(o->op, o->config);
}

static bool is_row(operation *const *four)
{
    bool row = true;
    for (uint32_t k = 1; k < RGP_LANES; k++) {
        row &= four[k]->in[0] == four[0]->in[0] + k && four[k]->out[0] == four[0]->out[0] + k;
    }
    return row;
}

/* Fours that lie in a row as they stand; of the others as many as make fours. */
static void divide(operation **run, uint32_t count)
{
    uint32_t others = 0;
    for (uint32_t n = 0; n < count;) {
        const bool row = count - n >= RGP_LANES && is_row(run + n);
        for (uint32_t k = 0; row && k < RGP_LANES; k++) {
            run[n + k]->way = RGP_WAY_ROWS;
        }
        others += !row;
        n += row ? RGP_LANES : 1u;
    }
    uint32_t left = others - others % RGP_LANES;
    for (uint32_t n = 0; left > 0; n++) {
        if (run[n]->way == RGP_WAY_PLAIN) {
            run[n]->way = RGP_WAY_LANES;
            left--;
        }
    }
}

void emit_find_lanes(emitter *e)
{
    for (unsigned i = 0, end; i < e->operations; i = end) {
        end = i + 1;
        while (end < e->operations && emit_same_run(e->operation[end], e->operation[i])) {
            end++;
        }
        if (end - i >= RGP_LANES && goes(e->operation[i])) {
            divide(e->operation + i, end - i);
        }
    }
}
