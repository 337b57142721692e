/* The subject of a model: a loop, and what was driven and measured of it in a recording or in a test. */
#include "subject.h"

#include <math.h>

#define HALF_APART 0.25 /* of a gain: by so much more that of half of a test may not be other */

void subject_clear(subject *s)
{
    rgp_rig_free(s->rig);
    rgp_process_rows_clear(&s->of);
    if (s->relay.turn) {
        rgp_relay_end(&s->relay);
    }
}

void subject_options_clear(subject_options *o)
{
    char *const all[] = {o->from, o->begin, o->until, o->test, o->at, o->size, o->each, o->times, o->within, o->seed};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        g_free(all[i]);
    }
}

bool subject_rows(subject *s, const rgp_history *h, uint64_t from, uint64_t to)
{
    const rgp_process_names names = {s->name, s->measured, s->actuator};
    const char *missing = rgp_process_rows_of(h, &names, from, to, &s->of);
    return !missing || command_fails(s->self, "the recording does not hold '%s'", missing);
}

/* The rows of the test itself, or of its half. */
static rgp_process_data part_of(const subject *s, bool half)
{
    rgp_process_data data = rgp_process_rows_data(&s->of);
    if (s->half_from > 0) {
        const size_t from = half ? (size_t)s->half_from : 0;
        data.count = half ? data.count - from : (size_t)s->half_from;
        data.driven += from;
        data.measured += from;
    }
    return data;
}

rgp_process_data subject_data(const subject *s)
{
    return part_of(s, false);
}

bool subject_fit(const subject *s, rgp_process *to)
{
    const rgp_process_data data = subject_data(s);
    return rgp_process_fit_held(&data, s->of.held_by, to) ||
           command_fails(
               s->self,
               "there is too little to learn from: at least 40 readings are needed, and '%s' has to be driven "
               "in different ways",
               s->actuator);
}

GPtrArray *subject_doubts(const subject *s, const rgp_process *p)
{
    GPtrArray *all = rgp_process_doubts(p, s->of.step_s);
    const rgp_process_data data = part_of(s, true);
    rgp_process half = {.fitted = NULL};
    if (s->half_from > 0 && rgp_process_fit(&data, &half)) {
        const double share = half.kind == p->kind ? half.gain.value / p->gain.value : 0.0,
                     off = (half.gain.high - half.gain.low) / 2.0 / fabs(p->gain.value);
        if (fabs(share - 1.0) > fmax(HALF_APART, off)) {
            g_ptr_array_add(all, g_strdup_printf("driven half as far it answers with %.0f %% of that gain: there is a "
                                                 "play or a friction in it, and what holds for one size does not for "
                                                 "another",
                                                 100.0 * share));
        }
    }
    rgp_process_clear(&half);
    return all;
}

char *subject_gain_unit(const subject *s, const rgp_process *p)
{
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    return g_strdup_printf("%s/%s%s", *s->moved_unit ? s->moved_unit : "1", *s->driven_unit ? s->driven_unit : "1",
                           integral ? "/s" : "");
}
