/* Names and units of a view's lines. */
#include "view.h"

const char *view_name(const view *v, const view_item *item)
{
    if (item->kind == ITEM_RULE) {
        static char line[32];
        const rgp_image_name *name = rgp_image_name_of(v->image, RGP_NAME_RULE, item->index, 0);
        g_snprintf(line, sizeof line, "line %u", name ? name->line : 0);
        return line;
    }
    return rgp_image_text(v->image, RGP_NAME_SLOT, item->index, 0);
}

const char *view_unit(const view *v, const view_item *item)
{
    return item->kind == ITEM_RULE ? "" : rgp_image_unit(v->image, RGP_NAME_SLOT, item->index, 0);
}

const rgp_occurrence *view_last_firing(const view *v, uint32_t line)
{
    const GPtrArray *all = rgp_history_occurrences(v->history);
    for (guint i = all->len; i-- > 0;) {
        const rgp_occurrence *o = all->pdata[i];
        if (o->kind == RGP_EVENT_FIRED && o->line == line && o->row <= v->row) {
            return o;
        }
    }
    return NULL;
}
