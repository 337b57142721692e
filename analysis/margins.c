/* Sensitivity, gain, phase and delay margins, along a grid of frequencies with crossings found between its points. */
#include "margins.h"

#include <math.h>
#include <stdint.h>

#define POINTS   400
#define SLOWEST  1e-5 /* of the slowest part of the loop: the first frequency */
#define WINDS    0.5  /* radians that the dead time may turn the loop gain between two points */
#define OUTSIDE  0.1  /* of that frequency: how far outside the unit circle z goes, for poles that lie on it */
#define BISECTED 40
#define FADED    0.02 /* of the loop gain */
#define LOOKS    8u   /* points from one look whether it has faded to the next */

static double complex controller(const rgp_pid_gains *g, double step, double complex z)
{
    const double share = g->filter > 0.0f ? -expm1(-step / (double)g->filter) : 1.0;
    const double complex slope = share * (1.0 - 1.0 / z) / step / (1.0 - (1.0 - share) / z);
    return (double)g->kp + (double)g->ki * step * z / (z - 1.0) + (double)g->kd * slope;
}

/* ---- along the circle ------------------------------------------------------------------------------ */

typedef struct sweep {
    rgp_plant plant;          /* as one that rises */
    rgp_plant at_once, later; /* a 'predict' line's lag without its dead time, and with it; gain 0: there is none */
    rgp_plant_state at_rest, at_once_rests, later_rests;
    const rgp_pid_gains *gains;
    double step, radius;
    double angle, next;       /* two frequencies of the grid, in radians a step */
    double complex at, other; /* the loop gain there */
    rgp_margins *to;
} sweep;

/* Of what is driven, as the controller sees it. */
static double complex seen_at(const sweep *s, double complex z)
{
    const double complex measured = rgp_plant_response(&s->at_rest, z);
    return s->later.gain == 0.0
               ? measured
               : measured + rgp_plant_response(&s->at_once_rests, z) - rgp_plant_response(&s->later_rests, z);
}

static double complex loop_at(const sweep *s, double angle)
{
    const double complex z = s->radius * cexp(I * angle);
    return seen_at(s, z) * controller(s->gains, s->step, z);
}

/* The frequency between the two at which something that `of` tells is 0. */
static double crossing(const sweep *s, double (*of)(double complex))
{
    double low = s->angle, high = s->next;
    const bool rises = of(s->at) < 0.0;
    for (int i = 0; i < BISECTED; i++) {
        const double middle = (low + high) / 2.0;
        if ((of(loop_at(s, middle)) < 0.0) == rises) {
            low = middle;
        } else {
            high = middle;
        }
    }
    return (low + high) / 2.0;
}

static double beyond_one(double complex loop)
{
    return cabs(loop) - 1.0;
}

static double of_imaginary(double complex loop)
{
    return cimag(loop);
}

/* A frequency, in radians a step, at which the loop gain is this real number. */
static void take_real(const sweep *s, double angle, double real)
{
    rgp_margins *to = s->to;
    if (real < 0.0 && real > -1.0 && -1.0 / real < to->up) {
        to->up = -1.0 / real;
        to->swing = 2.0 * M_PI / angle * s->step;
    } else if (real < -1.0) {
        to->down = fmax(to->down, -1.0 / real);
    }
}

static void look_at_gain(const sweep *s)
{
    if (signbit(cimag(s->at)) != signbit(cimag(s->other))) {
        const double angle = crossing(s, of_imaginary);
        take_real(s, angle, creal(loop_at(s, angle)));
    }
}

static void look_at_phase(const sweep *s)
{
    if (signbit(beyond_one(s->at)) == signbit(beyond_one(s->other))) {
        return;
    }
    const double angle = crossing(s, beyond_one), phase = carg(-loop_at(s, angle)),
                 late = phase < 0.0 ? phase + 2.0 * M_PI : phase;
    s->to->phase = fmin(s->to->phase, fabs(phase) * 180.0 / M_PI);
    s->to->delay = fmin(s->to->delay, late / angle * s->step);
}

/* The greatest |S| between three frequencies, of which the one in the middle has the greatest of them. */
static double refine(const sweep *s, double low, double high)
{
    const double golden = (sqrt(5.0) - 1.0) / 2.0;
    double a = high - golden * (high - low), b = low + golden * (high - low);
    for (int i = 0; i < BISECTED; i++) {
        if (cabs(1.0 + loop_at(s, a)) < cabs(1.0 + loop_at(s, b))) {
            high = b;
        } else {
            low = a;
        }
        a = high - golden * (high - low);
        b = low + golden * (high - low);
    }
    return 1.0 / cabs(1.0 + loop_at(s, (low + high) / 2.0));
}

static double slowest(const rgp_plant *p, const rgp_pid_gains *g, double step)
{
    const double integral = g->ki > 0.0f ? (double)g->kp / (double)g->ki : 0.0;
    return step + integral + p->dead + (rgp_process_goes_on(p->kind) ? 0.0 : p->lag) +
           (rgp_process_has_two(p->kind) ? p->second : 0.0);
}

/* The most that the controller makes of any frequency from that one on. */
static double controller_at_most(const rgp_pid_gains *g, double step, double angle)
{
    const double share = g->filter > 0.0f ? -expm1(-step / (double)g->filter) : 1.0;
    return (double)g->kp + (double)g->ki * step / (2.0 * sin(angle / 2.0)) +
           (double)g->kd * 2.0 * share / step / (2.0 - share);
}

/* The most that the controller sees of that: what is under way may be as much as it is all in all, or nothing. */
static double seen_at_most(const sweep *s, double complex z)
{
    const double measured = cabs(rgp_plant_response(&s->at_rest, z));
    return s->later.gain == 0.0 ? measured
                                : measured + cabs(rgp_plant_response(&s->at_once_rests, z)) +
                                      cabs(rgp_plant_response(&s->later_rests, z));
}

/* From that frequency on the loop gain is next to nothing, and less than at the crossings that were found: what it may
 * still do counts for none of the margins. A process only fades with frequency; one that falls is looked at to the end.
 */
static bool has_faded(const sweep *s)
{
    return s->plant.kind != RGP_PROCESS_FALLING && s->angle > 0.0 &&
           seen_at_most(s, s->radius * cexp(I * s->angle)) * controller_at_most(s->gains, s->step, s->angle) <
               fmin(FADED, 1.0 / s->to->up);
}

static void begin_ahead(sweep *s, const rgp_ahead *ahead)
{
    if (ahead && ahead->gain != 0.0) {
        s->later = (rgp_plant){RGP_PROCESS_LAG, ahead->gain, ahead->lag, 0.0, ahead->dead};
        s->at_once = s->later;
        s->at_once.dead = 0.0;
        rgp_plant_begin(&s->later_rests, &s->later, s->step);
        rgp_plant_begin(&s->at_once_rests, &s->at_once, s->step);
    }
}

rgp_margins rgp_margins_of(const rgp_plant *plant, const rgp_pid_gains *gains, double step)
{
    return rgp_margins_ahead(plant, NULL, gains, step);
}

rgp_margins rgp_margins_ahead(const rgp_plant *plant, const rgp_ahead *ahead, const rgp_pid_gains *gains, double step)
{
    rgp_margins to = {.up = INFINITY, .swing = NAN, .phase = INFINITY, .delay = INFINITY};
    const double first = SLOWEST * step / slowest(plant, gains, step), ratio = pow(M_PI / first, 1.0 / (POINTS - 1));
    sweep s = {.plant = *plant, .gains = gains, .step = step, .radius = 1.0 + OUTSIDE * first, .to = &to};
    s.plant.gain = fabs(plant->gain);
    rgp_plant_begin(&s.at_rest, &s.plant, step);
    begin_ahead(&s, ahead);
    double turned = 0.0, most = 0.0, peak = 0.0;
    uint32_t points = 0;
    const double widest = WINDS / (fmax((double)s.at_rest.late, (double)s.later_rests.late) + 1.0);
    s.at = loop_at(&s, 0.0);
    if (plant->kind == RGP_PROCESS_FALLING) { /* too little gain, and it falls: then it is real at once */
        take_real(&s, first, creal(s.at));
    }
    for (s.next = first; s.angle < M_PI; s.next = fmin(M_PI, fmin(s.next * ratio, s.next + widest))) {
        s.other = loop_at(&s, s.next);
        turned += carg((1.0 + s.other) / (1.0 + s.at));
        if (1.0 / cabs(1.0 + s.other) > most) {
            most = 1.0 / cabs(1.0 + s.other);
            peak = s.next;
        }
        if (s.angle > 0.0) {
            look_at_gain(&s);
            look_at_phase(&s);
        }
        s.angle = s.next;
        s.at = s.other;
        if (++points % LOOKS == 0 && has_faded(&s)) {
            break;
        }
    }
    if (s.angle >= M_PI) {
        take_real(&s, M_PI, creal(s.at)); /* at half of the loop's rate it is real */
    }
    const double poles = plant->kind == RGP_PROCESS_FALLING ? 1.0 : 0.0; /* outside the circle, without a loop */
    to.stable = fabs(turned - poles * M_PI) < M_PI / 2.0;
    to.sensitivity =
        fmax(most, refine(&s, fmax(peak / ratio, peak - widest), fmin(M_PI, fmin(peak * ratio, peak + widest))));
    return to.stable ? to : (rgp_margins){false, NAN, NAN, NAN, NAN, NAN, NAN};
}

rgp_margins rgp_margins_worse(const rgp_margins *a, const rgp_margins *b)
{
    rgp_margins is = b->up < a->up ? *b : *a;
    is.sensitivity = fmax(a->sensitivity, b->sensitivity);
    is.down = fmax(a->down, b->down);
    is.phase = fmin(a->phase, b->phase);
    is.delay = fmin(a->delay, b->delay);
    return !a->stable ? *a : !b->stable ? *b : is;
}
