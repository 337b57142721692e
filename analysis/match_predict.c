/* The readings that candidates lead to: the imitation run with them, in blocks and in noises. */
#include "match_parts.h"

#include <math.h>

/* ---- coordinates ----------------------------------------------------------------------------------- */

double match_coordinate(const candidate *c, double value)
{
    return c->logarithm ? log(fmax(value, 1e-300)) : value;
}

double match_value(const candidate *c, double coordinate)
{
    return c->logarithm ? exp(coordinate) : coordinate;
}

/* ---- what is predicted ------------------------------------------------------------------------------ */

void match_blocks(const matching *m, const seen *s, const double *raw, gsl_vector *to, size_t at)
{
    for (size_t b = 0; b < m->blocks; b++) {
        double sum = 0.0, n = 0.0;
        for (size_t k = b * m->each; k < (b + 1) * m->each; k++) {
            const bool any = !isnan(s->without[k]) && !isnan(raw[k]);
            sum += any ? raw[k] : 0.0;
            n += any ? 1.0 : 0.0;
        }
        gsl_vector_set(to, at + b, n > 0.0 ? sum / n / s->noise : 0.0);
    }
}

static bool run_imitation(matching *m)
{
    uint32_t *sensor = g_newa(uint32_t, m->seen_count);
    double **raw = g_newa(double *, m->seen_count);
    for (uint32_t i = 0; i < m->candidates; i++) {
        const candidate *c = &m->candidate[i];
        m->item[c->mechanism].value[c->setting] = match_value(c, c->now);
    }
    for (uint32_t i = 0; i < m->seen_count; i++) {
        sensor[i] = m->seen[i].sensor;
        raw[i] = m->seen[i].raw;
    }
    return rgp_imitation_run(m->imitation, m->item, sensor, m->seen_count, raw, m->error ? NULL : &m->error);
}

bool match_predict(matching *m, gsl_vector *to)
{
    m->stopped = m->stopped || (m->progress && !m->progress(m->self));
    if (m->stopped || !run_imitation(m)) {
        return false;
    }
    for (uint32_t i = 0; i < m->seen_count; i++) {
        match_blocks(m, &m->seen[i], m->seen[i].raw + m->skipped, to, i * m->blocks);
    }
    for (size_t i = 0; i < to->size; i++) { /* a mechanism may run away with settings that are tried */
        gsl_vector_set(to, i, isfinite(gsl_vector_get(to, i)) ? gsl_vector_get(to, i) : 0.0);
    }
    return true;
}

void match_put(matching *m, const double *from)
{
    for (uint32_t i = 0; i < m->candidates; i++) {
        m->candidate[i].now = from[i];
    }
}

void match_take(const matching *m, double *to)
{
    for (uint32_t i = 0; i < m->candidates; i++) {
        to[i] = m->candidate[i].now;
    }
}
