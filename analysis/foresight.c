/* Stretches as they would have gone with other gains. */
#include "foresight.h"

#include <math.h>

#define MOST ((size_t)4000)
#define OFF  (4.0 / 3.0)
#define NEW  0.02 /* of its first output */

enum { PLANTS = 4 };

struct rgp_foresight {
    rgp_pid_config pid;
    const rgp_predict_config *predict; /* NULL: there is no such line */
    rgp_plant plant[PLANTS];
    double step;
    size_t rows;
    bool is_new;                        /* the stretch begins with the loop, which has no integral yet */
    double *target, *measured, *output; /* by step, as it was */
    double *besides;                    /* in the output, what is not of these gains */
    double *change;                     /* room: of the output */
    double error;                       /* mean size */
};

/* 0 where there is no step, or no reading to be used. */
static double error_at(const rgp_response_row *row)
{
    return row->stands || !row->usable ? 0.0 : fabs(row->target - row->measured);
}

/* The first of so many steps in a row as are looked at, those that hold most of the error. */
static size_t worst_of(const rgp_loop_run *run)
{
    size_t best = 0, first = 0, steps = 0;
    double sum = 0.0, most = -1.0;
    for (size_t i = 0; i < run->rows; i++) {
        sum += error_at(&run->row[i]);
        steps += !run->row[i].stands;
        for (; steps > MOST; first++) {
            sum -= error_at(&run->row[first]);
            steps -= !run->row[first].stands;
        }
        if (sum > most) {
            most = sum;
            best = first;
        }
    }
    return best;
}

/* A reading that is not to be used is the one before. */
static void take_steps(rgp_foresight *f, const rgp_loop_run *run)
{
    for (size_t i = worst_of(run); i < run->rows && f->rows < MOST; i++) {
        const rgp_response_row *r = &run->row[i];
        const size_t n = f->rows;
        if (!r->stands) {
            f->target[n] = r->target;
            f->measured[n] = r->usable ? r->measured : n > 0 ? f->measured[n - 1] : r->target;
            f->output[n] = r->output;
            f->rows++;
        }
    }
}

typedef struct controller {
    const rgp_pid_config *pid;
    rgp_pid_state state;
    rgp_predict_state ahead;
} controller;

/* One step of a controller; the first one takes over what was driven, unless the loop begins with it. `was`: driven
 * until now. */
static double drive(const rgp_foresight *f, controller *c, size_t k, double measured, double was)
{
    rgp_reading seen = {(float)measured, RGP_GOOD};
    if (f->predict) {
        const rgp_reading driven = {(float)was, RGP_GOOD};
        seen = rgp_predict_step(f->predict, &c->ahead, seen, driven, k > 0 ? (float)f->step : 0.0f);
    }
    const rgp_pid_input in = {{(float)f->target[k], RGP_GOOD}, seen, (float)f->besides[k], 0.0f};
    const rgp_reading out = k == 0 && !f->is_new
                                ? rgp_pid_follow(c->pid, &c->state, &in, (float)f->output[0], (float)f->step)
                                : rgp_pid_step(c->pid, &c->state, &in, (float)f->step);
    return (double)out.value;
}

/* By its first output, which is that of a controller without a past. */
static bool begins_with_loop(const rgp_foresight *f)
{
    rgp_foresight as_new = *f;
    controller first = {.pid = &f->pid};
    as_new.is_new = true;
    const double out = f->rows > 0 ? drive(&as_new, &first, 0, f->measured[0], 0.0) : 0.0;
    return f->rows > 0 && fabs(out - f->output[0]) <= NEW * fabs(f->output[0]);
}

/* A feed, or a bias, adds to the output. */
static void find_besides(rgp_foresight *f)
{
    f->is_new = begins_with_loop(f);
    controller now = {.pid = &f->pid};
    for (size_t k = 0; k < f->rows; k++) {
        f->besides[k] = f->output[k] - drive(f, &now, k, f->measured[k], f->output[k > 0 ? k - 1 : 0]);
        f->error += fabs(f->target[k] - f->measured[k]) / (double)f->rows;
    }
}

rgp_foresight *rgp_foresight_of(const rgp_loop_run *run, const rgp_plant *plant, double step)
{
    rgp_foresight *f = g_new0(rgp_foresight, 1);
    double **const column[] = {&f->target, &f->measured, &f->output, &f->besides, &f->change};
    for (size_t i = 0; i < G_N_ELEMENTS(column); i++) {
        *column[i] = g_new0(double, MIN(run->rows, MOST) + 1);
    }
    f->pid = *run->pid;
    f->predict = run->predict;
    f->step = step;
    for (size_t i = 0; i < PLANTS; i++) {
        f->plant[i] = *plant;
    }
    f->plant[1].gain *= OFF;
    f->plant[2].gain /= OFF;
    f->plant[3].dead *= OFF;
    take_steps(f, run);
    find_besides(f);
    return f;
}

void rgp_foresight_free(rgp_foresight *f)
{
    g_free(f->target);
    g_free(f->measured);
    g_free(f->output);
    g_free(f->besides);
    g_free(f->change);
    g_free(f);
}

rgp_foreseen rgp_foresee_on(const rgp_foresight *f, const rgp_plant *plant, const rgp_pid_gains *gains)
{
    rgp_foreseen is = {0.0, 0.0};
    rgp_pid_config pid = f->pid;
    pid.gain = *gains;
    controller other = {.pid = &pid};
    rgp_plant_state moves;
    rgp_plant_begin(&moves, plant, f->step);
    double before = f->output[0];
    for (size_t k = 0; k < f->rows; k++) {
        const double measured = f->measured[k] + rgp_plant_measured(&moves),
                     driven = drive(f, &other, k, measured, before);
        is.error += fabs(f->target[k] - measured);
        is.way += fabs(driven - before);
        before = driven;
        f->change[k] = driven - f->output[k];
        rgp_plant_drive(&moves, f->change, k);
    }
    is.error /= fmax((double)f->rows * f->error, 1e-300);
    is.way /= (double)f->rows * ((double)pid.high - (double)pid.low);
    return is;
}

rgp_foreseen rgp_foresee(const rgp_foresight *f, const rgp_pid_gains *gains)
{
    rgp_foreseen worst = {0.0, 0.0};
    for (size_t i = 0; i < PLANTS; i++) {
        const rgp_foreseen one = rgp_foresee_on(f, &f->plant[i], gains);
        worst.error = fmax(worst.error, one.error);
        worst.way = fmax(worst.way, one.way);
    }
    return worst;
}
