#include "pickup.h"

#include <csv.h>
#include <gio/gio.h>
#include <gsl/gsl_randist.h>
#include <math.h>
#include <string.h>

enum { NOISE, SPIKES, SPIKES_EVERY };

#define PICKUP_SETTINGS                                                                                  \
    {                                                                                                    \
        [NOISE] = {"noise", "counts", 0, 0, 1e9, false, "standard deviation"},                           \
        [SPIKES] = {"spikes", "counts", 0, 0, 1e9, false, "height of single readings that are far off"}, \
        [SPIKES_EVERY] = {                                                                               \
            "every",                                                                                     \
            "s",                                                                                         \
            10,                                                                                          \
            1e-3,                                                                                        \
            1e9,                                                                                         \
            true,                                                                                        \
            "mean time from spike to spike"                                                              \
        }                                                                                                \
    }

static const rp_pickup_kind sees = {.word = "sees",
                                    .source = RP_PICKUP_MECHANISM,
                                    .help = "SENSOR sees MECHANISM QUANTITY: RAW at QUANTITY, RAW at QUANTITY",
                                    .setting = PICKUP_SETTINGS};
static const rp_pickup_kind plays = {.word = "plays",
                                     .source = RP_PICKUP_FILE,
                                     .help =
                                         "SENSOR plays \"FILE.csv\" [\"COLUMN\"]; the first column is the time in s",
                                     .setting = PICKUP_SETTINGS};
static const rp_pickup_kind reads = {
    .word = "reads", .source = RP_PICKUP_CONSTANT, .help = "SENSOR reads RAW", .setting = PICKUP_SETTINGS};

const rp_pickup_kind *const pickup_kinds[] = {&sees, &plays, &reads, NULL};

/* ---- played files -------------------------------------------------------------------------------- */

typedef struct csv_reading {
    pickup *to;
    const char *wanted;
    guint column, chosen;
    guint64 row;
    double time;
    bool bad;
} csv_reading;

static void take_field(void *field, size_t length, void *self)
{
    csv_reading *r = self;
    g_autofree char *text = g_strndup(field, length);
    char *end = text;
    if (r->row == 0) {
        const bool named = r->wanted && strcmp(text, r->wanted) == 0;
        r->chosen = named || (!r->wanted && r->column == 1) ? r->column : r->chosen;
    } else if (r->column == 0) {
        r->time = g_ascii_strtod(text, &end);
        r->bad |= end == text || !isfinite(r->time);
    } else if (r->column == r->chosen) {
        const double value = g_ascii_strtod(text, &end);
        const bool later = r->to->time->len == 0 || r->time > g_array_index(r->to->time, double, r->to->time->len - 1);
        r->bad |= end == text || !isfinite(value) || !later;
        g_array_append_val(r->to->time, r->time);
        g_array_append_val(r->to->value, value);
    }
    r->column++;
}

static void take_row(int ending, void *self)
{
    (void)ending;
    csv_reading *r = self;
    r->column = 0;
    r->row++;
}

static bool read_played(pickup *p, const char *folder, GError **error)
{
    g_autofree char *path = g_canonicalize_filename(p->item->path, folder);
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!g_file_get_contents(path, &text, &length, error)) {
        return false;
    }
    p->time = g_array_new(FALSE, FALSE, sizeof(double));
    p->value = g_array_new(FALSE, FALSE, sizeof(double));
    csv_reading r = {.to = p, .wanted = p->item->column};
    struct csv_parser parser;
    csv_init(&parser, CSV_APPEND_NULL);
    csv_parse(&parser, text, length, take_field, take_row, &r);
    csv_fini(&parser, take_field, take_row, &r);
    csv_free(&parser);
    if (r.bad || p->time->len == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA,
                    "%s: %s; it must have a header, times in seconds that rise in its first column, and numbers%s%s%s",
                    path, r.chosen ? "this is not a table of readings" : "there is no such column",
                    r.wanted ? " in the column '" : "", r.wanted ? r.wanted : "", r.wanted ? "'" : "");
        return false;
    }
    return true;
}

static double played(pickup *p, double time)
{
    while (p->next + 1 < p->time->len && g_array_index(p->time, double, p->next + 1) <= time) {
        p->next++;
    }
    return g_array_index(p->value, double, p->next);
}

/* ---- readings ------------------------------------------------------------------------------------ */

bool pickup_begin(pickup *p, const rp_pickup_item *item, int32_t low, int32_t high, uint64_t seed, const char *folder,
                  GError **error)
{
    *p = (pickup){.item = item, .low = low, .high = high};
    p->chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(p->chance, (unsigned long)(seed * 2654435761u + item->sensor + 1u));
    return !item->path || read_played(p, folder, error);
}

void pickup_end(pickup *p)
{
    if (p->chance) {
        gsl_rng_free(p->chance);
    }
    if (p->time) {
        g_array_unref(p->time);
        g_array_unref(p->value);
    }
}

static double scaled(const rp_pickup_item *item, double truth)
{
    if (item->points < 2) {
        return truth;
    }
    uint32_t i = 1;
    while (i + 1 < item->points && truth >= item->seen[i]) {
        i++;
    }
    const double share = (truth - item->seen[i - 1]) / (item->seen[i] - item->seen[i - 1]);
    return item->raw[i - 1] + share * (item->raw[i] - item->raw[i - 1]);
}

static double source(pickup *p, double truth, double time)
{
    switch (p->item->kind->source) {
    case RP_PICKUP_FILE:
        return played(p, time);
    case RP_PICKUP_CONSTANT:
        return p->item->constant;
    case RP_PICKUP_MECHANISM:
        break;
    }
    return scaled(p->item, truth);
}

/* Spikes come at random moments (an exponential wait) and last one reading. */
static double spike(pickup *p, double passed)
{
    const double *setting = p->item->value;
    if (setting[SPIKES] <= 0.0) {
        return 0.0;
    }
    const double roll = gsl_rng_uniform(p->chance), side = gsl_rng_uniform(p->chance);
    if (roll >= -expm1(-passed / setting[SPIKES_EVERY])) {
        return 0.0;
    }
    return side < 0.5 ? -setting[SPIKES] : setting[SPIKES];
}

rp_sample pickup_read(pickup *p, double truth, double time, double passed)
{
    double raw = source(p, truth, time);
    raw += p->item->value[NOISE] > 0.0 ? gsl_ran_gaussian_ziggurat(p->chance, p->item->value[NOISE]) : 0.0;
    raw += spike(p, passed);
    raw = fmin(fmax(round(raw), p->low), p->high);
    return (rp_sample){(uint64_t)llround(time * 1e6), (int32_t)raw, RP_GOOD};
}
