/* Bands are written from low to high or from high to low, each border by the keyword of the band that it
 * belongs to. Here they are brought into one order. */
#include "lang/parse/tree.h"

#include <string.h>

static void reverse(symbol *s)
{
    for (uint32_t i = 0; i < s->names / 2; i++) {
        const band_name other = s->name_of[i];
        s->name_of[i] = s->name_of[s->names - 1 - i];
        s->name_of[s->names - 1 - i] = other;
    }
}

static bool is_side(const band_name *band, const char *side)
{
    return band->side && strcmp(band->side, side) == 0;
}

static void set_border(tree *t, symbol *s, uint32_t border, const band_name *band, bool above)
{
    if (s->border[border]) {
        report_error(t->report, band->at, "say it once, with 'below' or with 'above'",
                     "the border between '%s' and '%s' is stated twice", s->name_of[border].name,
                     s->name_of[border + 1].name);
        return;
    }
    s->border[border] = band->limit;
    s->above |= (uint32_t)above << border;
}

void lang_order_bands(tree *t, symbol *s)
{
    if (s->names < 2) {
        report_error(t->report, s->at, "for instance: low below 3 cm, high", "bands need at least two names");
        return;
    }
    const uint32_t last = s->names - 1;
    if (is_side(&s->name_of[0], "above") || is_side(&s->name_of[last], "below")) {
        reverse(s);
    }
    for (uint32_t i = 0; i <= last; i++) {
        const band_name *band = &s->name_of[i];
        const bool above = is_side(band, "above");
        if (!band->side) {
            continue;
        }
        if (above ? i == 0 : i == last) {
            report_error(t->report, band->at, "write bands in order, from low to high or from high to low",
                         "'%s' is the %s band here, so nothing lies %s it", band->name, above ? "lowest" : "highest",
                         above ? "below" : "above");
            continue;
        }
        set_border(t, s, above ? i - 1 : i, band, above);
    }
    for (uint32_t i = 0; i < last; i++) {
        if (!s->border[i]) {
            report_error(t->report, s->name_of[i + 1].at, "give one of them a limit, for instance 'below 3 cm'",
                         "there is no border between '%s' and '%s'", s->name_of[i].name, s->name_of[i + 1].name);
        }
    }
}
