/* Loops with one thing wrong. */
#include "ailing.h"

#include "analysis/diagnosis_moves.h"

#include <gsl/gsl_randist.h>

#include <math.h>
#include <string.h>

#define FINER       6
#define LATE        20000u /* fine steps of dead time at most */
#define DRAWS       20     /* until one is bad enough */

/* Harm that can be seen: a swing at the end by SEEN of a setpoint's step to each side, an error that stays by as much,
 * or is there for LONG; an output that is moved by OUTPUT_SEEN of its travel a step. */
#define SEEN        0.075
#define LONG        0.15 /* of the time */
#define OUTPUT_SEEN 0.03
#define FALLEN      12.0 /* steps' sizes: nothing catches it any more */

const char *const ailing_shape_words[AILING_ALL_SHAPES] = {"two lags",
                                                           "much dead time",
                                                           "an integral",
                                                           "hardly a lag",
                                                           "much dead time, `predict`",
                                                           "a tank (never used in making)",
                                                           "what falls"};

struct ailing_world {
    ailing_shape shape;
    double gain, lag, second, dead;  /* of what is driven; seconds */
    double rests, jump, play;        /* output units: friction, how far it jumps, play */
    double load, swing[2], every[2]; /* input units: a load that comes, two that swing; seconds */
    double noise, smooth, count, step_size, step_at, load_at;
    double again,
        rises; /* seconds: from the setpoint's step to the way back, and on; that it takes to be there; or 0 */
    double tau, dt;
    double leans; /* of what falls: its setpoint for its wheel's speed */
    rgp_pid_config pid;
    rgp_predict_config predict; /* gain 0: there is none */
    size_t rows;
};
typedef struct ailing_world world;

typedef struct moving {
    const world *is;
    double stuck, slack, x, z, past[LATE];
    double speed, spin; /* of what falls, and of its wheel: the integral of what was driven */
    size_t late, at;
} moving;

static double uniform(gsl_rng *c, double low, double high)
{
    return gsl_ran_flat(c, low, high);
}

static double spread_over(gsl_rng *c, double low, double high)
{
    return exp(uniform(c, log(low), log(high)));
}

/* The actuator, with its friction and play, between what is driven and the mechanism. */
static double through_actuator(moving *m, double driven)
{
    const world *w = m->is;
    if (fabs(driven - m->stuck) > w->rests) {
        m->stuck = driven - copysign(w->rests - w->jump, driven - m->stuck);
    }
    m->slack = fmin(fmax(m->slack, m->stuck - w->play / 2.0), m->stuck + w->play / 2.0);
    return m->slack;
}

static void go_on(moving *m, double driven, double t)
{
    const world *w = m->is;
    const double h = w->dt / FINER, to_second = 1.0 - exp(-h / w->second), to_lag = 1.0 - exp(-h / w->lag);
    for (int i = 0; i < FINER; i++, t += h) {
        m->past[m->at] = through_actuator(m, driven);
        m->at = m->at < m->late ? m->at + 1 : 0;
        const double load = (t >= w->load_at ? w->load : 0.0) + w->swing[0] * sin(2.0 * M_PI * t / w->every[0]) +
                            w->swing[1] * sin(2.0 * M_PI * t / w->every[1]),
                     in = w->gain * (m->past[m->at] + load);
        m->z += to_second * (in - m->z);
        if (w->shape == AILING_BALANCED) {
            m->spin += h * driven;
            m->speed += h * (m->x + m->z) / (w->lag * w->lag);
            m->x += h * m->speed;
        } else if (w->shape == AILING_GLIDE) {
            m->x += h * m->z;
        } else if (w->shape == AILING_TANK) {
            const double full = 3.0 * w->step_size;
            m->x += h / w->lag * (m->z + 2.0 * full * (1.0 - sqrt(fmax(0.0, 1.0 + m->x / full))));
        } else {
            m->x += to_lag * (m->z - m->x);
        }
    }
}

/* Seconds since the setpoint's last step; all there are before the first. */
static double since_step(const world *w, double t)
{
    return t < w->step_at ? INFINITY : w->again > 0.0 ? fmod(t - w->step_at, w->again) : t - w->step_at;
}

static double target_at(const world *w, double t)
{
    const bool is_back = w->again > 0.0 && fmod(t - w->step_at, 2.0 * w->again) >= w->again;
    const double way = w->rises > 0.0 ? fmin(1.0, since_step(w, t) / w->rises) : 1.0;
    return t >= w->step_at ? w->step_size * (is_back ? 1.0 - way : way) : 0.0;
}

#define ANSWERED 5.0 /* times of the loop: what a step makes is over then */

typedef struct outcome {
    double iae, way, end, limited; /* `end`: the swing in the last fifth; `limited`: share of the last quarter */
    double off, beyond;            /* mean error of the last fifth; share of the time with more than SEEN */
    bool fell;
} outcome;

/* Its ways up from where it was lowest, and down from where it was highest: what only creeps goes one of them.
 */
typedef struct turning {
    double low, high, rise, fall;
} turning;

static void look_back(turning *to, double value)
{
    to->low = fmin(to->low, value);
    to->high = fmax(to->high, value);
    to->rise = fmax(to->rise, value - to->low);
    to->fall = fmax(to->fall, to->high - value);
}

#define PUSHED_EACH 25.0 /* lags, on average */

/* Fractions that look like chance, and are the same in each run of a world. */
static double as_if_by_chance(double n)
{
    const double x = 43758.5453 * sin(12.9898 * (n + 1.0));
    return x - floor(x);
}

/* The speed that is added in the step at that time: now and then, by what would go as far as a step's size in a lag. */
static double push_at(const world *w, double t)
{
    const double each = PUSHED_EACH * w->lag, n = floor((t - w->step_at) / each),
                 at = w->step_at + each * (n + 0.9 * as_if_by_chance(n));
    return n >= 0.0 && t >= at && t - w->dt < at ? w->step_size / w->lag * (as_if_by_chance(n + 0.5) < 0.5 ? 1.0 : -1.0)
                                                 : 0.0;
}

static outcome run(const world *w, gsl_rng *chance, ailing *to)
{
    moving *m = g_new0(moving, 1);
    rgp_pid_state state = {0};
    rgp_predict_state ahead = {0};
    outcome o = {0};
    double before = 0.0, smoothed = 0.0;
    turning back = {INFINITY, -INFINITY, 0.0, 0.0};
    const size_t last = w->rows / 5;
    size_t looked = 0;
    m->is = w;
    m->late = MIN(LATE - 1u, (size_t)lround(w->dead / w->dt * FINER));
    to->rows = w->rows;
    to->pid = w->pid;
    to->predict = w->predict;
    for (size_t k = 0; k < w->rows && !o.fell; k++) {
        const bool falls = w->shape == AILING_BALANCED; /* it is pushed, and leans against its wheel's speed */
        const double t = (double)k * w->dt, target = falls ? w->leans * m->spin : target_at(w, t);
        m->speed += falls ? push_at(w, t) : 0.0;
        double seen = m->x + gsl_ran_gaussian_ziggurat(chance, w->noise);
        seen = w->count * round(seen / w->count);
        smoothed += (seen - smoothed) / (1.0 + w->smooth);
        seen = smoothed;
        rgp_reading acts_on = {(float)seen, RGP_GOOD};
        if (w->predict.gain != 0.0f) {
            const rgp_reading was = {(float)before, RGP_GOOD};
            acts_on = rgp_predict_step(&w->predict, &ahead, acts_on, was, k > 0 ? (float)w->dt : 0.0f);
        }
        const rgp_pid_input in = {{(float)target, RGP_GOOD}, acts_on, 0.0f, 0.0f};
        const double driven = (double)rgp_pid_step(&w->pid, &state, &in, (float)w->dt).value;
        to->row[k] = (rgp_response_row){t, target, seen, driven, state.saturated != 0, true, false};
        o.iae += fabs(target - m->x) * w->dt;
        o.beyond += fabs(target - m->x) > SEEN * w->step_size ? 1.0 / (double)w->rows : 0.0;
        o.way += fabs(driven - before);
        o.limited += state.saturated != 0 && k > 3 * w->rows / 4 ? 4.0 / (double)w->rows : 0.0;
        before = driven;
        if (k >= w->rows - last && since_step(w, t) > ANSWERED * w->tau + w->rises) {
            look_back(&back, m->x - target);
            o.off += target - m->x;
            looked++;
        } else {
            back.low = INFINITY;
            back.high = -INFINITY;
        }
        go_on(m, driven, t);
        o.fell = falls && fabs(m->x) > FALLEN * w->step_size;
        to->rows = k + 1;
    }
    o.end = fmin(back.rise, back.fall);
    o.off /= (double)MAX((size_t)1, looked);
    g_free(m);
    return o;
}

/* ---- a sound loop ----------------------------------------------------------------------------------- */

static void draw_mechanism(world *w, ailing_shape shape, gsl_rng *c)
{
    const double unit = spread_over(c, 0.1, 100.0);
    *w = (world){.shape = shape,
                 .every = {1.0, 1.0},
                 .gain = spread_over(c, 0.1, 10.0),
                 .step_size = spread_over(c, 0.5, 100.0)};
    w->lag = unit;
    w->second = unit * spread_over(c, 0.003, 0.3);
    w->dead = unit * spread_over(c, 0.003, 0.35);
    if (shape == AILING_SLUGGISH || shape == AILING_PREDICTED) {
        w->dead = unit * uniform(c, 0.4, 1.0);
        w->second = unit * uniform(c, 0.01, 0.1);
    } else if (shape == AILING_GLIDE) {
        w->dead = unit * uniform(c, 0.1, 0.5);
        w->second = unit * spread_over(c, 0.02, 0.8);
        w->gain /= unit;
    } else if (shape == AILING_DIRECT) {
        w->dead = unit * uniform(c, 0.1, 0.5);
        w->lag = unit * spread_over(c, 0.02, 0.3);
        w->second = w->lag * spread_over(c, 0.02, 0.3);
    } else if (shape == AILING_BALANCED) {
        w->dead = unit * spread_over(c, 0.003, 0.04);
        w->second = unit * spread_over(c, 0.005, 0.05);
    }
}

#define PREDICTED 0.4 /* of a dead time is waited for as if it were not predicted */

/* A line that knows it all but exactly. */
static void put_predict(world *w, gsl_rng *c)
{
    w->predict = (rgp_predict_config){.gain = (float)(w->gain * uniform(c, 0.9, 1.1)),
                                      .lag = (float)(w->lag * uniform(c, 0.9, 1.1)),
                                      .dead = (float)((w->dead + w->second) * uniform(c, 0.9, 1.1))};
}

#define SOUND 2.2 /* sensitivity */

/* The worst of three, with the gain a fifth more and less. */
static double sensitivity_of(const world *w, const rgp_pid_gains *g)
{
    static const double off[] = {1.0, 1.2, 1.0 / 1.2};
    double worst = 0.0;
    for (size_t i = 0; i < G_N_ELEMENTS(off); i++) {
        const rgp_plant plant = {RGP_PROCESS_FALLING, off[i] * w->gain, w->lag, 0.0, w->dead + w->second};
        const rgp_margins m = rgp_margins_of(&plant, g, w->dt);
        worst = fmax(worst, m.stable ? m.sensitivity : INFINITY);
    }
    return worst;
}

/* A process that falls gets the gains of a grid with which it is least sensitive, at a pace at which there are such.
 */
static void tune_balanced(world *w, gsl_rng *c)
{
    double least = INFINITY;
    while (least > SOUND) {
        w->dt = w->lag / spread_over(c, 12.0, 50.0);
        for (double kp = 1.5 / w->gain; kp < 8.0 / w->gain; kp *= 1.25) {
            for (double td = 0.3 * w->lag; td < 2.0 * w->lag; td *= 1.4) {
                const rgp_pid_gains g = {(float)kp, 0.0f, (float)(kp * td), (float)(2.0 * w->dt)};
                const double is = sensitivity_of(w, &g);
                w->pid.gain = is < least ? g : w->pid.gain;
                least = fmin(least, is);
            }
        }
    }
    w->tau = w->lag;
}

/* Skogestad's rule for what is known exactly. So many of the loops are slower than they might be, by choice. */
static void tune(world *w, double calm, gsl_rng *c)
{
    if (w->shape == AILING_BALANCED) {
        tune_balanced(w, c);
        return;
    }
    const bool integral = w->shape == AILING_GLIDE, slope = w->second > 0.5 * w->dead;
    if (w->shape == AILING_PREDICTED) {
        put_predict(w, c);
    }
    const double waits = w->predict.gain != 0.0f ? PREDICTED * w->dead : w->dead,
                 dead = waits + (slope ? 0.0 : w->second / 2.0), lag = w->lag + (slope ? 0.0 : w->second / 2.0);
    const double slow = gsl_rng_uniform(c) < calm ? spread_over(c, 1.6, 3.0) : uniform(c, 1.1, 1.6);
    double late = dead;
    for (int i = 0; i < 3; i++) {
        w->tau = late * slow;
        w->dt = (w->tau + late) / spread_over(c, 6.0, 70.0);
        late = dead + w->dt;
    }
    const double sum = w->tau + late, kp = (integral ? 1.0 : lag) / (w->gain * sum),
                 ti = integral ? 4.0 * sum : fmin(lag, 4.0 * sum);
    const double off = uniform(c, 0.85, 1.15);
    const double series = slope ? 1.0 + w->second / ti : 1.0;
    w->pid.gain = (rgp_pid_gains){.kp = (float)(off * kp * series),
                                  .ki = (float)(off * kp / ti),
                                  .kd = slope ? (float)(off * kp * w->second) : 0.0f,
                                  .filter = slope ? (float)(w->second / uniform(c, 3.0, 8.0)) : 0.0f};
    w->tau = sum;
}

/* The output that a step needs, or that catches a push. */
static double need_of(const world *w)
{
    return w->shape == AILING_GLIDE      ? w->step_size / (w->gain * w->tau)
           : w->shape == AILING_BALANCED ? 2.0 * w->step_size / w->gain
                                         : w->step_size / w->gain;
}

#define FROM_BEGINNING 0.25
#define DEAD_BAND      0.15
#define REPEATED       0.2
#define RAMP           0.15
#define ONE_WAY        0.4

/* Some can only be driven to one side, as what is heated, and begin next to where they are without it. */
static void draw_limits(world *w, double need, gsl_rng *c)
{
    const bool scarce = gsl_rng_uniform(c) < 0.25; /* a new setpoint takes all there is, for a time */
    const bool goes_up = w->step_at < 1e9 && !(w->again > 0.0);
    const bool may = goes_up && w->shape != AILING_GLIDE && w->shape != AILING_BALANCED;
    const bool one_way = gsl_rng_uniform(c) < ONE_WAY && may;
    w->load = one_way ? -fabs(w->load) : scarce ? fabs(w->load) : w->load;
    w->load_at = one_way && scarce ? 1e12 : w->load_at;
    w->pid.low = (float)(-need * (one_way ? spread_over(c, 0.03, 0.5) : uniform(c, 2.0, 5.0)));
    w->pid.high = (float)(need * (scarce ? uniform(c, 1.15, 1.5) : uniform(c, 2.0, 5.0)));
}

static void draw_run(world *w, gsl_rng *c)
{
    const double need = need_of(w);
    const uint32_t what = (uint32_t)gsl_rng_uniform_int(c, 6); /* 0, 1, 2: either alone, or none */
    w->rows = (size_t)fmin((double)AILING_ROWS, uniform(c, 25.0, 60.0) * w->tau / w->dt);
    const double whole = (double)w->rows * w->dt;
    w->step_at = what == 0 || what == 2                ? 1e12
                 : gsl_rng_uniform(c) < FROM_BEGINNING ? 0.0
                                                       : whole * uniform(c, 0.05, 0.2);
    w->again = gsl_rng_uniform(c) < REPEATED ? w->tau * spread_over(c, 6.0, 30.0) : 0.0;
    w->rises = gsl_rng_uniform(c) < RAMP
                   ? fmin(w->tau * spread_over(c, 2.0, 25.0), w->again > 0.0 ? w->again / 2 : 1e12)
                   : 0.0;
    w->load_at = what == 1 || what == 2 ? 1e12 : whole * (what == 0 ? uniform(c, 0.1, 0.3) : uniform(c, 0.5, 0.65));
    w->load = need * uniform(c, 0.3, 0.6) * (gsl_rng_uniform(c) < 0.5 ? -1.0 : 1.0);
    if (w->shape == AILING_BALANCED) { /* it stands for long; seldom does the place change at which it balances */
        const double rows = uniform(c, 80.0, 250.0) * w->lag / w->dt;
        w->rows = (size_t)fmin((double)AILING_ROWS, rows);
        w->leans = w->gain / (w->lag * spread_over(c, 8.0, 30.0));
        w->load *= 0.2;
        w->load_at = gsl_rng_uniform(c) < 0.2 ? w->load_at : 1e12;
    }
    w->smooth = gsl_rng_uniform(c) < 0.5 ? 0.0 : uniform(c, 0.0, 0.1) * w->tau / w->dt; /* steps */
    const bool calm = w->step_at > 1e9 && w->load_at > 1e9; /* beside noise alone all else is much */
    if (!calm && gsl_rng_uniform(c) < 0.3) {                /* something always moves it a little */
        w->every[0] = w->tau * spread_over(c, 3.0, 25.0);
        w->swing[0] = need * uniform(c, 0.0, 0.04);
    }
    w->noise = w->step_size * spread_over(c, calm ? 0.002 : 0.0002, 0.012);
    w->count = w->step_size * spread_over(c, calm ? 0.0005 : 0.0001, 0.006);
    draw_limits(w, need, c);
    w->pid.deadband = gsl_rng_uniform(c) < DEAD_BAND ? (float)(w->step_size * uniform(c, 0.005, 0.03)) : 0.0f;
    w->pid.setpoint_softness = (float)(gsl_rng_uniform(c) < 0.5 ? 0.0 : uniform(c, 0.2, 0.8));
}

/* ---- what is wrong ---------------------------------------------------------------------------------- */

#define STEPS_OF_SWING 6.0 /* less than that in a period: it is its pace as much as its gains */

#define STILL_DEAD     2.0 /* times what the loop bears: with more it is its P as much as its dead time */
#define CALM_GROWS     8.0 /* times: gains that may grow less are calm, not too small */

static rgp_margins margins_of(const world *w)
{
    const bool has_two = w->shape != AILING_GLIDE && w->shape != AILING_BALANCED;
    const rgp_stand on = {{w->shape == AILING_GLIDE      ? RGP_PROCESS_INTEGRAL
                           : w->shape == AILING_BALANCED ? RGP_PROCESS_FALLING
                                                         : RGP_PROCESS_LAGS,
                           w->gain, w->lag, w->second, w->dead + (has_two ? 0.0 : w->second)},
                          {(double)w->predict.gain, (double)w->predict.lag, (double)w->predict.dead},
                          w->dt};
    return rgp_stand_margins(&on, &w->pid.gain);
}

/* By how much all gains may grow until it swings on; 0: nothing is known of that. */
static double may_grow(const world *w)
{
    const rgp_margins m = margins_of(w);
    return m.stable && isfinite(m.up) && m.swing > STEPS_OF_SWING * w->dt ? m.up : 0.0;
}

#define LIVELY 2.0 /* sensitivity: a loop that is less does not swing by its gains */

static bool is_lively(const world *w)
{
    const rgp_margins m = margins_of(w);
    return !m.stable || m.sensitivity > LIVELY;
}

static void scale(rgp_pid_gains *g, double by, double ki_by)
{
    g->kp *= (float)by;
    g->ki *= (float)ki_by;
    g->kd *= (float)by;
}

/* Gains that somebody has set by hand, none of them far off. */
static void set_by_hand(rgp_pid_gains *g, gsl_rng *c)
{
    g->kp *= (float)spread_over(c, 0.7, 1.2);
    g->ki *= (float)spread_over(c, 0.6, 1.3);
    g->kd *= (float)spread_over(c, 0.7, 1.3);
}

/* All gains, or the integral is left as it was, by so much more than the loop bears. */
static void grow(world *w, double by, gsl_rng *c)
{
    const double all = by * may_grow(w);
    scale(&w->pid.gain, all, gsl_rng_uniform(c) < 0.5 ? all : 1.0);
}

/* A swing by what sticks is slow, and between steps of the setpoint has no time. */
static void look_at_sticking(world *w)
{
    w->rows = MIN((size_t)AILING_ROWS, 2 * w->rows);
    w->again = 0.0;
}

/* A 'predict' line with a dead time, and mostly a gain, that are far off. */
static void miss(rgp_predict_config *line, gsl_rng *c)
{
    const double by = spread_over(c, 1.4, 3.0);
    line->dead *= (float)(gsl_rng_uniform(c) < 0.5 ? by : 1.0 / by);
    line->gain *= (float)spread_over(c, 0.5, 2.0);
}

/* Causes that are made otherwise where something falls; false: this one is not. */
static bool spoil_balanced(world *w, rgp_cause cause, gsl_rng *c, bool *can)
{
    rgp_pid_gains *g = &w->pid.gain;
    const double need = need_of(w);
    *can = true;
    switch (cause) {
    case RGP_CAUSE_WEAK:
        w->pid.high = (float)(need * uniform(c, 0.1, 0.6));
        w->pid.low = -w->pid.high;
        return true;
    case RGP_CAUSE_PACE:
        w->rows = (size_t)((double)w->rows * w->dt / w->lag);
        w->dt = w->lag * uniform(c, 0.2, 0.45);
        w->rows = MAX((size_t)80, (size_t)((double)w->rows * w->lag / w->dt));
        return true;
    case RGP_CAUSE_FRICTION:
        look_at_sticking(w);
        w->rests = need * uniform(c, 0.03, 0.2);
        w->jump = w->rests * uniform(c, 0.5, 1.0);
        return true;
    case RGP_CAUSE_P_MUCH:
        grow(w, spread_over(c, 0.7, 1.1), c);
        return true;
    case RGP_CAUSE_P_LITTLE:
        g->kp = (float)(uniform(c, 1.05, 1.4) / w->gain);
        return true;
    case RGP_CAUSE_I_MUCH:
        g->ki = g->kp * (float)(spread_over(c, 0.5, 3.0) / w->lag);
        return true;
    case RGP_CAUSE_D_MISSING:
        g->kd *= (float)uniform(c, 0.1, 0.6);
        return true;
    case RGP_CAUSE_D_MUCH:
        g->kd *= (float)spread_over(c, 1.5, 4.0);
        return true;
    case RGP_CAUSE_I_LITTLE: /* it has none */
    case RGP_CAUSE_DEAD:
        *can = false;
        return true;
    default:
        return false;
    }
}

#define PERIODS 5.0 /* that fit into the longest stretch, at least */

/* Mostly far more slowly than the loop answers, and a third of those for no longer than a few periods. */
static void move_it(world *w, double need, gsl_rng *c)
{
    const double most = AILING_ROWS * w->dt / PERIODS,
                 periods = gsl_rng_uniform(c) < 1.0 / 3.0 ? uniform(c, 3.0, 2.0 * PERIODS) : 2.0 * PERIODS;
    w->rows = MIN((size_t)AILING_ROWS, 2 * w->rows);
    w->every[0] = fmin(w->tau * spread_over(c, 3.0, 150.0), most);
    w->rows = MAX(w->rows, MIN((size_t)AILING_ROWS, (size_t)(periods * w->every[0] / w->dt)));
    w->every[1] = w->every[0] * uniform(c, 0.2, 0.6);
    w->swing[0] =
        fmin(need * uniform(c, 0.1, 0.6) * fmax(1.0, w->every[0] / (6.0 * w->tau)), 0.7 * (double)w->pid.high);
    w->play = gsl_rng_uniform(c) < 0.5 ? 0.0 : need * uniform(c, 0.0, 0.1); /* which is not what swings it */
    w->swing[1] = gsl_rng_uniform(c) < 0.5 ? 0.0 : w->swing[0] * uniform(c, 0.1, 0.4);
}

static void make_noisy(world *w, gsl_rng *c)
{
    rgp_pid_gains *g = &w->pid.gain;
    w->smooth = gsl_rng_uniform(c) < 0.5 ? 0.0 : uniform(c, 0.0, 0.1) * w->tau / w->dt; /* steps */
    w->noise = w->step_size * uniform(c, 0.01, 0.04);
    g->filter = 0.0f;
    g->kd = (float)((double)g->kp * fmax(w->second, 0.3 * w->tau) * uniform(c, 0.6, 1.2));
}

/* False where that loop cannot have it. */
static bool spoil_any(world *w, rgp_cause cause, gsl_rng *c)
{
    rgp_pid_gains *g = &w->pid.gain;
    const double need = need_of(w);
    switch (cause) {
    case RGP_CAUSE_SIGN:
        w->pid.reverse = 1;
        return true;
    case RGP_CAUSE_WEAK: {
        const double most = uniform(c, 0.3, 0.85) * fmax(w->step_at < 1e9 && w->shape != AILING_GLIDE ? need : 0.0,
                                                         w->load_at < 1e9 ? fabs(w->load) : 0.0);
        w->pid.low = (float)-most;
        w->pid.high = (float)most;
        return most > 0.0;
    }
    case RGP_CAUSE_PACE: {
        const double by = w->tau / w->dt * uniform(c, 0.4, 1.1);
        w->dt *= by;
        w->rows = MIN((size_t)AILING_ROWS, (size_t)fmax(80.0, (double)w->rows / by));
        w->rows = MAX((size_t)80, w->rows);
        return true;
    }
    case RGP_CAUSE_OUTSIDE:
        move_it(w, need, c);
        return true;
    case RGP_CAUSE_FRICTION:
        look_at_sticking(w);
        w->rests = need * uniform(c, 0.05, 0.4);
        w->jump = w->rests * uniform(c, 0.5, 1.0);
        return w->shape != AILING_GLIDE;
    case RGP_CAUSE_PLAY:
        look_at_sticking(w);
        w->play = need * uniform(c, 0.1, 0.8);
        return true;
    case RGP_CAUSE_COUNTS:
        w->smooth = 0.0; /* behind a low pass a step of a reading is none any more */
        w->count = w->step_size * uniform(c, 0.08, 0.5);
        w->noise = w->count * uniform(c, 0.0, 0.1);
        return true;
    case RGP_CAUSE_NOISE:
        make_noisy(w, c);
        return true;
    case RGP_CAUSE_P_MUCH:
        grow(w, spread_over(c, 0.75, 6.0), c);
        return w->shape != AILING_SLUGGISH && w->shape != AILING_DIRECT && g->kp > 0.0f;
    case RGP_CAUSE_DEAD:
        if (w->shape == AILING_PREDICTED) {
            miss(&w->predict, c);
            return true;
        }
        grow(w, spread_over(c, 0.75, STILL_DEAD), c);
        return w->shape == AILING_SLUGGISH && g->kp > 0.0f;
    case RGP_CAUSE_P_LITTLE: {
        const double by = spread_over(c, 0.08, 0.35);
        scale(g, by, by);
        const double grows = may_grow(w);
        return grows == 0.0 || grows > CALM_GROWS;
    }
    case RGP_CAUSE_I_MUCH: {
        const double less = gsl_rng_uniform(c) < 0.5 ? 1.0 : spread_over(c, 0.1, 1.0);
        scale(g, less, spread_over(c, less > 0.5 ? 3.0 : 0.8, w->shape == AILING_PREDICTED ? 30.0 : 9.0));
        return is_lively(w);
    }
    case RGP_CAUSE_I_LITTLE:
        g->ki *= gsl_rng_uniform(c) < 0.5 ? 0.0f : (float)uniform(c, 0.02, 0.2);
        return true;
    case RGP_CAUSE_D_MISSING:
        g->kp *= (float)uniform(c, 1.5, 3.5);
        g->kd = 0.0f;
        return w->second > 1.0 * w->dead && is_lively(w);
    case RGP_CAUSE_D_MUCH:
        g->kd = (float)((double)g->kp * fmax(w->second, 0.3 * w->tau) * uniform(c, 2.0, 8.0));
        return true;
    default:
        return true;
    }
}

static bool spoil(world *w, rgp_cause cause, gsl_rng *c)
{
    bool can;
    return w->shape == AILING_BALANCED && spoil_balanced(w, cause, c, &can) ? can : spoil_any(w, cause, c);
}

/* The way of its output in a step, of its travel. */
static double step_of(const world *w, const outcome *o)
{
    return o->way / (double)w->rows / ((double)w->pid.high - (double)w->pid.low);
}

/* By enough to be seen, beside what the diagnosis takes for next to nothing. */
static bool is_worse(const world *w, rgp_cause cause, const outcome *is, const outcome *was)
{
    const bool calm = w->step_at > 1e9 && w->load_at > 1e9; /* all its error is noise */
    const double more = calm ? 0.0 : is->iae / was->iae, way = is->way / was->way, step = step_of(w, is);
    const bool swings = is->end > 2.0 * SEEN * w->step_size && is->end > 4.0 * (was->end + w->noise + w->count),
               stays_off = fabs(is->off) > SEEN * w->step_size;
    if (w->shape == AILING_BALANCED && (cause == RGP_CAUSE_SIGN || cause == RGP_CAUSE_WEAK || is->fell)) {
        return is->fell && !was->fell && (cause == RGP_CAUSE_SIGN || cause == RGP_CAUSE_WEAK);
    }
    switch (cause) {
    case RGP_CAUSE_OUTSIDE:
    case RGP_CAUSE_FRICTION:
    case RGP_CAUSE_PLAY:
        return swings;
    case RGP_CAUSE_WEAK:
        return is->limited > 0.5 && more > 1.5 && stays_off;
    case RGP_CAUSE_P_LITTLE:
        return more > 2.0 && is->beyond > LONG;
    case RGP_CAUSE_I_LITTLE:
        return more > 2.0 && stays_off;
    case RGP_CAUSE_NOISE:
        return way > 3.0 && step > OUTPUT_SEEN;
    case RGP_CAUSE_SIGN:
    case RGP_CAUSE_COUNTS:
        return more > 1.5 || swings;
    default: /* what swings less and less is seen by what it costs, if it is no limit that costs it */
        return swings || (more > 1.5 && is->limited < 0.1 && way < 4.0);
    }
}

#define TOO_LONG 0.4 /* of the time */

#define CALM     0.4

static void draw(world *w, ailing_shape shape, gsl_rng *c)
{
    draw_mechanism(w, shape, c);
    tune(w, CALM, c);
    draw_run(w, c);
    if (gsl_rng_uniform(c) < 0.5) {
        set_by_hand(&w->pid.gain, c);
    }
}

/* A loop whose output noise moves that much is no sound one, nor is one that is off for so long, since limits keep it
 * from being as quick as its gains, nor one that is near swinging. */
static bool is_sound(const world *w, const outcome *o)
{
    const rgp_margins m = margins_of(w);
    const bool calm = w->shape == AILING_BALANCED || (m.stable && m.sensitivity < RGP_SENSITIVE);
    return calm && step_of(w, o) < OUTPUT_SEEN && o->beyond < TOO_LONG;
}

/* Its run with that wrong, and whether that is worse than without. */
static bool goes_wrong(const world *w, const world *bad, rgp_cause cause, gsl_rng *c, ailing *to)
{
    g_autofree ailing *sound = g_new(ailing, 1);
    const outcome is = run(bad, c, to), was = run(w, c, sound);
    return is_sound(w, &was) && (cause == RGP_CAUSE_HEALTHY || is_worse(bad, cause, &is, &was));
}

bool ailing_make(ailing_shape shape, rgp_cause cause, gsl_rng *chance, ailing *to)
{
    for (int i = 0; i < DRAWS; i++) {
        world w;
        draw(&w, shape, chance);
        world bad = w;
        if (spoil(&bad, cause, chance) && goes_wrong(&w, &bad, cause, chance, to)) {
            return true;
        }
    }
    return false;
}

bool ailing_make_two(ailing_shape shape, rgp_cause cause, rgp_cause other, gsl_rng *chance, ailing *to)
{
    for (int i = 0; i < DRAWS; i++) {
        world w;
        draw(&w, shape, chance);
        world one = w, two = w;
        if (!spoil(&one, cause, chance) || !spoil(&two, other, chance)) {
            continue;
        }
        world both = one;
        if (spoil(&both, other, chance) && goes_wrong(&w, &one, cause, chance, to) &&
            goes_wrong(&w, &two, other, chance, to) && goes_wrong(&w, &both, other, chance, to)) {
            return true;
        }
    }
    return false;
}

ailing_world *ailing_sound(ailing_shape shape, gsl_rng *chance)
{
    world *w = g_new(world, 1);
    draw_mechanism(w, shape, chance);
    tune(w, 0.0, chance);
    draw_run(w, chance);
    return w;
}

rgp_pid_config ailing_pid(const ailing_world *w)
{
    return w->pid;
}

rgp_loop_run ailing_run(const ailing *a, const rgp_pid_config *pid)
{
    return (rgp_loop_run){a->row, a->rows, pid, 0.0, a->predict.gain != 0.0f ? &a->predict : NULL, false};
}

bool ailing_load(const ailing_world *w, double *at, double *size, double *gain)
{
    *at = w->load_at;
    *size = w->load;
    *gain = w->gain;
    return w->load_at < (double)w->rows * w->dt;
}

double ailing_try(const ailing_world *w, const rgp_pid_config *pid, gsl_rng *chance, ailing *to)
{
    world other = *w;
    other.pid = *pid;
    return run(&other, chance, to).iae;
}
