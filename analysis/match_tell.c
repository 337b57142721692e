/* The outcome of a match: settings with their intervals, how far the readings are off, and what to doubt. */
#include "match_parts.h"

#include <math.h>
#include <string.h>

#define FIT_LEAST 80.0 /* percent of the variance */
#define MOVED     1.2  /* noises of spread: what reads less has seen no movement */

/* The root mean square of what is read less what is expected there. */
static double off_by(const double *reading, const double *expected, size_t rows)
{
    double squares = 0.0, n = 0.0;
    for (size_t i = 0; i < rows; i++) {
        const double off = reading[i] - expected[i];
        squares += isnan(off) ? 0.0 : off * off;
        n += isnan(off) ? 0.0 : 1.0;
    }
    return n > 0.0 ? sqrt(squares / n) : 0.0;
}

/* Of the readings about their mean. */
static double spread_of(const double *reading, size_t rows)
{
    double sum = 0.0, n = 0.0, squares = 0.0;
    for (size_t i = 0; i < rows; i++) {
        sum += isnan(reading[i]) ? 0.0 : reading[i];
        n += isnan(reading[i]) ? 0.0 : 1.0;
    }
    for (size_t i = 0; i < rows; i++) {
        const double off = reading[i] - sum / n;
        squares += isnan(off) ? 0.0 : off * off;
    }
    return sqrt(squares / n);
}

static void tell_setting(const matching *m, const candidate *c, rgp_match_setting *to)
{
    const rgp_setting *is = &m->item[c->mechanism].kind->setting[c->setting];
    const bool found = c->fate == RGP_MATCH_FOUND;
    const double value = match_value(c, c->now);
    *to = (rgp_match_setting){.mechanism = c->mechanism,
                              .setting = c->setting,
                              .was = match_value(c, c->begin),
                              .fate = c->fate,
                              .found = {value, found ? fmax(match_value(c, c->low_end), is->low) : value,
                                        found ? fmin(match_value(c, c->high_end), is->high) : value},
                              .likes = c->likes};
    memcpy(to->like, c->like, sizeof to->like);
}

/* A mean square, without that of the noise. */
static double beyond(double size, double noise)
{
    return fmax(0.0, size * size - noise * noise);
}

static void tell_sensor(const matching *m, const seen *s, rgp_match_sensor *to)
{
    const double spread = spread_of(s->without, m->rows);
    to->sensor = s->sensor;
    to->noise = s->noise;
    to->spikes = s->spikes;
    to->reading = g_memdup2(s->without, m->rows * sizeof(double));
    to->matched = g_memdup2(s->raw + m->skipped, m->rows * sizeof(double));
    to->after = off_by(to->reading, to->matched, m->rows);
    to->moved = spread;
    to->fit = to->moved > MOVED * s->noise ? 100.0 * (1.0 - beyond(to->after, s->noise) / beyond(spread, s->noise))
                                           : (double)NAN;
}

/* As all is written; then as it was found again. */
static bool tell_before(matching *m, rgp_match *to)
{
    gsl_vector *room = gsl_vector_alloc(m->measured->size);
    g_autofree double *best = g_new(double, m->candidates + 1);
    match_take(m, best);
    for (uint32_t i = 0; i < m->candidates; i++) {
        m->candidate[i].now = m->candidate[i].begin;
    }
    bool sound = match_predict(m, room);
    for (uint32_t i = 0; i < m->seen_count && sound; i++) {
        to->sensor[i].written = g_memdup2(m->seen[i].raw + m->skipped, m->rows * sizeof(double));
        to->sensor[i].before = off_by(m->seen[i].without, to->sensor[i].written, m->rows);
    }
    match_put(m, best);
    sound = sound && match_predict(m, room);
    gsl_vector_free(room);
    return sound;
}

bool match_tell(matching *m, rgp_match *to)
{
    double left = 0.0, all = 0.0;
    *to = (rgp_match){.rows = m->rows,
                      .row_s = (double)rgp_history_image(m->ask->history)->tick_us / 1e6,
                      .begin_s = (double)rgp_history_time_us(m->ask->history, m->ask->from) / 1e6,
                      .settings = m->candidates,
                      .sensors = m->seen_count,
                      .setting = g_new0(rgp_match_setting, m->candidates + 1),
                      .sensor = g_new0(rgp_match_sensor, m->seen_count + 1)};
    for (uint32_t i = 0; i < m->candidates; i++) {
        tell_setting(m, &m->candidate[i], &to->setting[i]);
    }
    if (!tell_before(m, to)) {
        return false;
    }
    for (uint32_t i = 0; i < m->seen_count; i++) {
        rgp_match_sensor *is = &to->sensor[i];
        tell_sensor(m, &m->seen[i], is);
        left += isnan(is->fit) ? 0.0 : beyond(is->after, is->noise) / (is->noise * is->noise);
        all += isnan(is->fit) ? 0.0 : beyond(is->moved, is->noise) / (is->noise * is->noise);
    }
    to->fit = 100.0 * (1.0 - left / fmax(all, 1e-300));
    return true;
}

GPtrArray *rgp_match_doubts(const rgp_match *match)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    uint32_t found = 0;
    bool moved = false;
    for (uint32_t i = 0; i < match->settings; i++) {
        found += match->setting[i].fate == RGP_MATCH_FOUND;
    }
    for (uint32_t i = 0; i < match->sensors; i++) {
        moved |= !isnan(match->sensor[i].fit);
    }
    if (!moved) {
        g_ptr_array_add(all, g_strdup("hardly anything moved: take a recording in which it is driven"));
    } else if (match->fit < FIT_LEAST) {
        g_ptr_array_add(all, g_strdup_printf("it is a bad match: it leaves %.0f %% of what moved unexplained; is it "
                                             "another mechanism, or does something else drive it?",
                                             100.0 - match->fit));
    }
    if (found == 0) {
        g_ptr_array_add(all, g_strdup("no setting can be told from this recording"));
    }
    return all;
}
