/* Reasons as a tree, and as lines of text. */
#include "why.h"

rgp_reason *rgp_reason_new(rgp_holds holds, const char *format, ...)
{
    rgp_reason *r = g_new0(rgp_reason, 1);
    va_list arguments;
    r->holds = holds;
    r->says = g_string_new(NULL);
    r->since_us = r->last_us = UINT64_MAX;
    r->part = g_ptr_array_new_with_free_func((GDestroyNotify)rgp_reason_free);
    va_start(arguments, format);
    g_string_append_vprintf(r->says, format, arguments);
    va_end(arguments);
    return r;
}

void rgp_reason_free(rgp_reason *r)
{
    if (r) {
        g_string_free(r->says, TRUE);
        g_ptr_array_unref(r->part);
        g_free(r);
    }
}

rgp_reason *rgp_reason_add(rgp_reason *to, rgp_reason *part)
{
    g_ptr_array_add(to->part, part);
    return part;
}

static void print_at(const rgp_reason *r, uint32_t depth, GString *to)
{
    static const char *const word[] = {"", "yes  ", "no   ", "?    "};
    g_string_append_printf(to, "%*s%s%s", (int)(2 * depth), "", word[r->holds], r->says->str);
    if (r->since_us != UINT64_MAX) {
        g_string_append_printf(to, ", since %.3f s", (double)r->since_us / 1e6);
    } else if (r->last_us != UINT64_MAX) {
        g_string_append_printf(to, "; last so at %.3f s", (double)r->last_us / 1e6);
    }
    g_string_append_c(to, '\n');
    for (guint i = 0; i < r->part->len; i++) {
        print_at(r->part->pdata[i], depth + 1, to);
    }
}

void rgp_reason_print(const rgp_reason *r, GString *to)
{
    print_at(r, 0, to);
}
