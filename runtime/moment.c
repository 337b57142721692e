/* A moment of a run by a person's words. */
#include "moment.h"

#include "rigpulse/lang.h"

#include <stdio.h>
#include <string.h>

static bool is_it(const rgp_occurrence *o, const char *text, uint32_t line)
{
    return line > 0 ? o->kind == RGP_EVENT_FIRED && o->line == line
                    : o->kind == RGP_EVENT_MARK && strcmp(o->of, text) == 0;
}

bool rgp_moment_of(const rgp_history *h, const char *text, double *seconds)
{
    const GPtrArray *events = rgp_history_occurrences(h);
    const char *why;
    uint32_t line = 0;
    int read = 0;
    if (rgp_quantity_parse(text, "s", seconds, &why)) {
        return true;
    }
    if (sscanf(text, "line %9u%n", &line, &read) != 1 || text[read] != '\0') {
        line = 0;
    }
    for (guint i = 0; i < events->len; i++) {
        const rgp_occurrence *o = events->pdata[i];
        if (is_it(o, text, line)) {
            *seconds = o->time;
            return true;
        }
    }
    return false;
}
