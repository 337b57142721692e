#include "view.h"

const char *view_name(const view *v, const view_item *item)
{
    if (item->kind == ITEM_RULE) {
        static char line[32];
        const rp_image_name *name = rp_image_name_of(v->image, RP_NAME_RULE, item->index, 0);
        g_snprintf(line, sizeof line, "line %u", name ? name->line : 0);
        return line;
    }
    return rp_image_text(v->image, RP_NAME_SLOT, item->index, 0);
}

const char *view_unit(const view *v, const view_item *item)
{
    return item->kind == ITEM_RULE ? "" : rp_image_unit(v->image, RP_NAME_SLOT, item->index, 0);
}

const rp_occurrence *view_last_firing(const view *v, uint32_t line)
{
    const GPtrArray *all = rp_history_occurrences(v->history);
    for (guint i = all->len; i-- > 0;) {
        const rp_occurrence *o = all->pdata[i];
        if (o->kind == RP_EVENT_FIRED && o->line == line && o->row <= v->row) {
            return o;
        }
    }
    return NULL;
}
