/* A CSV file read into the rows of one sensor. */
#include "played_table.h"

#include <gio/gio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#include "files/files.h"
#include "files/table.h"
#include "rigpulse/lang.h"

#define TIME_MOST     1e11 /* seconds: about 3000 years */
#define COLUMNS_NAMED 12   /* in a message */

typedef struct reading {
    played_table *to;
    const played_ask *ask;
    GPtrArray *header;
    guint value_at, samples_at, not_good_at; /* columns; 0: there is none */
    guint column;
    guint64 row;
    played_row now; /* what the present row says */
    double last;    /* seconds */
    bool same;      /* it is no new reading */
    char *why;      /* the first mistake; NULL: none */
    bool whole_why; /* it needs no word on what such a file must have */
    guint64 wrong;  /* its row, from 1 */
} reading;

static void complain(reading *r, bool wrong, const char *format, ...) __attribute__((format(printf, 3, 4)));

static void complain(reading *r, bool wrong, const char *format, ...)
{
    if (wrong && !r->why) {
        va_list arguments;
        va_start(arguments, format);
        r->why = rgp_make_printable(g_strdup_vprintf(format, arguments), false);
        va_end(arguments);
        r->wrong = r->row + 1;
    }
}

/* The whole field is a number. */
static bool number_of(const char *text, double *number)
{
    char *end;
    *number = g_ascii_strtod(text, &end);
    return end != text && end[strspn(end, " \t")] == '\0';
}

/* ---- the header ------------------------------------------------------------------------------------ */

static const char *header_at(const reading *r, guint i)
{
    return r->header->pdata[i];
}

/* "level [counts]" is called "level", too. */
static bool is_called(const char *header, const char *name)
{
    const size_t length = strlen(name);
    return strncmp(header, name, length) == 0 && (header[length] == '\0' || g_str_has_prefix(header + length, " ["));
}

static guint find_called(const reading *r, const char *name)
{
    guint found = 0;
    for (guint i = r->header->len; i-- > 1;) {
        found = is_called(header_at(r, i), name) ? i : found;
    }
    for (guint i = r->header->len; i-- > 1;) {
        found = strcmp(header_at(r, i), name) == 0 ? i : found;
    }
    return found;
}

/* The only column beside the time; 0: there are none or several. */
static guint find_only(const reading *r)
{
    return r->header->len == 2 ? 1 : 0;
}

/* A column in which a recording says something about values, such as an owner, and not a value. */
static bool is_remark(const char *header)
{
    return g_str_has_suffix(header, " owner") || strcmp(header, "samples") == 0 || strcmp(header, "not good") == 0;
}

/* The names of what could be played, without their units. */
static GPtrArray *playable(const reading *r)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    for (guint i = 1; i < r->header->len; i++) {
        const char *unit = strstr(header_at(r, i), " [");
        if (!is_remark(header_at(r, i))) {
            g_ptr_array_add(all, unit ? g_strndup(header_at(r, i), (gsize)(unit - header_at(r, i)))
                                      : g_strdup(header_at(r, i)));
        }
    }
    return all;
}

/* "did you mean 'depth'?", or all that there are. */
static char *columns_told(const reading *r, const char *wanted)
{
    g_autoptr(GPtrArray) all = playable(r);
    const char *near = rgp_nearest_word(wanted, (const char *const *)all->pdata, all->len);
    if (near) {
        return g_strdup_printf("did you mean '%s'?", near);
    }
    GString *told = g_string_new("there is: ");
    for (guint i = 0; i < all->len && i < COLUMNS_NAMED; i++) {
        g_string_append_printf(told, "%s'%s'", i > 0 ? ", " : "", (const char *)all->pdata[i]);
    }
    return g_string_free(g_string_append(told, all->len > COLUMNS_NAMED ? ", ..." : ""), FALSE);
}

static void choose_column(reading *r)
{
    const char *wanted = r->ask->column ? r->ask->column : r->ask->sensor;
    r->value_at = find_called(r, wanted);
    if (r->value_at == 0 && !r->ask->column) {
        r->value_at = find_only(r);
    }
    r->samples_at = find_called(r, "samples");
    r->not_good_at = find_called(r, "not good");
    double number;
    complain(r, r->header->len > 0 && number_of(header_at(r, 0), &number), "its first row is no header");
    g_autofree char *told = columns_told(r, wanted);
    complain(r, r->value_at == 0 && r->header->len < 2, "there is no column beside the first");
    r->whole_why = r->value_at == 0 && !r->why;
    complain(r, r->value_at == 0, "there is no column '%s'; %s", wanted, told);
    const char *unit = r->value_at > 0 ? strchr(header_at(r, r->value_at), '[') : NULL;
    r->to->unit = g_strndup(unit ? unit + 1 : "", unit ? strcspn(unit + 1, "]") : 0);
}

/* ---- rows ------------------------------------------------------------------------------------------ */

static void take_time(reading *r, const char *text)
{
    double time;
    const bool is_time = number_of(text, &time) && isfinite(time);
    complain(r, !is_time, "there is no time in its first column");
    complain(r, time < 0.0, "its time is below 0");
    complain(r, time > TIME_MOST, "its time is beyond 3000 years: is it in seconds?");
    complain(r, !(time > r->last), "its time is not behind that of the row before");
    r->last = time;
    r->now.time_us = r->why ? 0 : (uint64_t)llround(time * 1e6);
}

static bool word_of(const reading *r, const char *text, double *number)
{
    *number = 0.0;
    for (char **word = r->ask->word; *word && strcmp(*word, text) != 0; word++) {
        (*number)++;
    }
    return r->ask->word[(size_t)*number] != NULL;
}

/* An empty cell and a NaN, as data frames write them, are missing. */
static void take_value(reading *r, const char *text)
{
    r->now.value = NAN;
    if (text[strspn(text, " \t")] != '\0') {
        const bool is_number = number_of(text, &r->now.value) && !isinf(r->now.value);
        if (!is_number && !word_of(r, text, &r->now.value)) {
            g_autofree char *words = g_strjoinv(", ", r->ask->word);
            complain(r, true, "what is to be played is no number%s%s: '%.40s'", *words ? " and not one of " : "", words,
                     text);
        }
    }
}

/* The word that a remark like "level: same; echo: missing" has for a column; NULL: none. */
static const char *said_of(const char *text, const char *header)
{
    const size_t length = strcspn(header, "[") - (strchr(header, '[') ? 1 : 0);
    const char *at = text;
    while (at && !(strncmp(at, header, length) == 0 && g_str_has_prefix(at + length, ": "))) {
        at = strstr(at, "; ");
        at = at ? at + 2 : NULL;
    }
    return at ? at + length + 2 : NULL;
}

/* Takes a remark. In a recording with samples, the engine judges anew the values that were not good. */
static void take_remark(reading *r, const char *text)
{
    const char *said = r->value_at > 0 ? said_of(text, header_at(r, r->value_at)) : NULL;
    if (said && r->column == r->samples_at) {
        r->same = g_str_has_prefix(said, "same");
        r->now.value = g_str_has_prefix(said, "missing") ? NAN : r->now.value;
    } else if (said && r->samples_at == 0) {
        r->now.value = NAN;
    }
}

static void take_field(void *field, size_t length, void *self)
{
    reading *r = self;
    const char *text = field;
    if (r->row == 0) {
        complain(r, r->column == 0 && strchr(text, ';'),
                 "its columns are divided by ';', save it with commas and decimal points");
        g_ptr_array_add(r->header, g_strndup(text, length));
    } else if (r->why) {
        return;
    } else if (r->column == 0) {
        take_time(r, text);
    } else if (r->column == r->value_at) {
        take_value(r, text);
    } else if (r->column == r->samples_at || r->column == r->not_good_at) {
        take_remark(r, text);
    }
    r->column++;
}

/* A last row that was cut off is passed over. */
static void take_row(int ending, void *self)
{
    reading *r = self;
    const bool whole = r->column > r->value_at, cut = ending == -1 && r->column < r->header->len;
    if (r->row == 0) {
        choose_column(r);
    } else if (!cut) {
        complain(r, !whole, "it ends before the column that is to be played");
        if (!r->same) {
            g_array_append_val(r->to->row, r->now);
        }
    }
    r->column = 0;
    r->same = false;
    r->row++;
}

static void read_rows(reading *r, char *text, gsize length)
{
    const rgp_table_reader reader = {.field = take_field, .row = take_row, .self = r};
    rgp_table *table = rgp_table_new(&reader, true);
    rgp_table_feed(table, text, length);
    const rgp_table_end end = rgp_table_finish(table);
    complain(r, end == RGP_TABLE_STRAY_QUOTE, "a quote stands where none may");
    complain(r, end == RGP_TABLE_OPEN_QUOTE, "a quote that opens here is not closed");
    complain(r, r->to->row->len == 0, "there are no readings");
}

/* ---- edges ----------------------------------------------------------------------------------------- */

static void take_edge(played_table *to, const char *header, const char *text)
{
    json_t *line = json_loads(text, 0, NULL);
    const char *event = "", *of = "";
    json_int_t value = 0, time_us = -1;
    json_unpack(line, "{s:s, s:s, s:I, s:I}", "event", &event, "of", &of, "value", &value, "us", &time_us);
    if (strcmp(event, "edge") == 0 && is_called(header, of) && time_us >= 0) {
        const played_row row = {(uint64_t)time_us, value ? 1.0 : 0.0};
        g_array_append_val(to->edge, row);
    }
    json_decref(line);
}

/* The events of a recording stand beside its table; other tables have none. */
static void read_edges(played_table *to, const char *path, const char *header)
{
    if (!g_str_has_suffix(path, ".csv")) {
        return;
    }
    g_autofree char *name = g_strndup(path, strlen(path) - strlen(".csv"));
    g_autofree char *events = g_strconcat(name, ".events.jsonl", NULL);
    g_autofree char *text = NULL;
    if (!rgp_file_read(events, &text, NULL, NULL)) {
        return;
    }
    for (char *line = text, *next; *line; line = next) {
        next = line + strcspn(line, "\n");
        next += *next ? 1 : 0;
        if (next > line && next[-1] == '\n') {
            next[-1] = '\0';
        }
        if (strstr(line, "\"edge\"")) {
            take_edge(to, header, line);
        }
    }
}

/* ---- both ------------------------------------------------------------------------------------------ */

bool played_table_read(played_table *to, const played_ask *ask, GError **error)
{
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!rgp_file_read(ask->path, &text, &length, error)) {
        return false;
    }
    reading r = {.to = to, .ask = ask, .last = -1.0, .header = g_ptr_array_new_with_free_func(g_free)};
    read_rows(&r, text, length);
    if (r.why) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: row %" G_GUINT64_FORMAT ": %s%s", ask->path,
                    r.wrong, r.why,
                    r.whole_why ? ""
                                : "; it must have a header, times in seconds that rise in its first column, and "
                                  "numbers in the one that is played");
    } else {
        read_edges(to, ask->path, header_at(&r, r.value_at));
    }
    const bool sound = !r.why;
    g_ptr_array_unref(r.header);
    g_free(r.why);
    return sound;
}

void played_table_clear(played_table *table)
{
    g_array_unref(table->row);
    g_array_unref(table->edge);
    g_free(table->unit);
}
