/* Loops and values by their names. */
#include "names.h"

#include "rigpulse/lang.h"

#include <glib.h>
#include <string.h>

bool names_loop(const rgp_image_header *image, const char *name, uint32_t *loop)
{
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++) {
        if (strcmp(name, rgp_image_text(image, RGP_NAME_LOOP, i, 0)) == 0) {
            *loop = i;
            return true;
        }
    }
    return false;
}

static void add_loops(const rgp_image_header *image, GPtrArray *to)
{
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++) {
        g_ptr_array_add(to, (gpointer)rgp_image_text(image, RGP_NAME_LOOP, i, 0));
    }
}

static const char *nearest(const char *name, const GPtrArray *all)
{
    return rgp_nearest_word(name, (const char *const *)all->pdata, all->len);
}

bool names_refuse(const command *self, const char *where, const char *what, const char *word, const char *const *all,
                  uint32_t count)
{
    const char *near = rgp_nearest_word(word, all, count);
    if (near) {
        return command_fails(self, "%s: there is no %s '%s'; did you mean '%s'?", where, what, word, near);
    }
    g_autoptr(GString) list = g_string_new(count == 0 ? " none" : "");
    for (uint32_t i = 0; i < count; i++) {
        g_string_append_printf(list, "%s%s", i ? ", " : " ", all[i]);
    }
    return command_fails(self, "%s: there is no %s '%s'; there %s%s", where, what, word, count == 1 ? "is" : "are",
                         list->str);
}

bool names_loop_or_refuse(const command *self, const rgp_image_header *image, const char *path, const char *name,
                          uint32_t *loop)
{
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    add_loops(image, all);
    return names_loop(image, name, loop) ||
           names_refuse(self, path, "loop", name, (const char *const *)all->pdata, all->len);
}

const char *names_nearest(const rgp_image_header *image, const char *name, bool loops)
{
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    if (loops) {
        add_loops(image, all);
    }
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        if (rgp_image_name_of(image, RGP_NAME_SLOT, slot, 0)) {
            g_ptr_array_add(all, (gpointer)rgp_image_text(image, RGP_NAME_SLOT, slot, 0));
        }
    }
    return nearest(name, all);
}
