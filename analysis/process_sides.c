/* The gain of what is driven above the middle of its range, and of what is driven below. */
#include "process_parts.h"

#include <gsl/gsl_multifit.h>

#include <math.h>

enum { UP, DOWN, OFFSET, BEGINNING, COLUMNS };

#define APART  0.2 /* of the mean: gains that differ by less are one */
#define ERRORS 8.0 /* standard errors of white noise, that they differ by; noise that holds on makes more of it */
#define WORTH  0.1 /* of the squares that one gain leaves: so much has to go away by two */

/* The answer of the process to one side of what is driven. */
static double *answer_of(const rgp_plant *plant, const rgp_process_data *d, double middle, int side)
{
    double *driven = g_malloc_n(d->count + 1, sizeof *driven), *answer = g_malloc_n(d->count + 1, sizeof *answer);
    for (size_t k = 0; k < d->count; k++) {
        const double off = d->driven[k] - middle;
        driven[k] = side == UP ? fmax(0.0, off) : fmin(0.0, off);
    }
    rgp_process_answer(plant, &(rgp_process_data){driven, d->measured, d->count, d->tick}, answer);
    g_free(driven);
    return answer;
}

static size_t usable_of(const rgp_process_data *d)
{
    size_t n = 0;
    for (size_t k = 0; k < d->count; k++) {
        n += isnan(d->measured[k]) ? 0 : 1;
    }
    return n;
}

/* `squares`: what one gain for both leaves. */
static bool are_apart(const gsl_vector *gain, const gsl_matrix *cov, double left, double squares)
{
    const double up = gsl_vector_get(gain, UP), down = gsl_vector_get(gain, DOWN), apart = fabs(up - down),
                 error = sqrt(gsl_matrix_get(cov, UP, UP) + gsl_matrix_get(cov, DOWN, DOWN) -
                              2.0 * gsl_matrix_get(cov, UP, DOWN));
    return apart > APART * fabs(up + down) / 2.0 && apart > ERRORS * error && left < (1.0 - WORTH) * squares;
}

double process_sides(const model *m, rgp_process *to)
{
    const rgp_process_data *d = m->f.data;
    const rgp_plant plant = process_plant(&m->f, m->shape);
    fitting f = m->f;
    process_answers(&f, m->shape);
    double low = INFINITY, high = -INFINITY, left;
    for (size_t k = 0; k < d->count; k++) {
        low = fmin(low, d->driven[k]);
        high = fmax(high, d->driven[k]);
    }
    g_autofree double *up = answer_of(&plant, d, (low + high) / 2.0, UP),
                      *down = answer_of(&plant, d, (low + high) / 2.0, DOWN);
    const size_t rows = usable_of(d);
    gsl_matrix *x = gsl_matrix_alloc(rows, COLUMNS), *cov = gsl_matrix_alloc(COLUMNS, COLUMNS);
    gsl_vector *y = gsl_vector_alloc(rows), *found = gsl_vector_alloc(COLUMNS);
    gsl_multifit_linear_workspace *space = gsl_multifit_linear_alloc(rows, COLUMNS);
    for (size_t k = 0, row = 0; k < d->count; k++) {
        if (!isnan(d->measured[k])) {
            const double columns[COLUMNS] = {up[k], down[k], 1.0, f.begun[k]};
            for (size_t c = 0; c < COLUMNS; c++) {
                gsl_matrix_set(x, row, c, columns[c]);
            }
            gsl_vector_set(y, row++, d->measured[k] - process_of_besides(&f, k));
        }
    }
    const bool apart =
        gsl_multifit_linear(x, y, found, cov, &left, space) == 0 && are_apart(found, cov, left, m->squares);
    to->up = apart ? gsl_vector_get(found, UP) : 0.0;
    to->down = apart ? gsl_vector_get(found, DOWN) : 0.0;
    gsl_multifit_linear_free(space);
    gsl_matrix_free(x);
    gsl_matrix_free(cov);
    gsl_vector_free(y);
    gsl_vector_free(found);
    return apart ? left / m->squares : 1.0;
}
