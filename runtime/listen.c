/* A look at what a device prints. */
#include "listen.h"

#include "ports/clock.h"
#include "ports/serial/line.h"
#include "ports/serial/tty.h"
#include "rigpulse/lang.h"

#include <errno.h>
#include <gio/gio.h>
#include <math.h>
#include <poll.h>
#include <string.h>
#include <unistd.h>

#define LOOK_MS      100
#define COLUMNS_MOST 100u
#define NESTED_MOST  3u
#define SHOWN        60

typedef struct listening {
    rgp_heard *heard;
    line_buffer bytes;
    line_cells cells;
} listening;

/* ---- columns --------------------------------------------------------------------------------------- */

static rgp_heard_column *new_column(rgp_heard *h, const char *name)
{
    if (h->column->len == COLUMNS_MOST) {
        return NULL;
    }
    const rgp_heard_column fresh = {.name = g_strdup(name), .least = INFINITY, .greatest = -INFINITY};
    g_array_append_val(h->column, fresh);
    return &g_array_index(h->column, rgp_heard_column, h->column->len - 1);
}

static rgp_heard_column *column_at(rgp_heard *h, guint i)
{
    while (h->column->len <= i && new_column(h, NULL)) {
    }
    return i < h->column->len ? &g_array_index(h->column, rgp_heard_column, i) : NULL;
}

static rgp_heard_column *column_named(rgp_heard *h, const char *name)
{
    for (guint i = 0; i < h->column->len; i++) {
        rgp_heard_column *c = &g_array_index(h->column, rgp_heard_column, i);
        if (c->name && strcmp(c->name, name) == 0) {
            return c;
        }
    }
    return new_column(h, name);
}

static void take_word(rgp_heard_column *c, const char *text)
{
    for (unsigned i = 0; i < MIN(c->words, HEARD_WORDS); i++) {
        if (strcmp(c->word[i], text) == 0) {
            return;
        }
    }
    if (c->words < HEARD_WORDS) {
        c->word[c->words] = g_strndup(text, SHOWN);
        rgp_make_printable(c->word[c->words], false);
    }
    c->words = MIN(c->words + 1, HEARD_WORDS + 1);
}

static unsigned decimals_of(const char *text)
{
    const char *point = strchr(text, '.');
    return point ? (unsigned)strspn(point + 1, "0123456789") : 0;
}

static void take_number(rgp_heard_column *c, const char *text, double number)
{
    const double step = c->numbers > 0 ? number - c->last : 0.0;
    c->squares += step * step;
    c->last = number;
    c->numbers++;
    c->sum += number;
    c->least = fmin(c->least, number);
    c->greatest = fmax(c->greatest, number);
    c->decimals = MAX(c->decimals, decimals_of(text));
}

static void take_cell(rgp_heard_column *c, const char *text)
{
    double number;
    if (!c) {
        return;
    }
    if (!*text) {
        c->empty++;
    } else if (line_number(text, &number)) {
        take_number(c, text, number);
    } else {
        take_word(c, text);
    }
}

/* ---- lines ----------------------------------------------------------------------------------------- */

static void take_fields(listening *l, json_t *object, const char *before, unsigned depth)
{
    const char *key, *why;
    json_t *value;
    json_object_foreach(object, key, value)
    {
        g_autofree char *name = *before ? g_strdup_printf("%s.%s", before, key) : g_strdup(key);
        if (json_is_object(value) && depth < NESTED_MOST) {
            take_fields(l, value, name, depth + 1);
        } else if (!json_is_array(value)) {
            const char *text = line_cell(&l->cells, 0, name, &why);
            take_cell(column_named(l->heard, name), text ? text : "");
        }
    }
}

static bool any_numbers(const rgp_heard *h)
{
    bool any = false;
    for (guint i = 0; i < h->column->len; i++) {
        any |= g_array_index(h->column, rgp_heard_column, i).numbers > 0;
    }
    return any;
}

static void take_heading(const rgp_heard *h, const GPtrArray *cells)
{
    for (guint i = 0; i < MIN(cells->len, h->column->len); i++) {
        rgp_heard_column *c = &g_array_index(h->column, rgp_heard_column, i);
        c->name = c->name ? c->name : rgp_make_printable(g_strdup(cells->pdata[i]), false);
    }
}

static void take_cells(rgp_heard *h, const GPtrArray *cells)
{
    for (guint i = 0; i < cells->len; i++) {
        take_cell(column_at(h, i), cells->pdata[i]);
    }
}

/* A row of words names the columns when numbers have come before it, or come in the row behind it; else it is one of
 * words. */
static void take_row(listening *l)
{
    const bool words = line_is_heading(&l->cells);
    if (words && any_numbers(l->heard)) {
        take_heading(l->heard, l->cells.cell);
        return;
    }
    if (words && l->cells.named->len == 0) {
        line_name_columns(&l->cells); /* perhaps */
        return;
    }
    if (l->cells.named->len > 0 && words) {
        take_cells(l->heard, l->cells.named);
    }
    take_cells(l->heard, l->cells.cell);
    if (l->cells.named->len > 0 && !words) {
        take_heading(l->heard, l->cells.named);
    }
    g_ptr_array_set_size(l->cells.named, 0);
}

static void note_unread(rgp_heard *h, const char *line, const char *why)
{
    g_autofree char *valid = g_utf8_make_valid(line ? line : "", -1);
    g_autofree char *shown = g_utf8_substring(valid, 0, MIN(g_utf8_strlen(valid, -1), SHOWN));
    g_free(h->unread_line);
    h->unread_line = g_strdup_printf("'%s': %s", rgp_make_printable(shown, false), why);
    h->unread++;
}

static void take_line(void *self, const char *line)
{
    listening *l = self;
    const char *why = "a line has more than 4096 characters";
    if (line && *line == '#') {
        return;
    }
    if (l->heard->lines == 0 && line) { /* the first line says which of the two it is */
        l->heard->json = l->cells.json = *line == '{';
    }
    l->heard->lines++;
    if (!line || !line_split(&l->cells, line, &why)) {
        note_unread(l->heard, line, why);
    } else if (l->cells.json) {
        take_fields(l, l->cells.object, "", 0);
    } else {
        take_row(l);
    }
}

/* ---- the whole ------------------------------------------------------------------------------------- */

static bool listen_to(listening *l, int fd, bool (*over)(void), GError **error)
{
    const uint64_t begun = clock_wall_ns();
    const double wanted = l->heard->seconds;
    char bytes[1024];
    l->bytes.skips = true;
    for (double passed = 0.0; passed < wanted && !over(); passed = (double)(clock_wall_ns() - begun) / 1e9) {
        struct pollfd at = {.fd = fd, .events = POLLIN};
        const ssize_t got = poll(&at, 1, LOOK_MS) > 0 ? read(fd, bytes, sizeof bytes) : 0;
        l->heard->seconds = (double)(clock_wall_ns() - begun) / 1e9;
        if (at.revents & (POLLHUP | POLLERR) || (got < 0 && errno != EAGAIN && errno != EINTR)) {
            g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: it went away", l->heard->path);
            return false;
        }
        if (got > 0) {
            line_take_bytes(&l->bytes, bytes, (gsize)got, take_line, l);
        }
    }
    return true;
}

rgp_heard *rgp_serial_listen(const char *path, unsigned speed, double seconds, bool (*over)(void), GError **error)
{
    const int fd = tty_open(path, speed, false, error);
    if (fd < 0) {
        return NULL;
    }
    g_autofree listening *l = g_new0(listening, 1);
    l->heard = g_new0(rgp_heard, 1);
    *l->heard = (rgp_heard){.path = g_strdup(path), .speed = speed, .seconds = seconds};
    l->heard->column = g_array_new(FALSE, TRUE, sizeof(rgp_heard_column));
    line_begin(&l->cells, false);
    const bool heard = listen_to(l, fd, over, error);
    line_end(&l->cells);
    close(fd);
    if (!heard) {
        rgp_heard_free(l->heard);
        return NULL;
    }
    return l->heard;
}

void rgp_heard_free(rgp_heard *h)
{
    for (guint i = 0; h && i < h->column->len; i++) {
        rgp_heard_column *c = &g_array_index(h->column, rgp_heard_column, i);
        g_free(c->name);
        for (unsigned k = 0; k < HEARD_WORDS; k++) {
            g_free(c->word[k]);
        }
    }
    if (h) {
        g_array_unref(h->column);
        g_free(h->unread_line);
        g_free(h->path);
        g_free(h);
    }
}

double rgp_heard_noise(const rgp_heard_column *c)
{
    return c->numbers > 2 ? sqrt(c->squares / (double)(c->numbers - 1) / 2.0) : NAN;
}

/* ---- the lines to paste ---------------------------------------------------------------------------- */

/* A name that the language takes. */
static char *name_for(const rgp_heard_column *c, guint number)
{
    GString *name = g_string_new(NULL);
    for (const char *at = c->name ? c->name : ""; *at; at++) {
        g_string_append_c(name, g_ascii_isalnum(*at) ? g_ascii_tolower(*at) : '_');
    }
    while (name->len && name->str[name->len - 1] == '_') {
        g_string_truncate(name, name->len - 1);
    }
    if (!g_ascii_isalpha(*name->str)) {
        g_string_printf(name, "reading%u", number);
    }
    return g_string_free(name, FALSE);
}

/* As far as a converter of 8, 10, 12, ... bits goes. */
static double reach_of(double greatest)
{
    double reach = 256.0;
    while (reach - 1.0 < greatest && reach < 2147483648.0) {
        reach *= 4.0;
    }
    return reach - 1.0;
}

static bool is_switch(const rgp_heard_column *c)
{
    return c->numbers == 0 && c->words == 2;
}

static void put_sensor(const rgp_heard *h, const rgp_heard_column *c, const char *name, GString *to)
{
    const double every = 3e3 * h->seconds / (double)MAX(h->lines, 1u);
    const double whole = every < 10.0 ? ceil(every) : ceil(every / 10.0) * 10.0;
    if (is_switch(c)) {
        g_string_append_printf(to, "sensor %s switch, every %.0f ms\n", name, whole);
    } else {
        const double factor = pow(10.0, c->decimals),
                     reach = reach_of(fmax(fabs(c->least), fabs(c->greatest)) * factor);
        g_string_append_printf(to, "sensor %s counts %.0f..%.0f, every %.0f ms\n", name, c->least < 0.0 ? -reach : 0.0,
                               reach, whole);
    }
}

static void put_connection(const rgp_heard_column *c, const char *name, guint number, GString *to)
{
    if (c->name) {
        g_string_append_printf(to, "    %s takes \"%s\" of board", name, c->name);
    } else {
        g_string_append_printf(to, "    %s takes column %u of board", name, number);
    }
    if (is_switch(c)) {
        g_string_append_printf(to, ": on \"%s\", off \"%s\"", c->word[0], c->word[1]);
    } else if (c->decimals > 0) {
        g_string_append_printf(to, ": times %.0f", pow(10.0, c->decimals));
    }
    g_string_append_c(to, '\n');
}

/* A column that has said one word may be a switch that did not change meanwhile; one of many words is no reading. */
char *rgp_heard_lines(const rgp_heard *h)
{
    GString *sensors = g_string_new(NULL), *connections = g_string_new(NULL);
    for (guint i = 0; i < h->column->len; i++) {
        const rgp_heard_column *c = &g_array_index(h->column, rgp_heard_column, i);
        if (c->numbers > 0 || is_switch(c)) {
            g_autofree char *name = name_for(c, i + 1);
            put_sensor(h, c, name, sensors);
            put_connection(c, name, i + 1, connections);
        } else if (c->words == 1) {
            g_string_append_printf(connections, "    # column %u has only said \"%s\": listen while it changes\n",
                                   i + 1, c->word[0]);
        }
    }
    g_string_append_printf(sensors, "\nhookup serial\n    device board: path \"%s\", speed %u%s\n%s", h->path, h->speed,
                           h->json ? ", json" : "", connections->str);
    g_string_free(connections, TRUE);
    return g_string_free(sensors, FALSE);
}
