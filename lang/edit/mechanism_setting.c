/* The settings of a hook-up's mechanisms, written or not: where they stand, or where they would. */
#include "place.h"

#include <string.h>

/* The unit in which a setting is used; a mechanism's own where the kind leaves that open. */
static const char *unit_used(const tree *t, const rgp_mechanism_item *m, const rgp_setting *is)
{
    unit own;
    if (strcmp(is->unit, RGP_UNIT_OWN_STEP) == 0 && unit_find_text(&t->units, m->unit, &own)) {
        return unit_difference(own).text;
    }
    return strcmp(is->unit, RGP_UNIT_OWN) == 0 ? m->unit : is->unit;
}

static rgp_place place_written(const tree *t, const rgp_mechanism_item *m, uint32_t i, const char *used)
{
    const rgp_written *is = &m->written[i];
    rgp_place p = {.start = is->start,
                   .end = is->end,
                   .before = "",
                   .after = "",
                   .unit = is->unit,
                   .gain = 1.0,
                   .value = m->value[i],
                   .written = true,
                   .open = true};
    unit from, to;
    if (unit_find_text(&t->units, used, &from) && unit_find_text(&t->units, is->unit, &to)) {
        unit_conversion(from, to, &p.gain, &p.offset);
    }
    return p;
}

static rgp_place place_missing(rgp_rig *rig, const rgp_mechanism_item *m, uint32_t i, const char *used)
{
    return (rgp_place){.start = m->end,
                       .end = m->end,
                       .before = arena_print(rig->arena, "%s %s ", m->bare ? ":" : ",", m->kind->setting[i].word),
                       .after = *used ? arena_print(rig->arena, " %s", used) : "",
                       .unit = used,
                       .gain = 1.0,
                       .value = m->value[i],
                       .open = true};
}

bool rgp_rig_mechanism_place(rgp_rig *rig, uint32_t mechanism, uint32_t setting, rgp_place *place)
{
    const rgp_mechanism_item *m = &rig->hookup->mechanism[mechanism];
    const rgp_setting *is = &m->kind->setting[setting];
    const bool written = m->written[setting].end > 0;
    if (!is->unit || strcmp(is->unit, RGP_UNIT_TEXT) == 0 || (is->joined && !written) ||
        setjmp(rig->arena->exhausted)) {
        return false;
    }
    const char *used = unit_used(rig->tree, m, is);
    *place = written ? place_written(rig->tree, m, setting, used) : place_missing(rig, m, setting, used);
    return true;
}
