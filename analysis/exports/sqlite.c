/* A recording as an SQLite file: `rows` with a column for each value, `events`, `columns` with their units, `run`; and
 * for each value a view of its own, with the time in seconds, in which what is not to be used is left out. */
#include "exports.h"

#include "files/files.h"

#include <gio/gio.h>
#include <glib/gstdio.h>
#include <sqlite3.h>
#include <string.h>

#define COLUMNS_MOST 1900u /* of a table of SQLite as it is built */

typedef struct base {
    const rgp_export *ask;
    const rgp_recording *r;
    GArray *column;
    sqlite3 *db;
} base;

static const rgp_export_column *column_at(const base *b, guint i)
{
    return &g_array_index(b->column, rgp_export_column, i);
}

static bool fail(const base *b, GError **error)
{
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: %s; nothing was written", b->ask->path,
                sqlite3_errmsg(b->db));
    return false;
}

static bool run(const base *b, const char *sql, GError **error)
{
    return sqlite3_exec(b->db, sql, NULL, NULL, NULL) == SQLITE_OK || fail(b, error);
}

/* A name as one of SQL's, whatever is in it. */
static void put_name(GString *to, const char *name)
{
    char *quoted = sqlite3_mprintf("\"%w\"", name);
    g_string_append(to, quoted);
    sqlite3_free(quoted);
}

/* ---- tables ---------------------------------------------------------------------------------------- */

static bool make_tables(const base *b, GError **error)
{
    g_autoptr(GString) sql = g_string_new("CREATE TABLE rows (time_us INTEGER");
    for (guint i = 0; i < b->column->len; i++) {
        g_string_append(sql, ", ");
        put_name(sql, column_at(b, i)->plain);
        g_string_append(sql, column_at(b, i)->kind == RGP_COLUMN_NAMES ? " TEXT" : " REAL");
    }
    g_string_append(sql, ");"
                         "CREATE INDEX rows_by_time ON rows (time_us);"
                         "CREATE TABLE events (time REAL, event TEXT, of TEXT, line INTEGER, says TEXT, why TEXT, did "
                         "TEXT);"
                         "CREATE TABLE columns (name TEXT, unit TEXT, called TEXT);"
                         "CREATE TABLE run (rig TEXT, tick_us INTEGER, seed INTEGER, ending TEXT, text TEXT);");
    return run(b, sql->str, error);
}

static bool is_table(const char *name)
{
    static const char *const tables[] = {"rows", "events", "columns", "run"};
    for (size_t i = 0; i < G_N_ELEMENTS(tables); i++) {
        if (g_ascii_strcasecmp(name, tables[i]) == 0) {
            return true;
        }
    }
    return g_ascii_strncasecmp(name, "sqlite_", 7) == 0;
}

/* SQL knows no capitals: of two names that differ in those alone the second gets a number. */
static void part_names(base *b)
{
    for (guint i = 0; i < b->column->len; i++) {
        rgp_export_column *c = &g_array_index(b->column, rgp_export_column, i);
        for (guint k = 0, n = 2; k < i; k++) {
            if (g_ascii_strcasecmp(column_at(b, k)->plain, c->plain) == 0 ||
                g_ascii_strcasecmp(c->plain, "time_us") == 0) {
                char *other = g_strdup_printf("%s_%u", c->name, n++);
                g_free(c->plain);
                c->plain = other;
                k = 0;
            }
        }
        rgp_export_renamed(b->ask, c->name, c->plain);
    }
}

static bool make_views(const base *b, GError **error)
{
    bool made = true;
    for (guint i = 0; i < b->column->len && made; i++) {
        const rgp_export_column *c = column_at(b, i);
        g_autofree char *view = g_strconcat(is_table(c->plain) ? "value_" : "", c->plain, NULL);
        g_autofree char *titled = *c->unit ? g_strdup_printf("%s [%s]", c->name, c->unit) : g_strdup(c->name);
        g_autoptr(GString) sql = g_string_new("CREATE VIEW ");
        if (is_table(c->plain)) {
            rgp_export_renamed(b->ask, c->plain, view);
        }
        put_name(sql, view);
        g_string_append(sql, " AS SELECT time_us / 1e6 AS time, ");
        put_name(sql, c->plain);
        g_string_append(sql, " AS ");
        put_name(sql, titled);
        g_string_append(sql, " FROM rows WHERE ");
        put_name(sql, c->plain);
        g_string_append(sql, " IS NOT NULL");
        made = run(b, sql->str, error);
    }
    return made;
}

/* ---- rows ------------------------------------------------------------------------------------------ */

static void bind_cell(const base *b, sqlite3_stmt *to, guint i, uint32_t row)
{
    const rgp_export_column *c = column_at(b, i);
    const int at = (int)i + 2;
    if (!rgp_usable(rgp_history_quality(b->r->history, c->column, row))) {
        sqlite3_bind_null(to, at);
    } else if (c->kind == RGP_COLUMN_NAMES) {
        sqlite3_bind_text(to, at, rgp_export_word(b->r, c, row), -1, SQLITE_STATIC);
    } else {
        sqlite3_bind_double(to, at, (double)rgp_history_value(b->r->history, c->column, row));
    }
}

static bool step(const base *b, sqlite3_stmt *statement, GError **error)
{
    const bool done = sqlite3_step(statement) == SQLITE_DONE || fail(b, error);
    sqlite3_reset(statement);
    return done;
}

static bool put_rows(const base *b, GError **error)
{
    g_autoptr(GString) sql = g_string_new("INSERT INTO rows VALUES (?");
    sqlite3_stmt *to = NULL;
    for (guint i = 0; i < b->column->len; i++) {
        g_string_append(sql, ", ?");
    }
    g_string_append(sql, ")");
    bool put = sqlite3_prepare_v2(b->db, sql->str, -1, &to, NULL) == SQLITE_OK || fail(b, error);
    for (uint32_t row = 0; row < b->r->rows && put; row++) {
        sqlite3_bind_int64(to, 1, (sqlite3_int64)rgp_recording_time_us(b->r, row));
        for (guint i = 0; i < b->column->len; i++) {
            bind_cell(b, to, i, row);
        }
        put = step(b, to, error);
    }
    sqlite3_finalize(to);
    return put;
}

static void bind_text(sqlite3_stmt *to, int at, const char *text)
{
    if (text) {
        sqlite3_bind_text(to, at, text, -1, SQLITE_TRANSIENT);
    } else {
        sqlite3_bind_null(to, at);
    }
}

static bool put_events(const base *b, GError **error)
{
    const GPtrArray *all = rgp_history_occurrences(b->r->history);
    sqlite3_stmt *to = NULL;
    bool put = sqlite3_prepare_v2(b->db, "INSERT INTO events VALUES (?,?,?,?,?,?,?)", -1, &to, NULL) == SQLITE_OK ||
               fail(b, error);
    for (guint i = 0; i < all->len && put; i++) {
        const rgp_occurrence *o = all->pdata[i];
        sqlite3_bind_double(to, 1, o->time);
        bind_text(to, 2, rgp_event_word(o->kind));
        bind_text(to, 3, o->of);
        sqlite3_bind_int(to, 4, (int)o->line);
        bind_text(to, 5, o->says);
        bind_text(to, 6, o->why);
        bind_text(to, 7, o->did);
        put = step(b, to, error);
    }
    sqlite3_finalize(to);
    return put;
}

static bool put_run(const base *b, GError **error)
{
    sqlite3_stmt *to = NULL;
    bool put =
        sqlite3_prepare_v2(b->db, "INSERT INTO run VALUES (?,?,?,?,?)", -1, &to, NULL) == SQLITE_OK || fail(b, error);
    if (put) {
        bind_text(to, 1, rgp_image_text(b->r->image, RGP_NAME_RIG, 0, 0));
        sqlite3_bind_int64(to, 2, b->r->image->tick_us);
        sqlite3_bind_int64(to, 3, (sqlite3_int64)b->r->seed);
        bind_text(to, 4, b->r->ending);
        bind_text(to, 5, b->r->rig->source);
        put = step(b, to, error);
    }
    sqlite3_finalize(to);
    put = put && (sqlite3_prepare_v2(b->db, "INSERT INTO columns VALUES (?,?,?)", -1, &to, NULL) == SQLITE_OK ||
                  fail(b, error));
    for (guint i = 0; i < b->column->len && put; i++) {
        bind_text(to, 1, column_at(b, i)->name);
        bind_text(to, 2, column_at(b, i)->unit);
        bind_text(to, 3, column_at(b, i)->plain);
        put = step(b, to, error);
    }
    sqlite3_finalize(put ? to : NULL);
    return put;
}

/* ---- the whole ------------------------------------------------------------------------------------- */

static bool fill(base *b, GError **error)
{
    part_names(b);
    return run(b, "PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF; BEGIN", error) && make_tables(b, error) &&
           make_views(b, error) && put_run(b, error) && put_rows(b, error) && put_events(b, error) &&
           run(b, "COMMIT", error);
}

bool rgp_export_sqlite(const rgp_export *ask, GError **error)
{
    base b = {.ask = ask, .r = ask->recording, .column = rgp_export_columns(ask->recording)};
    g_autofree char *beside = rgp_file_temporary(ask->path);
    bool written = b.column->len <= COLUMNS_MOST;
    if (!written) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_SUPPORTED, "%s: a table takes %u columns, the recording has %u",
                    ask->path, COLUMNS_MOST, b.column->len);
    }
    rgp_file_sweep(ask->path);
    written = written && (sqlite3_open(beside, &b.db) == SQLITE_OK || fail(&b, error)) && fill(&b, error);
    sqlite3_close(b.db);
    g_array_unref(b.column);
    if (written && g_rename(beside, ask->path) != 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s cannot be written", ask->path);
        written = false;
    }
    if (!written) {
        g_unlink(beside);
    }
    return written;
}
