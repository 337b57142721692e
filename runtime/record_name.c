/* The names of recordings: which files one has, and which names are free. */
#include "record_name.h"

#include "files/files.h"
#include "recorder.h"

#include <gio/gio.h>
#include <glib/gstdio.h>
#include <string.h>

static const char *const record_ending[RECORD_PARTS] = {".csv", ".events.jsonl", ".json", ".marks.jsonl", ".index"};

char *record_stem(const char *name)
{
    return g_str_has_suffix(name, record_ending[RECORD_TABLE])
               ? g_strndup(name, strlen(name) - strlen(record_ending[RECORD_TABLE]))
               : g_strdup(name);
}

char *record_stem_of_part(const char *name)
{
    for (int part = 0; part < RECORD_PARTS; part++) {
        if (g_str_has_suffix(name, record_ending[part])) {
            return g_strndup(name, strlen(name) - strlen(record_ending[part]));
        }
    }
    return g_strdup(name);
}

char *record_part(const char *stem, int part)
{
    return g_strconcat(stem, record_ending[part], NULL);
}

char *record_taken(const char *stem)
{
    for (int part = 0; part < RECORD_PARTS; part++) {
        GStatBuf is;
        char *path = record_part(stem, part);
        if (g_lstat(path, &is) == 0) {
            return path;
        }
        g_free(path);
    }
    return NULL;
}

bool record_check_name(const char *name, const char *stem, GError **error)
{
    g_autofree char *last = g_path_get_basename(stem);
    if (*stem == '\0' || g_str_has_suffix(stem, "/") || strcmp(last, "-") == 0 || strcmp(last, ".") == 0 ||
        strcmp(last, "..") == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_FILENAME,
                    "'%s' names no recording; write a name, such as tide, for tide.csv", name);
        return false;
    }
    return true;
}

char *rgp_recorder_free_name(const char *name)
{
    char *stem = record_stem(name);
    for (guint number = 2;; number++) {
        g_autofree char *path = record_taken(stem);
        if (!path) {
            return stem;
        }
        g_free(stem);
        g_autofree char *first = record_stem(name);
        stem = g_strdup_printf("%s-%u", first, number);
    }
}

bool rgp_recorder_writes(const char *name, const char *path)
{
    g_autofree char *stem = record_stem(name);
    bool same = false;
    for (int part = 0; part < RECORD_PARTS && !same; part++) {
        g_autofree char *own = record_part(stem, part);
        same = rgp_file_is_same(own, path);
    }
    return same;
}
