/* Fits of a stage to captured points: least squares weighted by the points' errors, tables, doubts,
 * rounding. */
#include "fit_form.h"

#include "numerics.h"

#include <gsl/gsl_cdf.h>
#include <gsl/gsl_multifit.h>
#include <math.h>
#include <string.h>

#define MISFIT     3.0 /* times the noise: residuals of that size are no noise */
#define GRID       64u
#define BOW_HELPS  2.0  /* times the noise: a table bends more than its points scatter */
#define ROUNDING   0.2  /* of the expected error may come from rounding */
#define NOTHING    1e-5 /* of a range: where nothing scatters, the digits end */
#define COARSE     50.0 /* whole inputs to a point, where they are fine enough */
#define TABLE_WIDE 2.36 /* deviations of a mean of eight blocks that hold 19 of 20 (Student) */
#define DISTINCT   3.0  /* standard errors between two inputs that are told apart */

guint rgp_fit_least(const char *word)
{
    const fit_form *form = fit_form_of(word);
    return form ? form->least : 0;
}

static bool is_table(const rgp_fit *f)
{
    return f->form->terms == 0;
}

/* ---- curves ---------------------------------------------------------------------------------------- */

static double basis(const fit_form *form, double u, guint term)
{
    return gsl_pow_int(u, form->power[term]);
}

/* Least squares through all points but `without` (G_MAXUINT: all). `covariance`, if wanted, is that of points with
 * errors of 1. Returns the sum of squares that is left. */
static double solve(const fit_form *form, const rgp_fit_point *p, guint points, guint without, double *term,
                    double *covariance)
{
    const size_t rows = points - (without < points), columns = form->terms;
    gsl_matrix *x = gsl_matrix_alloc(rows, columns), *unscaled = gsl_matrix_alloc(columns, columns);
    gsl_vector *y = gsl_vector_alloc(rows), *weight = gsl_vector_alloc(rows), *c = gsl_vector_alloc(columns);
    gsl_multifit_linear_workspace *work = gsl_multifit_linear_alloc(rows, columns);
    double left = 0.0;
    gsl_vector_set_all(weight, 1.0);
    for (guint i = 0, row = 0; i < points; i++) {
        if (i != without) {
            for (guint k = 0; k < columns; k++) {
                gsl_matrix_set(x, row, k, basis(form, form->in(p[i].in), k));
            }
            gsl_vector_set(y, row++, form->out(p[i].known));
        }
    }
    gsl_multifit_wlinear(x, weight, y, c, unscaled, &left, work);
    for (guint k = 0; k < columns; k++) {
        term[k] = gsl_vector_get(c, k);
        for (guint m = 0; covariance && m < columns; m++) {
            covariance[3 * k + m] = gsl_matrix_get(unscaled, k, m);
        }
    }
    gsl_multifit_linear_free(work);
    gsl_matrix_free(x);
    gsl_matrix_free(unscaled);
    gsl_vector_free(y);
    gsl_vector_free(weight);
    gsl_vector_free(c);
    return left;
}

static double curve_at(const fit_form *form, const double *term, double in)
{
    double sum = 0.0;
    for (guint k = 0; k < form->terms; k++) {
        sum += term[k] * basis(form, form->in(in), k);
    }
    return form->back(sum);
}

/* ---- tables ---------------------------------------------------------------------------------------- */

/* Straight lines through the knots but `without`; beyond the ends the last line goes on. */
static double table_at(const rgp_fit *f, double in, guint without)
{
    guint kept[RGP_FIT_POINTS_MAX] = {0}, n = 0, i = 1;
    for (guint k = 0; k < f->knots; k++) {
        if (k != without) {
            kept[n++] = k;
        }
    }
    while (i + 1 < n && in >= f->knot_in[kept[i]]) {
        i++;
    }
    const guint a = kept[i - 1], b = kept[i];
    return f->knot_out[a] + (in - f->knot_in[a]) * (f->knot_out[b] - f->knot_out[a]) / (f->knot_in[b] - f->knot_in[a]);
}

/* Points of one known value become one knot. */
static void make_knots(rgp_fit *f)
{
    guint weight[RGP_FIT_POINTS_MAX];
    f->knots = 0;
    for (guint i = 0; i < f->points; i++) {
        const rgp_fit_point *p = &f->point[i];
        const guint last = f->knots - 1;
        if (f->knots > 0 && p->known == f->knot_out[last]) {
            f->knot_in[last] += (p->in - f->knot_in[last]) / ++weight[last];
        } else {
            weight[f->knots] = 1;
            f->knot_in[f->knots] = p->in;
            f->knot_out[f->knots++] = p->known;
        }
    }
}

/* The error of a knot when the table is made without it; the outermost cannot be left out. */
static double off_without(const rgp_fit *f, guint k)
{
    return k == 0 || k + 1 >= f->knots ? 0.0 : fabs(f->knot_out[k] - table_at(f, f->knot_in[k], k));
}

/* The bend that the curve may have between knots k and k + 1, where nobody looked: what it did at the knots on either
 * side, had they been left out. Where it bends evenly it does a quarter of that, at a kink all of it. */
static double bow_of_gap(const rgp_fit *f, guint k)
{
    return fmax(off_without(f, k), off_without(f, k + 1));
}

/* Between the two knots that are worst to be without. */
static guint worst_gap(const rgp_fit *f)
{
    guint worst = 0;
    for (guint k = 1; k + 1 < f->knots; k++) {
        const double here = off_without(f, k) + off_without(f, k + 1);
        worst = here > off_without(f, worst) + off_without(f, worst + 1) ? k : worst;
    }
    return worst;
}

/* ---- what it is worth ------------------------------------------------------------------------------ */

double rgp_fit_at(const rgp_fit *f, double in)
{
    return is_table(f) ? table_at(f, in, G_MAXUINT) : f->form->value(f->setting, in);
}

static double slope_at(const rgp_fit *f, double in)
{
    const double step = fmax(fabs(in), 1e-6) * 1e-5;
    return (rgp_fit_at(f, in + step) - rgp_fit_at(f, in - step)) / (2.0 * step);
}

/* The output units in a change of 1 of the form's own output. */
static double back_slope(const rgp_fit *f, double in)
{
    const double v = f->form->out(rgp_fit_at(f, in)), step = fmax(fabs(v), 1e-9) * 1e-6;
    return (f->form->back(v + step) - f->form->back(v - step)) / (2.0 * step);
}

double rgp_fit_error(const rgp_fit *f, double in)
{
    if (is_table(f)) {
        guint k = 0;
        while (k + 2 < f->knots && in >= f->knot_in[k + 1]) {
            k++;
        }
        return hypot(bow_of_gap(f, k), TABLE_WIDE * f->noise);
    }
    double variance = f->misfit;
    for (guint i = 0; i < f->terms; i++) {
        for (guint k = 0; k < f->terms; k++) {
            const double u = f->form->in(in);
            variance += basis(f->form, u, i) * basis(f->form, u, k) * f->covariance[3 * i + k];
        }
    }
    return f->wide * sqrt(variance) * fabs(back_slope(f, in));
}

static void find_errors(rgp_fit *f)
{
    double squares = 0.0;
    for (guint i = 0; i < f->points; i++) {
        const rgp_fit_point *p = &f->point[i];
        f->residual[i] = p->known - rgp_fit_at(f, p->in);
        squares += gsl_pow_2(slope_at(f, p->in) * p->in_error);
    }
    f->noise = sqrt(squares / f->points);
}

/* `left` is the sum of squares in the form's own output. */
static void find_curve_errors(rgp_fit *f, double left)
{
    double noise = 0.0;
    const guint spare = f->points - f->terms;
    for (guint i = 0; i < f->points; i++) {
        const rgp_fit_point *p = &f->point[i];
        noise += gsl_pow_2(slope_at(f, p->in) * p->in_error / back_slope(f, p->in)) / f->points;
    }
    const double seen = spare > 0 ? left / spare : 0.0;
    for (guint k = 0; k < 9; k++) {
        f->covariance[k] *= fmax(seen, noise);
    }
    f->misfit = fmax(0.0, seen - noise);
    f->wide = seen > noise ? gsl_cdf_tdist_Pinv(0.975, spare) : 2.0;
}

static void leave_out(rgp_fit *f)
{
    for (guint i = 0; i < f->points; i++) {
        f->left_out[i] = NAN;
        double term[3];
        if (!is_table(f) && f->points > f->form->least) {
            solve(f->form, f->point, f->points, i, term, NULL);
            f->left_out[i] = f->point[i].known - curve_at(f->form, term, f->point[i].in);
        }
        for (guint k = 1; is_table(f) && k + 1 < f->knots; k++) {
            if (f->knot_out[k] == f->point[i].known) {
                f->left_out[i] = f->point[i].known - table_at(f, f->point[i].in, k);
            }
        }
    }
}

/* Different known values. */
static guint distinct(const rgp_fit *f)
{
    guint count = f->points > 0;
    for (guint i = 1; i < f->points; i++) {
        count += f->point[i].known != f->point[i - 1].known;
    }
    return count;
}

static void find_expected(rgp_fit *f)
{
    const double low = f->point[0].in, high = f->point[f->points - 1].in;
    f->expected = distinct(f) > f->form->least ? 0.0 : (double)NAN;
    for (guint i = 0; i <= GRID && isfinite(f->expected); i++) {
        f->expected = fmax(f->expected, rgp_fit_error(f, low + (high - low) * i / GRID));
    }
    f->bow = is_table(f) ? bow_of_gap(f, worst_gap(f)) : 0.0;
}

static void advise_table(rgp_fit *f, const char *unit, const char *in_unit)
{
    const guint k = worst_gap(f);
    const double middle = (f->knot_in[k] + f->knot_in[k + 1]) / 2.0;
    if (f->knots == 2) {
        f->advice = g_strdup("two points cannot show a bend; one more point between them would tell");
    } else if (f->bow > BOW_HELPS * 2.0 * f->noise) {
        f->advice = g_strdup_printf("more points would help: most where it bends most, near %.3g %s (%.4g %s)",
                                    rgp_fit_at(f, middle), unit, middle, in_unit);
    } else {
        f->advice = g_strdup("more points would not help: what is left is the noise of the captures; a longer window "
                             "would lessen that");
    }
}

static double worst_residual(const rgp_fit *f)
{
    double worst = 0.0;
    for (guint i = 0; i < f->points; i++) {
        worst = fmax(worst, fabs(f->residual[i]));
    }
    return worst;
}

bool rgp_fit_is_bent(const rgp_fit *f)
{
    return !is_table(f) && worst_residual(f) > MISFIT * f->noise &&
           sqrt(f->misfit) * fabs(back_slope(f, f->point[0].in)) > MISFIT * f->noise;
}

static void advise_curve(rgp_fit *f, const char *unit)
{
    const double worst = worst_residual(f);
    if (!isfinite(f->expected)) {
        f->advice = g_strdup("no point is left over to try the curve on; one more would tell");
    } else if (rgp_fit_is_bent(f)) {
        f->advice = g_strdup_printf("the points do not lie on a '%s': they are off by up to %.3g %s where the captures "
                                    "are good to %.2g; more points would not help, a 'table' would",
                                    f->form->word, worst, unit, f->noise);
    } else {
        f->advice =
            g_strdup("the points lie on the curve as well as their noise lets one tell; more points or a longer "
                     "window would still lessen the error by their number's square root");
    }
}

/* ---- fitting --------------------------------------------------------------------------------------- */

static int by_input(const void *a, const void *b)
{
    const rgp_fit_point *x = a, *y = b;
    return (x->in > y->in) - (x->in < y->in);
}

/* Known values that are different must be seen as different, and all rise or all fall with what goes in. */
static char *quarrel(const rgp_fit *f, const char *unit, const char *in_unit)
{
    double direction = 0.0;
    for (guint i = 1; i < f->points; i++) {
        const rgp_fit_point *a = &f->point[i - 1], *b = &f->point[i];
        const double step = b->known - a->known;
        if (step == 0.0) {
            continue;
        }
        if (b->in - a->in <= DISTINCT * hypot(a->in_error, b->in_error)) {
            return g_strdup_printf("%.6g and %.6g %s both read %.5g %s: the sensor does not tell them apart", a->known,
                                   b->known, unit, b->in, in_unit);
        }
        if (step * direction < 0.0) {
            return g_strdup_printf(
                "the points turn back at %.6g %s (%.5g %s): with rising readings the values must all "
                "rise or all fall, so one of them was misread",
                a->known, unit, a->in, in_unit);
        }
        direction = step;
    }
    return direction == 0.0 && f->points > 1 ? g_strdup("all points are at one value; take one at another") : NULL;
}

static char *unfit(const rgp_fit *f, const char *unit)
{
    for (guint i = 0; i < f->points; i++) {
        const rgp_fit_point *p = &f->point[i];
        if (!isfinite(f->form->in(p->in)) || !isfinite(f->form->out(p->known))) {
            return g_strdup_printf("%g %s at %g cannot be: '%s' takes only what is above 0", p->known, unit, p->in,
                                   f->form->word);
        }
    }
    return NULL;
}

static char *find_fault(const rgp_fit *f, const char *unit, const char *in_unit)
{
    char *fault = unfit(f, unit);
    fault = fault ? fault : quarrel(f, unit, in_unit);
    if (!fault && distinct(f) < f->form->least) {
        fault = g_strdup_printf("'%s' needs at least %u points at different values; there %s %u", f->form->word,
                                f->form->least, distinct(f) == 1 ? "is" : "are", distinct(f));
    }
    return fault;
}

rgp_fit *rgp_fit_points(const char *word, const rgp_fit_point *point, guint points, const double *setting, bool fresh,
                        const char *unit, const char *in_unit, char **reason)
{
    rgp_fit *f = g_new0(rgp_fit, 1);
    f->form = fit_form_of(word);
    f->points = MIN(points, RGP_FIT_POINTS_MAX);
    memcpy(f->point, point, f->points * sizeof *point);
    memcpy(f->setting, setting, RGP_FIT_SETTINGS_MAX * sizeof *setting);
    qsort(f->point, f->points, sizeof *f->point, by_input);
    rgp_numerics_go_on();
    *reason = find_fault(f, unit, in_unit);
    if (*reason) {
        rgp_fit_free(f);
        return NULL;
    }
    if (is_table(f)) {
        make_knots(f);
        find_errors(f);
    } else {
        const double left = solve(f->form, f->point, f->points, G_MAXUINT, f->term, f->covariance);
        f->terms = f->form->terms;
        f->form->settle(f, setting, fresh);
        find_errors(f);
        find_curve_errors(f, left);
    }
    leave_out(f);
    find_expected(f);
    is_table(f) ? advise_table(f, unit, in_unit) : advise_curve(f, unit);
    return f;
}

void rgp_fit_free(rgp_fit *f)
{
    if (f) {
        g_free(f->advice);
        g_free(f);
    }
}

/* ---- rounding -------------------------------------------------------------------------------------- */

static double rounded(double x, double most)
{
    const double step = pow(10.0, floor(log10(most)));
    return isfinite(step) && step > 0.0 ? round(x / step) * step : x;
}

/* The most that a setting may change when the output is to change by at most `most`. */
static double freedom(const rgp_fit *f, guint i, double most)
{
    double setting[RGP_FIT_SETTINGS_MAX], steepest = 0.0;
    const double step = fmax(fabs(f->setting[i]), 1e-6) * 1e-6;
    memcpy(setting, f->setting, sizeof setting);
    setting[i] += step;
    for (guint k = 0; k < f->points; k++) {
        const double in = f->point[k].in;
        steepest = fmax(steepest, fabs(f->form->value(setting, in) - f->form->value(f->setting, in)) / step);
    }
    return most / steepest;
}

void rgp_fit_round(rgp_fit *f, bool whole_inputs)
{
    const double range = fabs(f->point[f->points - 1].known - f->point[0].known);
    const double error = isfinite(f->expected) ? f->expected : f->noise;
    const double most = ROUNDING * fmax(error, NOTHING * fmax(range, fabs(f->point[0].known)));
    for (guint k = 0; k < f->knots; k++) {
        const double width = f->knot_in[f->knots - 1] - f->knot_in[0];
        const bool whole = whole_inputs && width > COARSE * f->knots;
        const double step = whole ? 1.0 : fmax(most / fabs(slope_at(f, f->knot_in[k])), NOTHING * width);
        f->knot_in[k] = rounded(f->knot_in[k], step);
    }
    for (guint i = 0; !is_table(f) && i < 3; i++) {
        if (f->setting[i] != 0.0) {
            f->setting[i] = rounded(f->setting[i], freedom(f, i, most));
        }
    }
    find_errors(f);
}

/* ---- moved as a whole ------------------------------------------------------------------------------ */

/* The input at which a table has a value; on its first or last line when it lies beyond. */
static double table_input(const double *pair, guint points, double out)
{
    guint i = 1;
    while (i + 1 < points && (out - pair[2 * i + 1]) * (pair[2 * i + 1] - pair[1]) > 0.0) {
        i++;
    }
    const double *a = pair + 2 * (i - 1), *b = pair + 2 * i;
    return a[0] + (out - a[1]) * (b[0] - a[0]) / (b[1] - a[1]);
}

bool rgp_fit_shift(const char *word, const double *setting, guint settings, const rgp_fit_point *point, bool whole,
                   double *shifted, char **reason)
{
    memcpy(shifted, setting, settings * sizeof *setting);
    if (strcmp(word, "line") == 0) {
        shifted[1] = rounded(point->known - setting[0] * point->in,
                             fmax(fabs(setting[0] * point->in_error), fabs(setting[0]) * NOTHING));
        return true;
    }
    if (strcmp(word, "table") == 0) {
        const double by = rounded(point->in - table_input(setting, settings / 2, point->known),
                                  whole ? 1.0 : fmax(point->in_error, NOTHING * fabs(point->in)));
        for (guint i = 0; i < settings; i += 2) {
            shifted[i] += by;
        }
        return true;
    }
    *reason =
        g_strdup_printf("only a 'line' or a 'table' can be moved as a whole: calibrate '%s' at %u or more known values "
                        "instead",
                        word, rgp_fit_least(word));
    return false;
}
