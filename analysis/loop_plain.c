/* Advice on a loop that has no gains. */
#include "loop_plain.h"

#include "loop_nudge.h"
#include "loop_pieces.h"
#include "loop_switched.h"

#include "explain/disassembly.h"
#include "rigpulse/image.h"
#include "rigpulse/regulate/loops.h"

/* The newest of a long stretch: more would only be read for longer. */
#define ROWS_MOST 1000000u

typedef struct stretch {
    uint64_t from, to;
} stretch;

/* The longest in which the loop drove all the time. */
static stretch longest_of(const rgp_history *h, const rgp_image_loop *l, uint64_t from, uint64_t to)
{
    const uint32_t owner = rgp_history_owner(h, l->actuator);
    stretch best = {from, from};
    uint64_t since = from;
    for (uint64_t row = from; row < to; row++) {
        since = rgp_history_value(h, owner, row) == (float)l->claim ? since : row + 1;
        best = row + 1 > since && row + 1 - since > best.to - best.from ? (stretch){since, row + 1} : best;
    }
    best.from = MAX(best.from, best.to - MIN(best.to, ROWS_MOST));
    return best;
}

/* `scale`: of its first gain, to that in which it is written. */
static void tell(const rgp_decoded *step, const GArray *rows, float scale, const char *unit, rgp_plain_advice *to)
{
    const rgp_response_row *row = (const rgp_response_row *)(const void *)rows->data;
    if (step->op == RGP_OP_NUDGE) {
        const rgp_nudge_config *is = &((const rgp_nudge_loop_config *)rgp_decoded_config(step))->nudge;
        const rgp_nudged of = {row, rows->len, (double)(is->step / scale), (double)is->within, unit};
        to->next = rgp_nudge_advice(&of, to->says);
    } else {
        const rgp_switched of = {row, rows->len, &((const rgp_onoff_loop_config *)rgp_decoded_config(step))->onoff,
                                 unit};
        to->remedy = rgp_switched_advice(&of, to->says);
    }
}

const rgp_onoff_config *rgp_loop_onoff(const rgp_image_header *image, uint32_t loop)
{
    rgp_decoded step;
    return rgp_disassembly_writer(image, rgp_image_loop_at(image, loop)->first, UINT32_MAX, &step) &&
                   step.op == RGP_OP_ONOFF
               ? &((const rgp_onoff_loop_config *)step.config)->onoff
               : NULL;
}

bool rgp_plain_advice_of(rgp_history *h, uint32_t loop, uint64_t from, uint64_t to, rgp_plain_advice *advice)
{
    const rgp_image_header *image = rgp_history_image(h);
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    rgp_decoded step;
    *advice = (rgp_plain_advice){.says = NULL};
    if (!rgp_disassembly_writer(image, l->first, UINT32_MAX, &step) ||
        (step.op != RGP_OP_NUDGE && step.op != RGP_OP_ONOFF) || rgp_history_slot(h, l->first + RGP_TERM_TARGET) < 0 ||
        rgp_history_slot(h, l->first + RGP_TERM_ERROR) < 0) {
        return false;
    }
    const stretch s = longest_of(h, l, MAX(from, rgp_history_first(h)), MIN(to, rgp_history_end(h)));
    if (s.to > s.from) {
        g_autoptr(GArray) rows = rgp_response_rows(h, loop, s.from, s.to);
        advice->begin = (double)rgp_history_time_us(h, s.from) / 1e6;
        advice->end = (double)rgp_history_time_us(h, s.to - 1) / 1e6;
        advice->says = g_string_new(NULL);
        tell(&step, rows, rgp_loop_gain_scale(image, loop, 0),
             rgp_image_unit(image, RGP_NAME_SLOT, l->first + RGP_TERM_ERROR, 0), advice);
    }
    return true;
}

void rgp_plain_advice_clear(rgp_plain_advice *advice)
{
    if (advice->says) {
        g_string_free(advice->says, TRUE);
    }
    g_free(advice->next);
}
