/* The subject of a model: a loop, and what was driven and measured of it in a recording or in a test. */
#include "subject.h"

bool subject_refuse(const subject *s, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    command_refuse(s->self, "%s", text);
    return false;
}

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
    char *const all[] = {o->from, o->begin, o->until, o->test, o->at, o->size, o->each, o->times, o->seed};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        g_free(all[i]);
    }
}

bool subject_rows(subject *s, const rgp_history *h, uint64_t from, uint64_t to)
{
    const rgp_process_names names = {s->name, s->measured, s->actuator};
    const char *missing = rgp_process_rows_of(h, &names, from, to, &s->of);
    return !missing || subject_refuse(s, "the recording does not hold '%s'", missing);
}

bool subject_fit(const subject *s, rgp_process *to)
{
    const rgp_process_data data = rgp_process_rows_data(&s->of);
    return (s->of.held ? rgp_process_fit_held : rgp_process_fit)(&data, to) ||
           subject_refuse(
               s,
               "there is too little to learn from: at least 40 readings are needed, and '%s' has to be driven "
               "in different ways",
               s->actuator);
}

char *subject_gain_unit(const subject *s, const rgp_process *p)
{
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    return g_strdup_printf("%s/%s%s", *s->moved_unit ? s->moved_unit : "1", *s->driven_unit ? s->driven_unit : "1",
                           integral ? "/s" : "");
}
