/* The formats have these in common: the columns, their names, the file. */
#include "exports.h"

#include "files/files.h"

#include <errno.h>
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <string.h>

/* ---- columns --------------------------------------------------------------------------------------- */

static const char *part_of(const rgp_image_header *image, uint32_t slot, uint32_t part)
{
    return rgp_image_name_of(image, RGP_NAME_PART, slot, part) ? rgp_image_text(image, RGP_NAME_PART, slot, part) : "";
}

static rgp_column_kind kind_of(const rgp_image_header *image, uint32_t slot)
{
    static const char *const switches[][2] = {{"off", "on"}, {"no", "yes"}};
    if (!*part_of(image, slot, 0)) {
        return RGP_COLUMN_NUMBER;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(switches); i++) {
        if (strcmp(part_of(image, slot, 0), switches[i][0]) == 0 &&
            strcmp(part_of(image, slot, 1), switches[i][1]) == 0 && !*part_of(image, slot, 2)) {
            return RGP_COLUMN_SWITCH;
        }
    }
    return RGP_COLUMN_NAMES;
}

static bool is_taken(const GArray *columns, const char *plain)
{
    for (guint i = 0; i < columns->len; i++) {
        if (strcmp(g_array_index(columns, rgp_export_column, i).plain, plain) == 0) {
            return true;
        }
    }
    return false;
}

static char *plain_name(const GArray *columns, const char *name)
{
    GString *plain = g_string_new(g_ascii_isdigit(*name) ? "_" : NULL);
    for (const char *at = name; *at; at = g_utf8_next_char(at)) {
        g_string_append_c(plain, g_ascii_isalnum(*at) ? *at : '_');
    }
    for (int n = 2; is_taken(columns, plain->str); n++) {
        g_string_printf(plain, "%s_%d", name, n);
        for (char *at = plain->str; *at; at++) {
            *at = g_ascii_isalnum(*at) ? *at : '_';
        }
    }
    return g_string_free(plain, FALSE);
}

static void free_column(void *self)
{
    g_free(((rgp_export_column *)self)->plain);
}

GArray *rgp_export_columns(const rgp_recording *r)
{
    GArray *columns = g_array_new(FALSE, TRUE, sizeof(rgp_export_column));
    g_array_set_clear_func(columns, free_column);
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        const int32_t column = rgp_history_slot(r->history, slot);
        if (r->has[slot] && column >= 0) {
            const rgp_export_column is = {.slot = slot,
                                          .column = (uint32_t)column,
                                          .kind = kind_of(r->image, slot),
                                          .name = rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0),
                                          .unit = rgp_image_unit(r->image, RGP_NAME_SLOT, slot, 0),
                                          .plain =
                                              plain_name(columns, rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0))};
            g_array_append_val(columns, is);
        }
    }
    return columns;
}

const char *rgp_export_word(const rgp_recording *r, const rgp_export_column *c, uint32_t row)
{
    if (!rgp_usable(rgp_history_quality(r->history, c->column, row))) {
        return NULL;
    }
    return part_of(r->image, c->slot, (uint32_t)rgp_history_value(r->history, c->column, row));
}

void rgp_export_renamed(const rgp_export *ask, const char *from, const char *to)
{
    if (strcmp(from, to) != 0) {
        g_string_append_printf(ask->says, "'%s' is called '%s' there\n", from, to);
    }
}

/* ---- the file -------------------------------------------------------------------------------------- */

FILE *rgp_export_open(const char *path, GError **error)
{
    g_autofree char *beside = rgp_file_temporary(path);
    rgp_file_sweep(path);
    FILE *file = fopen(beside, "w");
    if (!file) {
        g_set_error(error, G_IO_ERROR, g_io_error_from_errno(errno), "%s: %s", path, g_strerror(errno));
    }
    return file;
}

bool rgp_export_close(FILE *file, const char *path, GError **error)
{
    g_autofree char *beside = rgp_file_temporary(path);
    const bool lost = ferror(file) != 0;
    errno = 0;
    if (fclose(file) != 0 || lost || g_rename(beside, path) != 0) {
        g_set_error(error, G_IO_ERROR, g_io_error_from_errno(errno ? errno : EIO), "%s: %s; nothing was written", path,
                    g_strerror(errno ? errno : EIO));
        g_unlink(beside);
        return false;
    }
    return true;
}
