/* A rig file replaced by its new text, with the lines that were there kept for undoing. */
#include "rewrite.h"

#include "files/files.h"

#include <errno.h>
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <stdlib.h>
#include <string.h>

#define KEPT_MOST 50u

/* ---- lines ----------------------------------------------------------------------------------------- */

static GPtrArray *lines_of(const char *text)
{
    GPtrArray *lines = g_ptr_array_new_with_free_func(g_free);
    while (*text) {
        const char *end = strchr(text, '\n');
        const gsize length = end ? (gsize)(end + 1 - text) : strlen(text);
        g_ptr_array_add(lines, g_strndup(text, length));
        text += length;
    }
    return lines;
}

static char *joined(const GPtrArray *lines, guint from, guint to)
{
    GString *text = g_string_new(NULL);
    for (guint i = from; i < to; i++) {
        g_string_append(text, lines->pdata[i]);
    }
    return g_string_free(text, FALSE);
}

static void free_hunk(void *self)
{
    rewrite_hunk *h = self;
    g_free(h->before);
    g_free(h->after);
    g_free(h);
}

static void add_hunk(GPtrArray *to, guint line, char *before, char *after)
{
    rewrite_hunk *h = g_new(rewrite_hunk, 1);
    *h = (rewrite_hunk){line, before, after};
    g_ptr_array_add(to, h);
}

GPtrArray *rewrite_differences(const char *before, const char *after)
{
    g_autoptr(GPtrArray) a = lines_of(before);
    g_autoptr(GPtrArray) b = lines_of(after);
    GPtrArray *hunks = g_ptr_array_new_with_free_func(free_hunk);
    guint head = 0, tail = 0;
    while (head < MIN(a->len, b->len) && strcmp(a->pdata[head], b->pdata[head]) == 0) {
        head++;
    }
    while (tail < MIN(a->len, b->len) - head && strcmp(a->pdata[a->len - 1 - tail], b->pdata[b->len - 1 - tail]) == 0) {
        tail++;
    }
    if (a->len == b->len) {
        for (guint i = head; i < a->len - tail; i++) {
            if (strcmp(a->pdata[i], b->pdata[i]) != 0) {
                add_hunk(hunks, i + 1, g_strdup(a->pdata[i]), g_strdup(b->pdata[i]));
            }
        }
    } else {
        head -= head > 0 && head + tail == b->len; /* lines that are only taken out need one to find the place by */
        add_hunk(hunks, head + 1, joined(a, head, a->len - tail), joined(b, head, b->len - tail));
    }
    return hunks;
}

/* ---- the file -------------------------------------------------------------------------------------- */

/* The target of a symbolic link is replaced, not the link. */
static char *real_path(const char *path)
{
    char *found = realpath(path, NULL);
    char *copy = g_strdup(found ? found : path);
    free(found);
    return copy;
}

static bool is_writable(const char *path, int *mode, GError **error)
{
    GStatBuf is;
    if (g_stat(path, &is) != 0) {
        g_set_error(error, G_IO_ERROR, g_io_error_from_errno(errno), "%s: %s", path, g_strerror(errno));
        return false;
    }
    *mode = (int)is.st_mode & 0777;
    if ((is.st_mode & 0222) == 0 || g_access(path, W_OK) != 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_READ_ONLY, "%s is read-only and stays as it was", path);
        return false;
    }
    return true;
}

static bool replace(const char *path, const char *text, int mode, GError **error)
{
    return rgp_file_write(path, text, strlen(text), mode, error);
}

/* ---- the way back ---------------------------------------------------------------------------------- */

static char *kept_path(const char *path)
{
    return g_strconcat(path, ".undo", NULL);
}

static json_t *read_kept(const char *path)
{
    g_autofree char *from = kept_path(path);
    json_t *kept = json_load_file(from, 0, NULL);
    if (!json_is_array(kept)) {
        json_decref(kept);
        kept = json_array();
    }
    return kept;
}

static bool write_kept(const char *path, json_t *kept, GError **error)
{
    g_autofree char *to = kept_path(path);
    if (json_array_size(kept) == 0) {
        g_unlink(to);
        return true;
    }
    char *text = json_dumps(kept, JSON_INDENT(1));
    const bool written = replace(to, text, 0644, error);
    free(text);
    return written;
}

static json_t *hunks_as_json(const GPtrArray *hunks)
{
    json_t *all = json_array();
    for (guint i = 0; i < hunks->len; i++) {
        const rewrite_hunk *h = hunks->pdata[i];
        json_array_append_new(
            all, json_pack("{s:i, s:s, s:s}", "line", (int)h->line, "before", h->before, "after", h->after));
    }
    return all;
}

bool rewrite_file(const char *given, const char *before, const char *after, const char *what, GError **error)
{
    g_autofree char *path = real_path(given), *now = NULL;
    int mode;
    if (!is_writable(path, &mode, error) || !rgp_file_read(path, &now, NULL, error)) {
        return false;
    }
    if (strcmp(now, before) != 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_BUSY, "%s was changed by someone else meanwhile and stays as it is",
                    given);
        return false;
    }
    if (!replace(path, after, mode, error)) {
        return false;
    }
    g_autoptr(GPtrArray) hunks = rewrite_differences(before, after);
    json_t *kept = read_kept(path);
    json_array_append_new(kept, json_pack("{s:s, s:o}", "what", what, "changed", hunks_as_json(hunks)));
    while (json_array_size(kept) > KEPT_MOST) {
        json_array_remove(kept, 0);
    }
    const bool written = write_kept(path, kept, error);
    json_decref(kept);
    if (!written) {
        g_prefix_error(error, "%s is written, but the way back could not be kept: ", given);
    }
    return written;
}

/* The present place of a hunk's lines: at their line, or at the one other place; NULL otherwise. */
static char *find_lines(const char *text, guint line, const char *wanted)
{
    const char *at = text;
    for (guint i = 1; at && i < line; i++) {
        at = strchr(at, '\n');
        at += at != NULL;
    }
    if (at && g_str_has_prefix(at, wanted)) {
        return (char *)at;
    }
    char *found = strstr(text, wanted);
    const bool begins = found && (found == text || found[-1] == '\n');
    return begins && *wanted && !strstr(found + 1, wanted) ? found : NULL;
}

static bool take_back(char **text, json_t *hunk, GPtrArray *changed, GError **error)
{
    const char *before = json_string_value(json_object_get(hunk, "before"));
    const char *after = json_string_value(json_object_get(hunk, "after"));
    const json_int_t line = json_integer_value(json_object_get(hunk, "line"));
    char *at = before && after && line > 0 ? find_lines(*text, (guint)line, after) : NULL;
    if (!at) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                    "line %d was changed since, so the file stays as it is; before, there stood:\n%s", (int)line,
                    before ? before : "");
        return false;
    }
    char *made = g_strdup_printf("%.*s%s%s", (int)(at - *text), *text, before, at + strlen(after));
    g_free(*text);
    *text = made;
    add_hunk(changed, (guint)line, g_strdup(after), g_strdup(before));
    return true;
}

bool rewrite_undo(const char *given, char **what, GPtrArray **changed, GError **error)
{
    g_autofree char *path = real_path(given), *text = NULL;
    int mode;
    if (!is_writable(path, &mode, error) || !rgp_file_read(path, &text, NULL, error)) {
        return false;
    }
    json_t *kept = read_kept(path), *hunk;
    const size_t count = json_array_size(kept);
    const json_t *last = json_array_get(kept, count - 1);
    bool done = count > 0;
    *changed = g_ptr_array_new_with_free_func(free_hunk);
    if (!done) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "%s: there is nothing to take back", given);
    }
    const json_t *hunks = json_object_get(last, "changed");
    for (size_t i = json_array_size(hunks); done && i-- > 0;) {
        hunk = json_array_get(hunks, i);
        done = take_back(&text, hunk, *changed, error);
    }
    const char *words = json_string_value(json_object_get(last, "what"));
    *what = g_strdup(words ? words : "");
    done = done && replace(path, text, mode, error);
    if (done) {
        json_array_remove(kept, count - 1);
        done = write_kept(path, kept, error);
    }
    json_decref(kept);
    return done;
}

int rewrite_take_back(const command *self, const char *path)
{
    g_autoptr(GError) error = NULL;
    g_autoptr(GPtrArray) changed = NULL;
    g_autofree char *what = NULL;
    if (!rewrite_undo(path, &what, &changed, &error)) {
        return command_refuse(self, "%s", error->message);
    }
    printf("%s: taken back: %s\n", path, what);
    for (guint i = 0; i < changed->len; i++) {
        const rewrite_hunk *h = changed->pdata[i];
        printf("line %-4u is    %s\n", h->line, *h->after ? g_strstrip(h->after) : "gone");
    }
    return EXIT_DONE;
}
