/* A model of a loop's mechanism from the stretch that is looked at, and how this loop stands on it. */
#include "diagnosis_falling.h"
#include "diagnosis_moves.h"

#include <gsl/gsl_statistics_double.h>

#include <math.h>

#define ROWS            480u /* that a model is made of */
#define FINEST          8.0  /* rows of that in a period */
#define CALM            0.04 /* of the stretch */
#define LEAST_CALM      ((size_t)8)
#define LEAST_PIECE     0.1 /* of the stretch */
#define USUAL           1.5 /* of the swing */
#define MOVES           5.0 /* noises */
#define CRUDE           8.0 /* noises, and no small share of what moved: something else is at work there */
#define NOISE_ALONE     2.0 /* noises: a model that leaves more may lack a load */
#define HARDLY          0.6
#define LITTLE          1e-9
#define AGAINST         8.0
#define DEADS_WITHIN    0.2
#define PERIODS         2.0

#define LEAST_EXPLAINED 0.3 /* a model that explains less says nothing */
#define LEADS           (1.0 / 3.0)
#define NOW_AND_THEN    0.1
#define LIKE_A_SINE     0.8  /* of what moved */
#define VAGUE           0.3  /* of the gain, to either side */
#define LITTLE_SWING    0.5  /* of the band */
#define THIRD           0.32 /* of dead time and lags: from there on it is dead time that a loop has to wait for */
#define ABOUT           0.06
#define RARELY          -2.5 /* logarithm of `rate`: below it a step is next to nothing */
#define KNOWN           0.8  /* explained: less tells nothing of it */

/* Rows from the first up to the end. */
typedef struct piece {
    size_t first, end;
} piece;

/* Rows of the run that one row of the model stands for. */
static size_t rows_in_one(const diagnosed *d, const piece *of)
{
    const size_t all = (of->end - of->first + ROWS - 1) / ROWS;
    const size_t most = d->period_rows > 0.0 ? (size_t)fmax(1.0, d->period_rows / FINEST) : all;
    return MAX((size_t)1, MIN(all, most));
}

/* Rows of the model; they end with the piece. */
static size_t model_rows(const diagnosed *d, const piece *of)
{
    return MIN((of->end - of->first) / rows_in_one(d, of), ROWS);
}

/* Something besides what the loop drives. */
typedef struct besides {
    const rgp_process *plain; /* the model without any of it */
    double period;            /* seconds, of a wave; 0: loads alone */
} besides;

/* Of a piece, with something `other` besides, or NULL. False, and nothing is found: there is too little to fit anything
 * to, or nothing besides. */
static bool fit(const diagnosed *d, const piece *of, const besides *other, rgp_process *to)
{
    const size_t each = rows_in_one(d, of), rows = model_rows(d, of), first = of->end - rows * each;
    g_autofree double *driven = g_new0(double, rows + 1), *measured = g_new0(double, rows + 1);
    for (size_t i = 0; i < rows; i++) {
        measured[i] = d->measured[first + i * each];
        for (size_t k = 0; k < each; k++) {
            driven[i] += d->output[first + i * each + k] / (double)each;
        }
    }
    const rgp_process_data data = {driven, measured, rows, d->step * (double)each};
    const double way = d->pid->reverse ? -1.0 : 1.0;
    if (!other) {
        return rgp_process_glance(&data, way, to);
    }
    *to = *other->plain;
    return rgp_process_glance_besides(&data, way, d->noise, other->period, to);
}

/* The end of a piece that begins there: where the error leaves its band, or its usual swing, after it was within for
 * CALM of the stretch, with the setpoint as it was, since then something has come that no output tells of; or the end
 * of the stretch. */
static size_t end_of(const diagnosed *d, size_t first)
{
    const size_t calm = MAX(LEAST_CALM, (size_t)(CALM * (double)d->rows));
    const double usual = fmax(d->to->band, d->period_rows > 0.0 ? USUAL * d->to->swing : 0.0);
    size_t within = 0, same = 0, i = first;
    for (; i < d->rows; i++) {
        const bool is_within = fabs(d->error[i]) <= usual;
        same = i > first && d->target[i] == d->target[i - 1] ? same + 1 : 0;
        if (!is_within && MIN(within, same) >= calm) {
            break;
        }
        within = is_within ? within + 1 : 0;
    }
    return i;
}

static bool moves(const diagnosed *d, const piece *of)
{
    const size_t rows = of->end - of->first;
    return rows > 1 && gsl_stats_sd(d->measured + of->first, 1, rows) > MOVES * d->noise;
}

static double within(double value, double low, double high)
{
    return isnan(value) ? 0.0 : fmin(fmax(value, low), high);
}

static double logarithm_of_ratio(double of, double to)
{
    return log(fmax(of, LITTLE) / fmax(to, LITTLE));
}

double diagnosis_tells_late(double sine)
{
    return within((1.0 - sine) / (1.0 - LIKE_A_SINE), 0.0, 1.0);
}

/* The gains of the rule for that model, as near its dead time as it goes. */
static void stand_beside_rule(const diagnosed *d, const rgp_stand *on)
{
    const rgp_plant *p = &on->plant;
    rgp_signs *s = &d->to->sign;
    const rgp_pid_gains *g = &d->pid->gain;
    const bool integral = rgp_process_goes_on(p->kind);
    const double waits = rgp_stand_waits(on), dead = waits + d->to->step / 2.0 + p->second / 2.0,
                 lag = p->lag + p->second / 2.0, gain = fmax(fabs(p->gain), LITTLE),
                 kp = (integral ? 1.0 : lag) / (gain * 2.0 * dead), ti = integral ? 8.0 * dead : fmin(lag, 8.0 * dead),
                 lesser = dead + p->second;
    s->kp_off = within(logarithm_of_ratio((double)g->kp, kp), -4.0, 4.0);
    s->ki_off = within(logarithm_of_ratio((double)g->ki, kp / ti), -6.0, 4.0);
    s->kd_off = within((double)g->kd / fmax((double)g->kp, LITTLE) / lesser, 0.0, 3.0);
    s->rate = within(log(d->to->step / (waits + p->second + d->to->step)), -4.0, 2.0);
    s->late = dead / (dead + lag);
    s->second = p->second / (p->second + dead);
    s->bare = s->second * fmax(0.0, 1.0 - s->lead_of_d / LEADS);
    if (integral) {
        s->late = 0.0;
    }
    s->delayed = tanh((s->late - THIRD) / ABOUT) * within((s->explained - KNOWN) / (1.0 - KNOWN), 0.0, 1.0) *
                 diagnosis_tells_late(s->sine);
}

/* A dead time that this stretch does not hold several times is no finding, nor one of several periods of its swing,
 * which looks like others that are a period shorter. */
static bool is_within(const diagnosed *d, const piece *of, const rgp_plant *p)
{
    const double whole = (double)(of->end - of->first) * d->step,
                 most = d->period_rows > 0.0 ? fmin(DEADS_WITHIN * whole, PERIODS * d->period_rows * d->step)
                                             : DEADS_WITHIN * whole;
    return isfinite(p->gain) && p->gain != 0.0 && p->dead < most && isfinite(p->lag);
}

static bool swings(const diagnosed *d)
{
    return d->period_rows > 0.0 && d->to->swing > LITTLE_SWING * d->to->band;
}

/* It swings by next to nothing, and is at no limit: a model by which it could not is none. */
static bool is_settled(const diagnosed *d)
{
    return !swings(d) && d->to->sign.limited < NOW_AND_THEN;
}

/* A model of a piece, what it explains, and the loop on it as if it went the right way. */
typedef struct candidate {
    piece of;
    rgp_process model;
    rgp_stand on;
    rgp_margins margins;
    double left;      /* noises */
    double explained; /* 0: nothing is known */
} candidate;

/* Left over of what moved, in noises of a reading. */
static double left_by(const diagnosed *d, const piece *of, double explained)
{
    return sqrt(1.0 - explained) * gsl_stats_sd(d->measured + of->first, 1, of->end - of->first) /
           fmax(d->noise, G_MINDOUBLE);
}

static candidate model_of(const diagnosed *d, const piece *of, const besides *other)
{
    candidate c = {.of = *of, .left = INFINITY, .explained = 0.0};
    if (!fit(d, of, other, &c.model)) {
        return c;
    }
    const rgp_estimate *gain = &c.model.gain;
    const bool is_vague = c.model.wave > 0.0 && gain->high - gain->low > 2.0 * VAGUE * fabs(gain->value);
    const bool goes_wrong = (gain->value < 0.0) != (d->pid->reverse != 0);
    c.on = rgp_stand_of(&c.model, d->predict, d->to->step);
    if (!is_within(d, of, &c.on.plant) || is_vague || (goes_wrong && is_settled(d))) {
        return c;
    }
    c.margins = rgp_stand_margins(&c.on, &d->pid->gain);
    const double explained = within(c.model.fit / 100.0, 0.0, 1.0);
    c.left = left_by(d, of, explained);
    const bool is_crude = explained < RGP_ALL_BUT_ALL && c.left > CRUDE;
    c.explained = explained < LEAST_EXPLAINED || (!c.margins.stable && is_settled(d)) ? 0.0
                  : is_crude                                                          ? HARDLY * explained
                                                                                      : explained;
    return c;
}

/* The share of what is measured in a piece that a sine of one height explains. Driven by it, any loop answers as one
 * that swings by itself: C P = -1 at that frequency. */
static double sine_in(const diagnosed *d, const piece *of)
{
    const size_t rows = of->end - of->first;
    if (d->period_rows <= 0.0 || rows < 2) {
        return 0.0;
    }
    const double height = diagnosis_height(d->measured, of->first, of->end, 3.0, d->period_rows, 1.0),
                 all = gsl_stats_variance(d->measured + of->first, 1, rows);
    return all > 0.0 ? within(height * height / 2.0 / all, 0.0, 1.0) : 0.0;
}

static void keep_better(candidate *best, candidate other)
{
    *best = other.explained > best->explained ? other : *best;
}

/* Of the pieces between two pushes. */
static void look_at_pieces(const diagnosed *d, candidate *best)
{
    for (piece of = {0, end_of(d, 0)}; of.first < d->rows; of = (piece){of.end, end_of(d, of.end)}) {
        const size_t rows = of.end - of.first;
        if (rows < d->rows && (double)rows >= LEAST_PIECE * (double)d->rows && moves(d, &of)) {
            keep_better(best, model_of(d, &of, NULL));
        }
    }
}

/* Of all of the stretch; where that leaves more than noise, with a wave from outside, if it swings, and with loads that
 * came and stayed; and where those do not explain all but all, of the piece that is explained best. */
static candidate best_model(const diagnosed *d)
{
    const piece all = {0, d->rows};
    const candidate plain = model_of(d, &all, NULL);
    candidate best = plain;
    if (swings(d) && plain.left > NOISE_ALONE && sine_in(d, &all) < A_SINE) {
        keep_better(&best, model_of(d, &all, &(besides){&plain.model, d->period_rows * d->step}));
    }
    if (best.left > NOISE_ALONE || best.explained <= 0.0) {
        keep_better(&best, model_of(d, &all, &(besides){&plain.model, 0.0}));
    }
    if (best.explained < RGP_ALL_BUT_ALL) {
        look_at_pieces(d, &best);
    }
    return best;
}

static double growth(const rgp_margins *m)
{
    return m->stable ? within(log(m->up), -2.0, RGP_GROW_MOST) : -1.0;
}

/* By how much more the gains could grow elsewhere, as a logarithm. */
static double gains_by(const diagnosed *d, const candidate *best, const rgp_stand *elsewhere)
{
    const rgp_margins there = rgp_stand_margins(elsewhere, &d->pid->gain);
    return within(growth(&there) - growth(&best->margins), 0.0, 2.0);
}

/* The same of a step that is a quarter as long. */
static double paced(const diagnosed *d, const candidate *best)
{
    if (d->to->sign.rate < RARELY) {
        return 0.0;
    }
    rgp_stand other = best->on;
    other.step /= 4.0;
    return gains_by(d, best, &other);
}

/* The same of a 'predict' line that fits. */
static double misses(const diagnosed *d, const candidate *best)
{
    rgp_stand other = best->on;
    other.ahead = rgp_plant_line(&other.plant, other.ahead.lag);
    return best->on.ahead.gain == 0.0 ? 0.0 : gains_by(d, best, &other);
}

void diagnosis_model(diagnosed *d)
{
    rgp_signs *s = &d->to->sign;
    const candidate best = best_model(d);
    const rgp_estimate *gain = &best.model.gain;
    const rgp_margins *m = &best.margins;
    if (diagnosis_falls(d, &best.model, best.explained)) {
        return;
    }
    d->to->model = best.model;
    d->to->model_begin =
        d->begin + d->step * (double)(best.of.end - model_rows(d, &best.of) * rows_in_one(d, &best.of));
    s->explained = best.explained;
    if (best.explained <= 0.0) {
        return;
    }
    const double way = d->pid->reverse ? -1.0 : 1.0, error = (gain->high - gain->low) / 4.0;
    s->against = within(-way * gain->value / fmax(error, LITTLE * fabs(gain->value)), 0.0, AGAINST) * s->explained;
    s->sine = sine_in(d, &best.of);
    s->pushed = best.model.height > 0.0
                    ? within(best.model.height * best.model.height / 2.0 / gsl_stats_variance(d->measured, 1, d->rows),
                             0.0, 1.0)
                    : 0.0;
    s->integral = rgp_process_goes_on(best.on.plant.kind) ? 1.0 : 0.0;
    stand_beside_rule(d, &best.on);
    s->beside =
        m->stable && d->period_rows > 0.0 && m->swing > 0.0 ? within(log(d->to->period / m->swing), -2.0, 2.0) : 0.0;
    s->sensitivity = m->stable ? within(log(m->sensitivity), 0.0, 2.5) : 2.5;
    s->grow = growth(m);
    s->paced = paced(d, &best);
    s->misses = misses(d, &best);
    s->predicted = d->predict ? 1.0 : 0.0;
    s->delay = m->stable ? within(log(fmax(m->delay, LITTLE) / d->to->step), -2.0, 5.0) : -2.0;
}
