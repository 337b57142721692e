/* A match of a hook-up's mechanisms to a recording: what may change, what is compared, and the search. */
#include "match_parts.h"

#include "noise.h"
#include "numerics.h"
#include "spikes.h"

#include "rigpulse/image.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

#define BLOCKS_MOST  2000u
#define READINGS     40u  /* of a sensor, at least */
#define RESTARTS     12   /* from elsewhere, where a search ends badly */
#define RESTARTS_FEW 3    /* and where it leaves more than noise */
#define NOISY        1.2  /* times the squares of noise */
#define SPREAD       1.5  /* of the logarithms, from where others begin */
#define FAR_LOG      12.0 /* of a logarithm: no setting is looked for farther from where it stands */
#define GOOD         0.8  /* of the variance: where less is explained, it is begun elsewhere, too */

/* ---- what may change -------------------------------------------------------------------------------- */

static bool is_asked(const rgp_match_ask *ask, const char *word)
{
    return !ask->only || g_strv_contains(ask->only, word);
}

static void add_candidates(matching *m, uint32_t mechanism)
{
    const rgp_mechanism_item *item = &m->item[mechanism];
    for (uint32_t i = 0; i < RGP_KIND_SETTINGS_MAX && item->kind->setting[i].word; i++) {
        const rgp_setting *is = &item->kind->setting[i];
        if (!is->unit || strcmp(is->unit, RGP_UNIT_TEXT) == 0 || !is_asked(m->ask, is->word)) {
            continue;
        }
        candidate c = {.mechanism = mechanism,
                       .setting = i,
                       .logarithm = is->low >= 0.0 && item->value[i] > 0.0,
                       .written = item->written[i].end > 0 || m->ask->only,
                       .free = true};
        c.begin = c.now = match_coordinate(&c, item->value[i]);
        c.low = fmax(match_coordinate(&c, is->low), c.logarithm ? c.begin - FAR_LOG : -INFINITY);
        c.high = fmin(match_coordinate(&c, is->high), c.logarithm ? c.begin + FAR_LOG : INFINITY);
        m->candidate[m->candidates++] = c;
    }
}

/* ---- what is compared ------------------------------------------------------------------------------- */

static void take_readings(const matching *m, uint32_t column, uint32_t newness, double *to)
{
    const rgp_history *h = m->ask->history;
    for (size_t i = 0; i < m->rows; i++) {
        const uint64_t row = m->ask->from + i;
        const bool is = rgp_usable(rgp_history_quality(h, column, row)) && rgp_history_value(h, newness, row) != 0.0f;
        to[i] = is ? (double)rgp_history_value(h, column, row) : (double)NAN;
    }
}

static bool has_enough(const double *reading, size_t rows)
{
    size_t count = 0;
    for (size_t i = 0; i < rows; i++) {
        count += isnan(reading[i]) ? 0u : 1u;
    }
    return count >= READINGS;
}

/* A sensor that the recording does not have, or hardly, is left out. */
static void add_seen(matching *m, uint32_t sensor)
{
    const rgp_history *h = m->ask->history;
    const rgp_image_header *image = m->ask->rig->image;
    const char *name = rgp_image_text(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, sensor), 0);
    const int32_t column = rgp_history_named(h, name);
    const int32_t number = column < 0 ? -1 : rgp_image_find(rgp_history_image(h), RGP_FIND_SENSOR, name);
    if (number < 0) {
        return;
    }
    seen s = {.sensor = sensor,
              .reading = g_new(double, m->rows + 1),
              .without = g_new(double, m->rows + 1),
              .raw = g_new0(double, rgp_imitation_rows(m->imitation) + 1)};
    take_readings(m, (uint32_t)column, rgp_history_newness(h, (uint32_t)number), s.reading);
    s.spikes = rgp_spikes_out(s.reading, m->rows, s.without);
    s.noise = fmax(rgp_noise_of_readings(s.without, m->rows).sigma, 1.0 / sqrt(12.0));
    for (size_t i = 0; i < m->rows; i++) {
        if (!isnan(s.reading[i])) {
            rgp_imitation_want(m->imitation, m->skipped + i);
        }
    }
    if (has_enough(s.without, m->rows)) {
        m->seen[m->seen_count++] = s;
    } else {
        g_free(s.reading);
        g_free(s.without);
        g_free(s.raw);
    }
}

static bool begin(matching *m, GError **error)
{
    const rgp_hookup *h = m->ask->rig->hookup;
    m->imitation =
        rgp_imitation_new(&(rgp_imitation_ask){m->ask->rig, m->ask->history, m->ask->until, m->ask->happens}, error);
    if (!m->imitation) {
        return false;
    }
    m->skipped = (size_t)(m->ask->from - rgp_history_first(m->ask->history));
    m->rows = (size_t)(m->ask->until - m->ask->from);
    m->each = MAX(1, (m->rows + BLOCKS_MOST - 1) / BLOCKS_MOST);
    m->blocks = m->rows / m->each;
    m->item = g_memdup2(h->mechanism, h->mechanisms * sizeof *m->item);
    m->candidate = g_new0(candidate, h->mechanisms * RGP_KIND_SETTINGS_MAX + 1);
    m->seen = g_new0(seen, h->sensors + 1);
    for (uint32_t i = 0; i < h->mechanisms; i++) {
        if (m->ask->may[i]) {
            add_candidates(m, i);
        }
    }
    for (uint32_t i = 0; i < h->sensors; i++) {
        if (h->sensor[i].kind->source == RGP_SOURCE_MECHANISM && m->ask->may[h->sensor[i].mechanism]) {
            add_seen(m, h->sensor[i].sensor);
        }
    }
    if (m->seen_count == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                    "no sensor that sees the mechanism has %u readings here to match it to", READINGS);
        return false;
    }
    m->measured = gsl_vector_alloc(m->blocks * m->seen_count);
    for (uint32_t i = 0; i < m->seen_count; i++) {
        match_blocks(m, &m->seen[i], m->seen[i].without, m->measured, i * m->blocks);
    }
    return true;
}

static void end(matching *m)
{
    for (uint32_t i = 0; i < m->seen_count; i++) {
        g_free(m->seen[i].reading);
        g_free(m->seen[i].without);
        g_free(m->seen[i].raw);
    }
    rgp_imitation_free(m->imitation);
    g_free(m->item);
    g_free(m->candidate);
    g_free(m->seen);
    if (m->measured) {
        gsl_vector_free(m->measured);
    }
}

/* ---- the search, from several places ---------------------------------------------------------------- */

/* Of what is measured, about its mean, in squares of noise. */
static double variance_of(const matching *m)
{
    double squares = 0.0;
    for (uint32_t i = 0; i < m->seen_count; i++) {
        double mean = 0.0;
        for (size_t b = 0; b < m->blocks; b++) {
            mean += gsl_vector_get(m->measured, i * m->blocks + b) / (double)m->blocks;
        }
        for (size_t b = 0; b < m->blocks; b++) {
            const double off = gsl_vector_get(m->measured, i * m->blocks + b) - mean;
            squares += off * off;
        }
    }
    return squares;
}

static void scatter(matching *m, GRand *chance)
{
    for (uint32_t i = 0; i < m->candidates; i++) {
        candidate *c = &m->candidate[i];
        const double off = SPREAD * g_rand_double_range(chance, -2.0, 2.0);
        c->now = c->free && c->logarithm ? CLAMP(c->begin + off, c->low, c->high) : c->begin;
    }
}

/* From where it is; where that leaves more than noise, from elsewhere too, and the best is kept. */
static bool search_from_many(matching *m, double *least)
{
    const double all = variance_of(m), noise = (double)m->measured->size / (double)m->each;
    g_autofree double *best = g_new(double, m->candidates + 1);
    if (!match_search(m, least)) {
        return false;
    }
    GRand *chance = g_rand_new_with_seed(1);
    bool sound = true;
    match_take(m, best);
    for (int i = 0; i < RESTARTS && sound; i++) {
        const bool bad = *least > (1.0 - GOOD) * all, noisy = *least > NOISY * noise;
        double squares = INFINITY;
        if (bad || (noisy && i < RESTARTS_FEW)) {
            scatter(m, chance);
            sound = match_search(m, &squares);
        }
        if (sound && squares < *least) {
            *least = squares;
            match_take(m, best);
        }
    }
    g_rand_free(chance);
    match_put(m, best);
    return sound;
}

/* First those that are written alone: what nobody has thought of is to explain only what they leave. */
static bool search_widely(matching *m)
{
    double least;
    bool sound = match_steps(m);
    g_autofree bool *later = g_new0(bool, m->candidates + 1);
    for (uint32_t i = 0; i < m->candidates; i++) {
        candidate *c = &m->candidate[i];
        later[i] = c->free && !c->written;
        c->free = c->free && c->written;
    }
    sound = sound && search_from_many(m, &least);
    for (uint32_t i = 0; i < m->candidates; i++) {
        m->candidate[i].free |= later[i];
    }
    return sound && match_steps(m) && match_search(m, &least);
}

bool rgp_match_find(const rgp_match_ask *ask, bool (*progress)(void *self), void *self, rgp_match *to, GError **error)
{
    matching m = {.ask = ask, .progress = progress, .self = self};
    rgp_numerics_go_on();
    *to = (rgp_match){.rows = 0};
    bool sound = begin(&m, error) && search_widely(&m) && match_judge(&m) && match_tell(&m, to);
    if (m.error) {
        g_propagate_error(error, m.error);
    }
    end(&m);
    if (!sound) {
        rgp_match_clear(to);
    }
    return sound;
}

void rgp_match_clear(rgp_match *match)
{
    for (uint32_t i = 0; i < match->sensors; i++) {
        g_free(match->sensor[i].reading);
        g_free(match->sensor[i].written);
        g_free(match->sensor[i].matched);
    }
    g_free(match->setting);
    g_free(match->sensor);
    *match = (rgp_match){.rows = 0};
}
