/* Simulated sensors: a scale, a file or a constant, with noise, spikes, hum, steps and faults. */
#include "sensor.h"

#include <gsl/gsl_randist.h>
#include <math.h>
#include <string.h>

#include "sim/mechanisms/mechanism.h"

enum {
    NOISE,
    SPIKES,
    SPIKES_EVERY,
    FLICKER,
    FLICKER_EVERY,
    WARMUP,
    WARMUP_OVER,
    BIAS,
    MISSES,
    PERIOD,
    AVERAGED,
    AGAIN
};
enum { PACE };

#define SECONDS_A_DAY 86400.0
#define PASSED_OVER   1.5 /* readings of a file in a tick, from which on some are passed over */

/* clang-format off */
#define SENSOR_SETTINGS                                                                                 \
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
#define SENSOR_FAULTS                                                                \
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
                                     .setting = {SENSOR_SETTINGS},
                                     .disturbance = {SENSOR_FAULTS}};
static const rgp_sensor_kind plays = {
    .word = "plays",
    .source = RGP_SOURCE_FILE,
    .help = "SENSOR plays \"FILE.csv\" [\"COLUMN\"], or a .wav file",
    .setting = {SENSOR_SETTINGS,
                [AVERAGED] = {"averaged", "s", 0, 0, 3600, false, "each reading is the mean over so long before it"},
                [AGAIN] = {"again", NULL, 0, 0, 1, false, "a table begins anew behind its last row"}},
    .disturbance = {SENSOR_FAULTS}};
static const rgp_sensor_kind reads = {.word = "reads",
                                      .source = RGP_SOURCE_CONSTANT,
                                      .help = "SENSOR reads RAW",
                                      .setting = {SENSOR_SETTINGS},
                                      .disturbance = {SENSOR_FAULTS}};

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

/* The words for a sensor's numbers. The caller frees the array and each word. */
static char **words_of(const rgp_image_header *image, uint32_t slot)
{
    GPtrArray *word = g_ptr_array_new();
    while (rgp_image_name_of(image, RGP_NAME_PART, slot, word->len)) {
        g_ptr_array_add(word, g_strdup(rgp_image_text(image, RGP_NAME_PART, slot, word->len)));
    }
    g_ptr_array_add(word, NULL);
    return (char **)g_ptr_array_free(word, FALSE);
}

static bool read_played(simulated *p, const rgp_image_header *image, const char *folder, GError **error)
{
    const rgp_sensor_item *item = p->item;
    g_autofree char *path = g_canonicalize_filename(item->path, folder);
    if (g_str_has_suffix(path, ".wav")) {
        p->sound = sound_new(path, error);
        return p->sound != NULL;
    }
    g_auto(GStrv) word = words_of(image, rgp_image_sensor_slot(image, item->sensor));
    p->table = played_new(&(played_ask){.path = path,
                                        .sensor = p->at.name,
                                        .word = word,
                                        .column = item->column,
                                        .again = item->value[AGAIN] != 0.0,
                                        .tick_us = p->at.tick_us},
                          error);
    return p->table != NULL;
}

/* Of -32768..32767, a sound of 16 bits is said as it is. */
static double heard(const simulated *p, uint64_t time_us)
{
    const int64_t values = (int64_t)p->at.high - p->at.low + 1, silence = p->at.low + values / 2;
    return (double)silence + 0.5 * sound_mean(p->sound, time_us, p->item->value[AVERAGED]) * (double)values;
}

double simulated_noise(const simulated *p)
{
    return p->table && p->item->value[AVERAGED] == 0.0 ? played_noise(p->table) : 0.0;
}

static char *passed_over(const simulated *p)
{
    const double pace = p->sound ? sound_pace(p->sound) : p->table ? played_pace(p->table) : 0.0;
    const double each = pace > 0.0 ? p->at.tick_us * 1e-6 / pace : 0.0; /* in a tick */
    if (p->item->value[AVERAGED] > 0.0 || each < PASSED_OVER) {
        return NULL;
    }
    return g_strdup_printf(
        "%s holds about %.3g readings for each tick, of which the last is read; 'averaged %g ms' behind "
        "its name reads their mean, a shorter tick all",
        p->item->path, each, p->at.tick_us / 1e3);
}

static char *begins_late(const simulated *p)
{
    const uint64_t first_us = p->table ? played_moment(p->table, 1) : 0;
    return first_us > p->at.tick_us ? g_strdup_printf("%s begins at %g s: before that '%s' has no reading; take that "
                                                      "off its times if it shall play at once",
                                                      p->item->path, (double)first_us / 1e6, p->at.name)
                                    : NULL;
}

static char *other_unit(const simulated *p)
{
    const char *unit = p->table ? played_unit(p->table) : "";
    if (!*unit || strcmp(unit, p->at.unit) == 0) {
        return NULL;
    }
    return rgp_make_printable(
        g_strdup_printf("%s has its readings in %s, '%s' is in %s: the numbers are taken as they are", p->item->path,
                        unit, p->at.name, *p->at.unit ? p->at.unit : "no unit"),
        false);
}

char *simulated_note(const simulated *p)
{
    GString *all = g_string_new(NULL);
    char *(*const note[])(const simulated *) = {passed_over, begins_late, other_unit};
    for (size_t i = 0; i < G_N_ELEMENTS(note); i++) {
        g_autofree char *says = note[i](p);
        g_string_append_printf(all, "%s%s", says && all->len > 0 ? "\n" : "", says ? says : "");
    }
    return g_string_free(all, all->len == 0);
}

/* ---- readings ------------------------------------------------------------------------------------ */

bool simulated_begin(simulated *p, const rgp_sensor_item *item, const rgp_image_header *image, uint64_t seed,
                     const char *folder, GError **error)
{
    const uint32_t slot = rgp_image_sensor_slot(image, item->sensor);
    const rgp_image_sensor *sensor = (const rgp_image_sensor *)rgp_image_at(image, RGP_SECTION_SENSORS) + item->sensor;
    *p = (simulated){.item = item,
                     .at = {.name = rgp_image_text(image, RGP_NAME_SLOT, slot, 0),
                            .unit = rgp_image_unit(image, RGP_NAME_SLOT, slot, 0),
                            .low = sensor->supervision.low,
                            .high = sensor->supervision.high,
                            .tick_us = image->tick_us},
                     .last = {.quality = RGP_MISSING}};
    p->chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (int i = 0; i < FAULTS; i++) {
        p->fault[i].from = INFINITY;
    }
    gsl_rng_set(p->chance, (unsigned long)(seed * 2654435761u + item->sensor + 1u));
    return !item->path || read_played(p, image, folder, error);
}

void simulated_end(simulated *p)
{
    if (p->chance) {
        gsl_rng_free(p->chance);
    }
    sound_free(p->sound);
    played_free(p->table);
}

static uint64_t in_us(double seconds)
{
    return (uint64_t)llround(seconds * 1e6);
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
        return p->sound ? heard(p, in_us(time)) : played_mean(p->table, in_us(time), in_us(p->item->value[AVERAGED]));
    case RGP_SOURCE_CONSTANT:
        return p->item->constant;
    case RGP_SOURCE_CLOCK:
        return floor(fmod(p->item->constant + p->item->value[PACE] * time, SECONDS_A_DAY));
    case RGP_SOURCE_MECHANISM:
    case RGP_SOURCE_DEVICE: /* of another port's catalogue */
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
    return (int32_t)fmin(fmax(round(scaled(p->item, truth)), p->at.low), p->at.high);
}

static double warming_up(const double *setting, double time)
{
    return setting[WARMUP] != 0.0 ? setting[WARMUP] * exp(-time / setting[WARMUP_OVER]) : 0.0;
}

double simulated_counts(const simulated *p, double truth, double time)
{
    const double *setting = p->item->value;
    const double raw = scaled(p->item, truth) + setting[BIAS] + warming_up(setting, time);
    return fmin(fmax(raw, p->at.low), p->at.high);
}

static double noisy(simulated *p, double raw, double time, double passed)
{
    const double *setting = p->item->value;
    raw += setting[NOISE] > 0.0 ? gsl_ran_gaussian_ziggurat(p->chance, setting[NOISE]) : 0.0;
    raw += spike(p, passed) + hum(setting, time) + setting[BIAS] + astray(p, time);
    raw += warming_up(setting, time);
    if (setting[MISSES] > 0.0 && gsl_rng_uniform(p->chance) * 100.0 < setting[MISSES]) {
        raw = p->at.low;
    }
    return raw;
}

/* A mechanism and what disturbs it are seen within the rails; what was recorded is said as it was recorded. */
static double railed(const simulated *p, double raw, double said)
{
    const bool recorded = p->item->kind->source == RGP_SOURCE_FILE && !p->sound;
    const double low = recorded ? fmax(fmin(said, p->at.low), INT32_MIN) : p->at.low;
    const double high = recorded ? fmin(fmax(said, p->at.high), INT32_MAX) : p->at.high;
    return fmin(fmax(raw, low), high);
}

/* The number of new readings that a sensor has had by then, from 1: one a row of a table, a sample of a sound, a
 * period. 0: one a tick. */
static int64_t readings_by(simulated *p, double time)
{
    const double period = p->item->value[PERIOD];
    if (p->item->kind->source == RGP_SOURCE_CLOCK) {
        return 0;
    }
    if (period > 0.0) {
        return llround(time * 1e6) / llround(period * 1e6) + 1;
    }
    if (p->table) {
        return played_row_by(p->table, in_us(time));
    }
    return p->sound ? sound_samples_by(p->sound, in_us(time)) : 0;
}

/* True when there is a new reading since it was asked last. */
static bool is_new(simulated *p, double time)
{
    const int64_t readings = readings_by(p, time);
    const bool new = readings == 0 || readings != p->readings;
    p->readings = readings;
    return new;
}

static rgp_sample said_again(const simulated *p)
{
    rgp_sample sample = p->last;
    sample.same = 1;
    return sample;
}

/* Its table says nothing then. */
static bool has_none(const simulated *p, double time)
{
    return p->table && isnan(played_mean(p->table, in_us(time), 0));
}

rgp_sample simulated_read(simulated *p, double truth, double time, uint64_t stamp_us)
{
    if (has_fault(p, FAULT_DROPS, time) || has_none(p, time)) {
        p->readings = -1; /* the first that comes again is a new one */
        return (rgp_sample){.time_us = stamp_us, .quality = RGP_MISSING};
    }
    if (has_fault(p, FAULT_LAGS, time) || !is_new(p, time)) {
        return said_again(p);
    }
    const double passed = time - p->read_at;
    p->read_at = time;
    const double said = source(p, truth, time);
    double raw = p->item->kind->source == RGP_SOURCE_CLOCK ? said : noisy(p, said, time, passed);
    raw = has_fault(p, FAULT_STICKS, time) ? p->last.raw : has_fault(p, FAULT_PINS, time) ? p->at.high : raw;
    raw = railed(p, round(raw), round(said));
    p->last = (rgp_sample){.time_us = stamp_us, .raw = (int32_t)raw};
    return p->last;
}
