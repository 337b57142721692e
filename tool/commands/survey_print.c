/* A survey in words and as JSON. */
#include "survey.h"

#include "tool/command.h"

#include "explain/describe.h"

#include <math.h>
#include <stdio.h>

static void put_figure(GString *to, const rgp_survey *s, double value)
{
    if (isnan(value)) {
        g_string_append(to, "never");
    } else {
        rgp_describe_number(value, s->unit ? s->unit : "", to);
    }
}

static void put_cell(GString *to, const rgp_survey *s, const rgp_survey_cell *c)
{
    g_string_append(to, "  median ");
    put_figure(to, s, c->median);
    g_string_append(to, ", worst ");
    put_figure(to, s, c->worst);
    if (c->never > 0) {
        g_string_append_printf(to, " (%u of %u worlds never)", c->never, c->done);
    }
    g_string_append_c(to, '\n');
}

static void put_values(GString *to, const rgp_survey *s, const rgp_survey_cell *c)
{
    for (uint32_t i = 0; i < s->ask->axes; i++) {
        g_string_append_printf(to, "%s%s = ", i > 0 ? ", " : "", s->ask->axis[i].name);
        rgp_describe_number(c->at[i], s->ask->axis[i].unit, to);
    }
}

/* The best value may lie farther out. */
static void put_ends(GString *to, const rgp_survey *v, const rgp_survey_cell *best)
{
    for (uint32_t i = 0; i < v->ask->axes; i++) {
        const rgp_survey_axis *axis = &v->ask->axis[i];
        if (!(best->at[i] > axis->low && best->at[i] < axis->high)) {
            g_string_append_printf(to, "the best %s is the %s that was tried: look farther\n", axis->name,
                                   best->at[i] > axis->low ? "greatest" : "least");
        }
    }
}

void survey_print(const rgp_survey *v, uint32_t best, const GPtrArray *others)
{
    g_autoptr(GString) to = g_string_new(NULL);
    g_autofree uint32_t *order = rgp_survey_order(v);
    g_string_append_printf(to, "%s, %s is better: %u values in %u worlds", v->ask->figure,
                           v->ask->more ? "more" : "less", v->cells, v->ask->worlds);
    if (v->ask->off > 0.0) {
        g_string_append_printf(to, ", whose mechanisms are up to %g %% off", 100.0 * v->ask->off);
    }
    g_string_append_printf(to, ", %g s each%s\n", v->ask->length_s, v->stopped ? "; stopped before its end" : "");
    for (uint32_t i = 0; i < MIN(best, v->whole); i++) {
        put_values(to, v, &v->cell[order[i]]);
        put_cell(to, v, &v->cell[order[i]]);
    }
    if (v->whole == 0) {
        g_string_append(to, "no value has been tried in all worlds\n");
    } else if (v->whole > best) {
        g_string_append_printf(to, "the last of %u: ", v->whole);
        put_values(to, v, &v->cell[order[v->whole - 1]]);
        put_cell(to, v, &v->cell[order[v->whole - 1]]);
    }
    if (v->whole > 1) {
        put_ends(to, v, &v->cell[order[0]]);
    }
    for (guint i = 0; i < others->len; i++) {
        const survey_other *other = others->pdata[i];
        g_string_append(to, other->path);
        put_cell(to, other->survey, &other->survey->cell[0]);
    }
    fputs(to->str, stdout);
}

static json_t *number_or_null(double x)
{
    return isnan(x) ? json_null() : json_real(x);
}

static json_t *cell_json(const rgp_survey *v, const rgp_survey_cell *c)
{
    json_t *at = json_object(), *worlds = json_array();
    for (uint32_t i = 0; i < v->ask->axes; i++) {
        json_object_set_new(at, v->ask->axis[i].name, json_real(c->at[i]));
    }
    for (uint32_t i = 0; i < v->ask->worlds && c->done == v->ask->worlds; i++) {
        json_array_append_new(worlds, number_or_null(c->figure[i]));
    }
    return json_pack("{s:o, s:i, s:i, s:o, s:o, s:o}", "at", at, "done", (int)c->done, "never", (int)c->never, "median",
                     number_or_null(c->median), "worst", number_or_null(c->worst), "worlds", worlds);
}

void survey_print_json(const rgp_survey *v, const GPtrArray *others)
{
    json_t *cells = json_array(), *against = json_array();
    g_autofree uint32_t *order = rgp_survey_order(v);
    for (uint32_t i = 0; i < v->cells; i++) {
        json_array_append_new(cells, cell_json(v, &v->cell[order[i]]));
    }
    for (guint i = 0; i < others->len; i++) {
        const survey_other *other = others->pdata[i];
        json_t *cell = cell_json(other->survey, &other->survey->cell[0]);
        json_object_set_new(cell, "file", json_string(other->path));
        json_array_append_new(against, cell);
    }
    command_print_json(json_pack("{s:s, s:s, s:b, s:i, s:f, s:b, s:o, s:o}", "figure", v->ask->figure, "unit",
                                 v->unit ? v->unit : "", "more", v->ask->more, "worlds", (int)v->ask->worlds, "off",
                                 v->ask->off, "stopped", v->stopped, "cells", cells, "against", against));
}
