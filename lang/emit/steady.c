/* Operations whose results follow from sensors and parameters alone, whatever the time: while none of those changes
 * they need not be computed (core/engine/steady.h). */
#include "emit.h"

#include <string.h>

/* With fewer of them, in all or for a sensor or parameter, it would cost too much to ask whether something has changed.
 */
#define STEADY_LEAST 64u
#define STEADY_EACH  4u

static bool follows(const operation *o, const unsigned char *steady)
{
    bool all = rgp_ops[o->op].pace == RGP_PACE_ALL && o->way != RGP_WAY_WHOLE;
    for (uint32_t i = 0; all && i < rgp_ops[o->op].inputs; i++) {
        all = o->in[i] & RGP_REF_CONSTANT || steady[o->in[i]];
    }
    return all;
}

/* In the order of computing. */
static void mark(emitter *e, unsigned char *steady)
{
    for (unsigned i = 0; i < e->operations; i++) {
        operation *o = e->operation[i];
        o->steady = follows(o, steady);
        memset(steady + o->out[0], o->steady, rgp_ops[o->op].outputs);
    }
}

/* A result that another operation writes over is gone in the next tick. */
static uint32_t unmark_overwritten(emitter *e, unsigned char *over)
{
    uint32_t left = 0;
    for (unsigned i = e->operations; i-- > 0;) {
        operation *o = e->operation[i];
        o->steady &= !over[o->out[0]];
        left += o->steady;
        if (!o->steady) {
            memset(over + o->out[0], 1, rgp_ops[o->op].outputs);
        }
    }
    return left;
}

void emit_find_steady(emitter *e)
{
    const uint32_t given = e->t->count[SYMBOL_PARAM] + e->t->count[SYMBOL_SENSOR];
    unsigned char *flags = arena_get(e->t->arena, 2u * (e->slots + 1u));
    memset(flags, 1, given);
    mark(e, flags);
    const uint32_t left = unmark_overwritten(e, flags + e->slots + 1u);
    if (left < STEADY_LEAST || left < STEADY_EACH * given) {
        for (unsigned i = 0; i < e->operations; i++) {
            e->operation[i]->steady = false;
        }
    }
}
