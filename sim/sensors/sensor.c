/* Simulated sensors: a scale, a file or a constant, with noise, spikes, hum, steps and faults. */
#include "sensor.h"

#include <csv.h>
#include <gio/gio.h>
#include <gsl/gsl_randist.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>
#include <string.h>

#include "files/files.h"
#include "sim/mechanisms/mechanism.h"

enum { NOISE, SPIKES, SPIKES_EVERY, FLICKER, FLICKER_EVERY, WARMUP, WARMUP_OVER, BIAS, MISSES, PERIOD, AVERAGED };
enum { PACE };

#define SECONDS_A_DAY 86400.0
#define PASSED_OVER   1.5 /* readings of a file in a tick, from which on some are passed over */

/* clang-format off */
#define PICKUP_SETTINGS                                                                                 \
    [NOISE] = {"noise", "counts", 0, 0, 1e9, false, "standard deviation"},                              \
    [SPIKES] = {"spikes", "counts", 0, 0, 1e9, false, "height of single readings that are far off"},    \
    [SPIKES_EVERY] = {"every", "s", 10, 1e-3, 1e9, true, "mean time from spike to spike"},              \
    [FLICKER] = {"flicker", "counts", 0, 0, 1e9, false, "height of a hum, as from lamps on the mains"}, \
    [FLICKER_EVERY] = {"every", "s", 0.01, 1e-5, 1e4, true, "period of the hum"},                       \
    [WARMUP] = {"warmup", "counts", 0, -1e9, 1e9, false, "how far it is off when it is switched on"},   \
    [WARMUP_OVER] = {"over", "s", 10, 1e-3, 1e6, true, "time constant with which that goes away"},      \
    [BIAS] = {"bias", "counts", 0, -1e9, 1e9, false, "how far it is off always"},                       \
    [MISSES] = {"misses", "%", 0, 0, 100, false, "share of the readings that come as the low end of the range"}, \
    [PERIOD] = {"period", "s", 0, 0, 3600, false, "time from one new reading to the next; 0: one each tick"}
/* clang-format on */

#define FAULT(word, unit, help)      \
    {                                \
        word, unit, help, 0, 0, true \
    }
#define PICKUP_FAULTS                                                                \
    [FAULT_STICKS] = FAULT("sticks", NULL, "it says the same again and again"),      \
    [FAULT_PINS] = FAULT("pins", NULL, "it is at the high end of its range"),        \
    [FAULT_LAGS] = FAULT("lags", NULL, "no newer reading comes"),                    \
    [FAULT_DROPS] = FAULT("drops", NULL, "it does not answer"),                      \
    [FAULT_SPIKES] = FAULT("spikes", "counts", "every third reading is so far off"), \
    [FAULT_DRIFTS] = FAULT("drifts", "counts/s", "it moves off, so fast"),           \
    [FAULT_LEAPS] = FAULT("leaps", "counts", "it is so far off at once")

static const rgp_sensor_kind sees = {.word = "sees",
                                     .source = RGP_SOURCE_MECHANISM,
                                     .help = "SENSOR sees MECHANISM QUANTITY: RAW at QUANTITY, RAW at QUANTITY",
                                     .setting = {PICKUP_SETTINGS},
                                     .disturbance = {PICKUP_FAULTS}};
static const rgp_sensor_kind plays = {
    .word = "plays",
    .source = RGP_SOURCE_FILE,
    .help = "SENSOR plays \"FILE.csv\" [\"COLUMN\"], or a .wav file",
    .setting = {PICKUP_SETTINGS, [AVERAGED] = {"averaged", "s", 0, 0, 3600, false,
                                               "each reading is the mean over so long before it"}},
    .disturbance = {PICKUP_FAULTS}};
static const rgp_sensor_kind reads = {.word = "reads",
                                      .source = RGP_SOURCE_CONSTANT,
                                      .help = "SENSOR reads RAW",
                                      .setting = {PICKUP_SETTINGS},
                                      .disturbance = {PICKUP_FAULTS}};

static const rgp_sensor_kind tells = {
    .word = "tells",
    .source = RGP_SOURCE_CLOCK,
    .help = "SENSOR tells TIME: a clock, in seconds since midnight",
    .setting = {[PACE] = {"pace", "", 1, 0.001, 1e5, false, "how many times as fast as time goes"}},
    .disturbance = {[FAULT_STICKS] = FAULT("sticks", NULL, "it stands still"),
                    [FAULT_PINS] = FAULT("pins", NULL, "it is at the high end of its range"),
                    [FAULT_LAGS] = FAULT("lags", NULL, "no newer reading comes"),
                    [FAULT_DROPS] = FAULT("drops", NULL, "it does not answer")}};

const rgp_sensor_kind *const simulated_kinds[] = {&sees, &plays, &reads, &tells, NULL};

/* ---- played files -------------------------------------------------------------------------------- */

typedef struct csv_reading {
    simulated *to;
    const char *wanted;
    guint column, chosen;
    guint64 row;
    double time;
    const char *why; /* the first mistake; NULL: none */
    guint64 wrong;   /* its row, from 1 */
} csv_reading;

static void complain(csv_reading *r, bool wrong, const char *why)
{
    if (wrong && !r->why) {
        r->why = why;
        r->wrong = r->row + 1;
    }
}

/* The whole field is a number. */
static bool number_of(const char *text, double *number)
{
    char *end;
    *number = g_ascii_strtod(text, &end);
    return end != text && end[strspn(end, " \t")] == '\0' && isfinite(*number);
}

static void take_field(void *field, size_t length, void *self)
{
    csv_reading *r = self;
    g_autofree char *text = g_strndup(field, length);
    complain(r, r->column == 0 && strchr(text, ';'),
             "its columns are divided by ';', save it with commas and decimal points");
    if (r->row == 0) {
        const bool named = r->wanted && strcmp(text, r->wanted) == 0;
        r->chosen = named || (!r->wanted && r->column == 1) ? r->column : r->chosen;
    } else if (r->column == 0) {
        const bool is_time = number_of(text, &r->time);
        complain(r, !is_time, "there is no time in its first column");
        complain(r, r->time < 0.0, "its time is below 0");
    } else if (r->column == r->chosen) {
        double value;
        const bool is_number = number_of(text, &value);
        const bool later = r->to->time->len == 0 || r->time > g_array_index(r->to->time, double, r->to->time->len - 1);
        complain(r, !is_number, "what is to be played is no number");
        complain(r, !later, "its time is not behind that of the row before");
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

/* The first channel of a sound; full scale is the sensor's range. */
static bool read_sound(simulated *p, const char *path, GError **error)
{
    SF_INFO info = {0};
    SNDFILE *file = sf_open(path, SFM_READ, &info);
    if (!file || info.channels < 1 || info.frames < 1 || info.frames > (sf_count_t)1 << 28) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: %s", path,
                    file ? "this sound is empty or too long" : sf_strerror(NULL));
        if (file) {
            sf_close(file);
        }
        return false;
    }
    g_autofree float *all = g_new0(float, (gsize)(info.frames * info.channels));
    p->sound_length = sf_readf_float(file, all, info.frames);
    p->sound_rate = info.samplerate;
    p->sound = g_new0(float, (gsize)info.frames);
    for (sf_count_t i = 0; i < p->sound_length; i++) {
        p->sound[i] = all[i * info.channels];
    }
    sf_close(file);
    return true;
}

static bool read_played(simulated *p, const char *folder, GError **error)
{
    g_autofree char *path = g_canonicalize_filename(p->item->path, folder);
    if (g_str_has_suffix(path, ".wav")) {
        return read_sound(p, path, error);
    }
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!rgp_file_read(path, &text, &length, error)) {
        return false;
    }
    p->time = g_array_new(FALSE, FALSE, sizeof(double));
    p->value = g_array_new(FALSE, FALSE, sizeof(double));
    csv_reading r = {.to = p, .wanted = p->item->column};
    struct csv_parser parser;
    csv_init(&parser, CSV_APPEND_NULL | CSV_STRICT | CSV_STRICT_FINI);
    if (csv_parse(&parser, text, length, take_field, take_row, &r) != length) {
        complain(&r, true, "a quote stands where none may");
    } else if (csv_fini(&parser, take_field, take_row, &r) != 0) {
        complain(&r, true, "a quote that opens here is not closed");
    }
    csv_free(&parser);
    complain(&r, p->time->len == 0, r.chosen ? "there are no readings" : "there is no such column");
    if (r.why) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA,
                    "%s: row %" G_GUINT64_FORMAT
                    ": %s; it must have a header, times in seconds that rise in its first column, and numbers%s%s%s",
                    path, r.chosen ? r.wrong : 1u, r.why, r.wanted ? " in the column '" : "", r.wanted ? r.wanted : "",
                    r.wanted ? "'" : "");
        return false;
    }
    return true;
}

/* The newest row that is not later. */
static void wind_on(simulated *p, double time)
{
    while (p->next + 1 < p->time->len && g_array_index(p->time, double, p->next + 1) <= time) {
        p->next++;
    }
}

static double played(const simulated *p, double time)
{
    const double from = time - p->item->value[AVERAGED];
    double mean = g_array_index(p->value, double, p->next);
    for (guint i = p->next, count = 1; i-- > 0 && g_array_index(p->time, double, i) > from;) {
        mean += (g_array_index(p->value, double, i) - mean) / ++count;
    }
    return mean;
}

/* The sample that has begun at the time, found in whole numbers, so that none is missed or taken twice for a rounding.
 */
static int64_t sound_at(const simulated *p, double time)
{
    return llround(time * 1e6) * p->sound_rate / 1000000;
}

/* Of -32768..32767, a sound of 16 bits is said as it is. */
static double heard(const simulated *p, double time)
{
    const int64_t at = sound_at(p, time), values = (int64_t)p->high - p->low + 1;
    const int64_t silence = p->low + values / 2;
    const int64_t many = MIN(at + 1, MAX(1, llround(p->item->value[AVERAGED] * (double)p->sound_rate)));
    double sum = 0.0;
    for (int64_t i = at - many + 1; i <= MIN(at, p->sound_length - 1); i++) {
        sum += (double)p->sound[i];
    }
    return (double)silence + 0.5 * sum / (double)many * (double)values;
}

/* Mean seconds from one of the file's readings to the next; 0: it has only one. */
static double pace_of(const simulated *p)
{
    if (p->sound) {
        return 1.0 / (double)p->sound_rate;
    }
    const guint rows = p->time ? p->time->len : 0;
    return rows > 1 ? (g_array_index(p->time, double, rows - 1) - g_array_index(p->time, double, 0)) / (rows - 1) : 0.0;
}

/* |x[i-1] - 2 x[i] + x[i+1]| of noise of deviation s has the deviation sqrt(6) s and the median 0.6745 times that; a
 * slope leaves no trace in it. */
double simulated_noise(const simulated *p)
{
    const guint rows = p->value ? p->value->len : 0;
    if (p->item->kind->source != RGP_SOURCE_FILE || p->item->value[AVERAGED] > 0.0 || rows < 3) {
        return 0.0;
    }
    const double *x = (const double *)(void *)p->value->data;
    g_autofree double *bend = g_new(double, rows - 2);
    for (guint i = 1; i + 1 < rows; i++) {
        bend[i - 1] = fabs(x[i - 1] - 2.0 * x[i] + x[i + 1]);
    }
    return gsl_stats_median(bend, 1, rows - 2) / (0.6745 * sqrt(6.0));
}

char *simulated_note(const simulated *p, uint32_t tick_us)
{
    const double pace = pace_of(p), each = pace > 0.0 ? tick_us * 1e-6 / pace : 0.0; /* in a tick */
    if (p->item->kind->source != RGP_SOURCE_FILE || p->item->value[AVERAGED] > 0.0 || each < PASSED_OVER) {
        return NULL;
    }
    return g_strdup_printf(
        "%s holds about %.3g readings for each tick, of which the last is read; 'averaged %g ms' behind "
        "its name reads their mean, a shorter tick all",
        p->item->path, each, tick_us / 1e3);
}

/* ---- readings ------------------------------------------------------------------------------------ */

bool simulated_begin(simulated *p, const rgp_sensor_item *item, int32_t low, int32_t high, uint64_t seed,
                     const char *folder, GError **error)
{
    *p = (simulated){.item = item, .low = low, .high = high, .last = {.quality = RGP_MISSING}};
    p->chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (int i = 0; i < FAULTS; i++) {
        p->fault[i].from = INFINITY;
    }
    gsl_rng_set(p->chance, (unsigned long)(seed * 2654435761u + item->sensor + 1u));
    return !item->path || read_played(p, folder, error);
}

void simulated_end(simulated *p)
{
    if (p->chance) {
        gsl_rng_free(p->chance);
    }
    g_free(p->sound);
    if (p->time) {
        g_array_unref(p->time);
        g_array_unref(p->value);
    }
}

static double scaled(const rgp_sensor_item *item, double truth)
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

static double source(simulated *p, double truth, double time)
{
    switch (p->item->kind->source) {
    case RGP_SOURCE_FILE:
        return p->sound ? heard(p, time) : played(p, time);
    case RGP_SOURCE_CONSTANT:
        return p->item->constant;
    case RGP_SOURCE_CLOCK:
        return floor(fmod(p->item->constant + p->item->value[PACE] * time, SECONDS_A_DAY));
    case RGP_SOURCE_MECHANISM:
        break;
    }
    return scaled(p->item, truth);
}

/* Spikes come at random moments (an exponential wait) and last one reading. */
static double spike(simulated *p, double passed)
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

void simulated_disturb(simulated *p, uint32_t which, double amount, double time, double lasting)
{
    p->disturbed = true;
    p->fault[which].from = time;
    p->fault[which].until = lasting > 0.0 ? time + lasting : INFINITY;
    p->fault[which].amount = amount;
}

static bool has_fault(const simulated *p, uint32_t which, double time)
{
    return p->disturbed && time >= p->fault[which].from && time < p->fault[which].until;
}

static double hum(const double *setting, double time)
{
    return setting[FLICKER] > 0.0 ? setting[FLICKER] * sin(2.0 * MECHANISM_PI * time / setting[FLICKER_EVERY]) : 0.0;
}

/* The error that is added to the truth by faults that leave the sensor alive. */
static double astray(const simulated *p, double time)
{
    double off = has_fault(p, FAULT_LEAPS, time) ? p->fault[FAULT_LEAPS].amount : 0.0;
    off +=
        has_fault(p, FAULT_DRIFTS, time) ? p->fault[FAULT_DRIFTS].amount * (time - p->fault[FAULT_DRIFTS].from) : 0.0;
    if (has_fault(p, FAULT_SPIKES, time) && gsl_rng_uniform_int(p->chance, 3) == 0) {
        off += p->fault[FAULT_SPIKES].amount;
    }
    return off;
}

int32_t simulated_level(const simulated *p, double truth)
{
    return (int32_t)fmin(fmax(round(scaled(p->item, truth)), p->low), p->high);
}

static double noisy(simulated *p, double raw, double time, double passed)
{
    const double *setting = p->item->value;
    raw += setting[NOISE] > 0.0 ? gsl_ran_gaussian_ziggurat(p->chance, setting[NOISE]) : 0.0;
    raw += spike(p, passed) + hum(setting, time) + setting[BIAS] + astray(p, time);
    raw += setting[WARMUP] != 0.0 ? setting[WARMUP] * exp(-time / setting[WARMUP_OVER]) : 0.0;
    if (setting[MISSES] > 0.0 && gsl_rng_uniform(p->chance) * 100.0 < setting[MISSES]) {
        raw = p->low;
    }
    return raw;
}

/* A mechanism and what disturbs it are seen within the rails; what was recorded is said as it was recorded. */
static double railed(const simulated *p, double raw, double said)
{
    const bool recorded = p->item->kind->source == RGP_SOURCE_FILE && !p->sound;
    const double low = recorded ? fmax(fmin(said, p->low), INT32_MIN) : p->low;
    const double high = recorded ? fmin(fmax(said, p->high), INT32_MAX) : p->high;
    return fmin(fmax(raw, low), high);
}

/* The number of new readings that a sensor has had by then, from 1: one a row of a table, a sample of a sound, a
 * period. 0: one a tick.
 */
static int64_t readings_by(simulated *p, double time)
{
    const double period = p->item->value[PERIOD];
    if (p->item->kind->source == RGP_SOURCE_CLOCK) {
        return 0;
    }
    if (period > 0.0) {
        return llround(time * 1e6) / llround(period * 1e6) + 1;
    }
    if (p->time) {
        wind_on(p, time);
        return p->next + 1;
    }
    return p->sound ? sound_at(p, time) + 1 : 0; /* behind its end it goes on in silence */
}

/* True when there is a new reading since it was asked last. */
static bool is_new(simulated *p, double time)
{
    const int64_t readings = readings_by(p, time);
    const bool new = readings == 0 || readings != p->readings;
    p->readings = readings;
    return new;
}

static rgp_sample again(const simulated *p)
{
    rgp_sample sample = p->last;
    sample.same = 1;
    return sample;
}

rgp_sample simulated_read(simulated *p, double truth, double time, uint64_t stamp_us)
{
    if (has_fault(p, FAULT_DROPS, time)) {
        p->readings = -1; /* the first that comes again is a new one */
        return (rgp_sample){.time_us = stamp_us, .quality = RGP_MISSING};
    }
    if (has_fault(p, FAULT_LAGS, time) || !is_new(p, time)) {
        return again(p);
    }
    const double passed = time - p->read_at;
    p->read_at = time;
    if (p->time) {
        wind_on(p, time);
    }
    const double said = source(p, truth, time);
    double raw = p->item->kind->source == RGP_SOURCE_CLOCK ? said : noisy(p, said, time, passed);
    raw = has_fault(p, FAULT_STICKS, time) ? p->last.raw : has_fault(p, FAULT_PINS, time) ? p->high : raw;
    raw = railed(p, round(raw), round(said));
    p->last = (rgp_sample){.time_us = stamp_us, .raw = (int32_t)raw};
    return p->last;
}
