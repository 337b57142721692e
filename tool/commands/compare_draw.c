/* rigpulse compare: the picture. */
#include "compare.h"

#include "analysis/figures/overlay_figure.h"
#include "tool/picture.h"

#include <stdio.h>
#include <string.h>

/* Courses lie by kind, then by value; a figure has them the other way round. */
static rgp_course **by_value(const compare_what *w, guint kinds, guint values)
{
    rgp_course **all = g_new0(rgp_course *, kinds * values + 1);
    for (guint k = 0; k < kinds; k++) {
        for (guint v = 0; v < values && k * values + v < w->course->len; v++) {
            all[v * kinds + k] = w->course->pdata[k * values + v];
        }
    }
    return all;
}

bool compare_draw(const compare_what *w)
{
    const guint kinds = w->kind->len, values = w->drawn ? g_strv_length(w->drawn) : 0;
    g_autofree rgp_course **course = by_value(w, kinds, values);
    g_autofree char **name = g_new0(char *, kinds + 1);
    g_autofree char *drawn = w->drawn ? g_strjoinv(", ", w->drawn) : g_strdup("");
    g_autofree char *title =
        g_strdup_printf("%s: the first run of each of %u kinds, from %g to %g s", drawn, kinds, w->from_s, w->to_s);
    g_autoptr(GError) error = NULL;
    for (guint k = 0; k < kinds; k++) {
        name[k] = g_array_index(w->kind, rgp_run_kind, k).name;
    }
    for (guint v = 0; v < values; v++) {
        for (guint k = 0; k < kinds; k++) {
            if (!course[v * kinds + k]) {
                command_refuse(w->self, "%s has no value '%s' to draw; take others with --draw NAME", name[k],
                               w->drawn[v]);
                return false;
            }
        }
    }
    const rgp_overlay overlay = {.title = title, .kind = name, .value = w->drawn, .course = course};
    g_autoptr(GString) script = rgp_overlay_script(&overlay, w->options->picture);
    if (!picture_run(script, w->options->picture, &error)) {
        command_refuse(w->self, "%s", error->message);
        return false;
    }
    if (!w->options->json) {
        puts(w->options->picture);
    }
    return true;
}
