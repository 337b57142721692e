/* The new text with measured numbers in it, and numbers as they are told. */
#include "result.h"

#include "explain/describe.h"
#include "rigpulse/edit.h"
#include "runtime/ports.h"

#include <math.h>
#include <string.h>

char *calibrate_number_text(double x, const char *unit)
{
    GString *text = g_string_new(NULL);
    rgp_describe_number(x, unit, text);
    return g_string_free(text, FALSE);
}

/* An error: two digits are enough. */
char *calibrate_error_text(double x)
{
    return g_strdup(isnan(x) ? "-" : rgp_digits(x, 2).text);
}

void calibrate_put_padded(GString *to, int width, const char *text)
{
    const int length = (int)g_utf8_strlen(text, -1);
    g_string_append_printf(to, "%s%*s", text, MAX(1, width - length), "");
}

static char *first_error(const rgp_rig *rig)
{
    for (uint32_t i = 0; i < rig->messages; i++) {
        if (!rig->message[i].warning) {
            return g_strdup_printf("line %u: %s%s%s", rig->message[i].line, rig->message[i].text,
                                   rig->message[i].advice ? "; " : "",
                                   rig->message[i].advice ? rig->message[i].advice : "");
        }
    }
    return g_strdup("out of memory");
}

/* Compiles what would be written; NULL with *why when the language does not take it. */
rgp_rig *calibrate_try_text(const calibration *c, const char *text, char **why)
{
    rgp_rig *made = rgp_rig_compile(c->path, text, strlen(text), rgp_ports_catalog());
    if (made && made->image) {
        return made;
    }
    g_autofree char *reason = made ? first_error(made) : g_strdup("out of memory");
    *why = g_strdup_printf("the result cannot be written: %s", reason);
    rgp_rig_free(made);
    return NULL;
}

/* The known values, from the least to the greatest: the stage is to be trusted no further. False for a stage that
 * cannot say it, or where there is no way between the two. */
bool calibrate_writes_range(const calibration *c, double range[2])
{
    range[0] = INFINITY;
    range[1] = -INFINITY;
    for (guint i = 0; i < c->point->len; i++) {
        const double known = calibrate_point_at(c, i)->known * c->what.gain + c->what.offset;
        range[0] = fmin(range[0], known);
        range[1] = fmax(range[1], known);
    }
    return c->what.ranged && !c->what.summed && range[0] < range[1];
}

bool calibrate_write_places(calibration *c, const guint *which, const double *number, guint count, char **why)
{
    const rgp_place *place[RGP_CALIBRATION_PLACES_MAX + 2];
    double written[RGP_CALIBRATION_PLACES_MAX + 2], range[2];
    const guint settings = count;
    for (guint i = 0; i < settings; i++) {
        place[i] = &c->what.place[which[i]];
        written[i] = number[i];
    }
    for (guint i = 0; i < 2 && calibrate_writes_range(c, range); i++) {
        place[count] = &c->what.range[i];
        written[count++] = range[i];
    }
    for (guint i = 0; i < count; i++) {
        if (!place[i]->open) {
            *why = g_strdup_printf("line %u: what stands there is computed, so no number can take its place",
                                   c->what.line);
            return false;
        }
    }
    c->edited = g_strdup(rgp_edit_places(calibrate_rig(c), place, written, count));
    return true;
}

/* Which settings of a stage are measured. */
