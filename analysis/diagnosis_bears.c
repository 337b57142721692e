/* Causes that may be said of a stretch at all: each leaves something that has to be there, whatever the weights of
 * diagnosis_weights.c say. */
#include "diagnosis_parts.h"

#include <math.h>

#define LIMITED       0.1  /* of the time */
#define MOSTLY        0.5  /* of the time beyond the band */
#define LEADS         0.4  /* quarter turns */
#define OF_D          0.3  /* of the way of the output */
#define JITTER        0.03 /* of the travel */
#define SOME_JITTER   0.01
#define RATTLES       0.4   /* of the travel */
#define GOOD          0.9   /* explained */
#define TURNS         -0.3  /* autocorrelation: it goes to and fro */
#define SELDOM        0.05  /* of the time beyond the band: pushes that are over at once */
#define LITTLE        0.5   /* of the band */
#define RARELY        -1.4  /* logarithm of a step over itself, dead time and lesser lag: a quarter */
#define AS_LATE       -0.3  /* logarithm: three quarters */
#define NO_SMALL_PART 0.07  /* of dead time, half a step among it, and lags */
#define BY_FAR        2.0   /* logarithm: by seven times */
#define FEW_STEPS     16.0  /* in a period: it may be the pace */
#define COARSE        6.0   /* steps of a reading, from turn to turn */
#define ABOVE         2.0   /* noises */
#define COMES_BACK    0.2   /* autocorrelation: less is two pushes that look like a swing */
#define AGAIN         0.3   /* autocorrelation: it comes back as it was */
#define SEEN          0.7   /* of the band: what does not swing as a sine has a lesser spread */
#define EXPLAINED     0.97  /* by a model that is believed when it has it that the loop swings by itself */
#define FAR_MORE      3.0   /* bands */
#define LESS_AGAIN    -0.02 /* logarithm: a quarter before the last one moved by more */
#define STEADY        -4.0  /* logarithm: a fiftieth of itself in a period */
#define KNOWN         0.8   /* by one that is not bad */
#define HARDLY_LATE   0.2   /* dead time over dead time and lags */
#define LATE          0.25  /* the same */
#define MISSES        0.3   /* logarithm: a third */
#define THRICE        1.1   /* logarithm */
#define MUCH_P        3.0   /* logarithm of kp beside the rule's: by twenty times */
#define MUCH_I        1.5   /* logarithm of ki beside kp, both beside the rule's: by four and a half */
#define PACED         0.2   /* logarithm: by so much more gain a shorter step would bear, a fifth */
#define SHORT_OF_I    -0.9  /* logarithm of ki beside kp, both beside the rule's: less than 0.4 */
#define IDLE          0.5   /* of the stretch */
#define ONE_SIDED     0.9   /* mean error over mean size of the error */
#define LITTLE_I      -1.0  /* logarithm of ki beside the rule's: less than 0.37 */
#define NO_ROOM       2.1   /* logarithm: by no more than the gains of a calm loop, of the rule with three dead times */
#define NO_ROOM_YET   2.5   /* the same with a 'predict' line, beside which less dead time is left */
#define GAINED        0.1   /* logarithm of a sensitivity: a change of a gain makes it so much less */
#define FEW_PERIODS   2.5
#define TENTH         0.1 /* of the swing of the output */
#define LED           0.5 /* of the swing */

bool rgp_diagnosis_kept_up(const rgp_diagnosis *d)
{
    return d->sign.steady < STEADY && d->sign.cut <= RGP_CUT;
}

/* An error that shrinks at a limit has only not had the time. */
static bool is_pinned(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    return d->sign.pinned > LIMITED && !d->comes;
}

/* It went off, and is at a limit that does not bring it back. */
static bool goes_off(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return is_pinned(d, run) && d->grew > d->band && !d->obeyed;
}

/* A good model, of more than a sine. */
static bool is_known(const rgp_diagnosis *d)
{
    return d->sign.explained > EXPLAINED && d->sign.sine < A_SINE;
}

/* It has the loop swing by itself. */
static bool is_unstable(const rgp_diagnosis *d)
{
    return is_known(d) && d->sign.grow < 0.0;
}

/* From step to step the output goes from one end of its travel towards the other. */
static bool rattles(const rgp_diagnosis *d)
{
    return d->jitter > RATTLES;
}

/* Far more than next to nothing, for most of the time. */
static bool is_restless(const rgp_diagnosis *d)
{
    return d->swing > FAR_MORE * d->band && d->beyond > MOSTLY;
}

/* Nobody is well who drives all there is and stays off, nor whose loop swings more and more, nor is it ever still. */
static bool is_free(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    return (d->sign.pinned < MOSTLY || d->comes) && !is_unstable(d) && !is_restless(d) && !rattles(d);
}

/* By a model that is linear the swing would have grown until a limit stopped it, and it did not: something is between
 * that no such model has. */
static bool is_held_down(const rgp_diagnosis *d)
{
    return is_unstable(d) && d->sign.cut < RGP_CUT && d->sign.sustained < LESS_AGAIN;
}

/* A good model has it near swinging, and something showed it. */
static bool is_near_it(const rgp_diagnosis *d)
{
    return d->sign.explained > GOOD && d->sign.sensitivity > log(RGP_SENSITIVE) && d->beyond > SELDOM;
}

/* To and fro, at the end by more than next to nothing, or behind what moved it; or as a model has it. */
static bool turns(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    const bool goes_on = isfinite(d->period) || d->sign.turn < TURNS;
    return (goes_on && d->swing > LITTLE * d->band) || is_near_it(d) || rattles(d) ||
           (d->sign.whole_turn < TURNS && d->sign.whole_swing > COMES_BACK && d->to_and_fro && d->beyond > SELDOM);
}

/* By something other than the loop: a good model, of more than that swing, does not have it that the loop swings by
 * itself. */
static bool swings(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    const bool by_itself = is_unstable(d) && !is_held_down(d) && !rgp_diagnosis_kept_up(d);
    return isfinite(d->period) && fmax(d->sign.swing, d->sign.whole_swing) > AGAIN &&
           d->swing > fmax(SEEN * d->band, ABOVE * d->noise) && !by_itself;
}

/* Two periods of a swing do not tell what a play or friction makes of it from what else came in them. */
static bool goes_on_and_on(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return swings(d, run) && d->length > FEW_PERIODS * d->period;
}

/* It is the integral that goes on until what sticks jumps. */
static bool hunts(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return goes_on_and_on(d, run) && run->pid->gain.ki > 0.0f;
}

/* An integral makes no swing of a play that is less than a tenth of what the output goes. */
static bool has_play(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    const bool too_little = d->sign.play > 0.0 && d->sign.play < TENTH;
    return goes_on_and_on(d, run) && !(too_little && run->pid->gain.ki > 0.0f);
}

/* Few steps in what delays it cost nothing where the gains may grow by far as it is, but where the step is about all
 * that delays it, and no small part of its answer. */
static bool steps_rarely(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    const rgp_signs *s = &d->sign;
    const bool is_all = s->rate > AS_LATE && s->late > NO_SMALL_PART;
    const bool by_delay = (s->rate > RARELY && s->grow < BY_FAR) || is_all;
    return (s->explained > 0.0 && (by_delay || s->paced > PACED)) ||
           (isfinite(d->period) && exp(s->slow_swing) < FEW_STEPS);
}

static bool is_coarse(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    return exp(d->sign.counts) < COARSE;
}

static bool has_i(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return turns(d, run) && run->pid->gain.ki > 0.0f;
}

static bool d_moves(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return run->pid->gain.kd > 0.0f && d->sign.of_d > OF_D && d->jitter > JITTER;
}

static bool has_d(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return (turns(d, run) && run->pid->gain.kd > 0.0f && d->jitter > SOME_JITTER) || d_moves(d, run);
}

/* A derivative that leads by as much already is not missing. */
static bool lacks_d(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return turns(d, run) && d->sign.lead_of_d < LEADS;
}

/* Gains that could grow no more than those of a calm loop are not too small. A model of a loop that is far too slow may
 * take a lag for dead time, which leaves less room. */
static bool has_no_room(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return is_known(d) && d->sign.late < HARDLY_LATE && d->sign.grow < (run->predict ? NO_ROOM_YET : NO_ROOM);
}

/* Beside its P it has about the integral that it should: what is left of an error is still on its way. */
static bool has_enough_i(const rgp_diagnosis *d)
{
    return is_known(d) && d->sign.ki_off - d->sign.kp_off > SHORT_OF_I;
}

/* A loop that drives all there is cannot be told to drive more. */
static bool has_more(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)run;
    return d->sign.limited < MOSTLY * d->beyond;
}

bool rgp_diagnosis_let_go(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return d->leaves && run->pid->gain.ki <= 0.0f && !d->to_and_fro;
}

bool rgp_diagnosis_idle_i(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    const rgp_pid_gains *g = &run->pid->gain;
    return g->ki > 0.0f && (double)g->kp > IDLE * (double)g->ki * d->length;
}

static bool may_drive_more(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return has_more(d, run) && !has_no_room(d, run) && !rgp_diagnosis_idle_i(d, run);
}

/* A good model has it that a 'predict' line like itself would let the gains be greater, and they are not by themselves
 * far beyond what any line bears. */
static bool misses(const rgp_diagnosis *d)
{
    const bool too_much = d->sign.kp_off > MUCH_P || d->sign.ki_off - d->sign.kp_off > MUCH_I;
    return d->sign.explained > EXPLAINED && d->sign.misses > MISSES && !too_much;
}

/* By a model that is not bad, as far as it tells. */
static bool is_hardly_late(const rgp_diagnosis *d)
{
    return d->sign.explained > KNOWN && d->sign.late < LATE * diagnosis_tells_late(d->sign.sine);
}

/* By a model that may take some of its dead time for a lag, but not most of it, P is far more than the rule's. */
static bool is_driven_too_hard(const rgp_diagnosis *d)
{
    return d->sign.explained > KNOWN && d->sign.kp_off > THRICE && d->sign.late < HARDLY_LATE;
}

/* Of a loop with a 'predict' line it is what that line misses. */
static bool is_late(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    if (run->predict) {
        return misses(d);
    }
    return turns(d, run) && !is_hardly_late(d) && !is_driven_too_hard(d);
}

/* It comes back so slowly that it is off for most of the time, and a model has its integral far too small, its P not;
 * or it is off to one side, and no such integral can do anything in that time. */
static bool creeps(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    const bool by_model =
        d->sign.explained > KNOWN && d->sign.ki_off < LITTLE_I && d->sign.ki_off - d->sign.kp_off < SHORT_OF_I;
    return d->beyond > MOSTLY && (by_model || (rgp_diagnosis_idle_i(d, run) && d->sign.one_side > ONE_SIDED));
}

/* More of an integral that does something would make it swing. */
static bool bears_no_more(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return is_near_it(d) && run->pid->gain.ki > 0.0f && !rgp_diagnosis_idle_i(d, run);
}

static bool is_off(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return !rgp_diagnosis_let_go(d, run) && !bears_no_more(d, run) && (rgp_diagnosis_stays_off(d) || creeps(d, run)) &&
           has_more(d, run) && !has_enough_i(d);
}

/* ---- the same of what falls without its loop -------------------------------------------------------- */

/* Its model has the other sign than its controller: nothing else can be told of it. */
static bool is_driven_off(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return (d->model.gain.value < 0.0) != (run->pid->reverse != 0);
}

/* Gains that would not hold it up with any power are what is the matter. */
static bool lacks_power(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return is_pinned(d, run) && d->margins.stable;
}

static bool is_held(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return !is_pinned(d, run);
}

/* A change of a gain, or of the step, makes it less sensitive by enough. */
#define WANTS(change)                                                           \
    static bool wants_##change(const rgp_diagnosis *d, const rgp_loop_run *run) \
    {                                                                           \
        (void)run;                                                              \
        return d->sign.change > GAINED;                                         \
    }
WANTS(less_p)
WANTS(more_p)
WANTS(less_i)
WANTS(more_d)
WANTS(less_d)
WANTS(sooner)
#undef WANTS

static bool never(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    (void)d;
    (void)run;
    return false;
}

/* By rgp_diagnosis.falls. */
static bool (*const has_to_be[2][RGP_CAUSES])(const rgp_diagnosis *d, const rgp_loop_run *run) = {
    {
        [RGP_CAUSE_HEALTHY] = is_free,
        [RGP_CAUSE_SIGN] = goes_off,
        [RGP_CAUSE_WEAK] = is_pinned,
        [RGP_CAUSE_PACE] = steps_rarely,
        [RGP_CAUSE_OUTSIDE] = swings,
        [RGP_CAUSE_FRICTION] = hunts,
        [RGP_CAUSE_PLAY] = has_play,
        [RGP_CAUSE_COUNTS] = is_coarse,
        [RGP_CAUSE_NOISE] = d_moves,
        [RGP_CAUSE_P_MUCH] = turns,
        [RGP_CAUSE_P_LITTLE] = may_drive_more,
        [RGP_CAUSE_I_MUCH] = has_i,
        [RGP_CAUSE_I_LITTLE] = is_off,
        [RGP_CAUSE_D_MISSING] = lacks_d,
        [RGP_CAUSE_D_MUCH] = has_d,
        [RGP_CAUSE_DEAD] = is_late,
    },
    {
        [RGP_CAUSE_HEALTHY] = is_held,
        [RGP_CAUSE_SIGN] = is_driven_off,
        [RGP_CAUSE_WEAK] = lacks_power,
        [RGP_CAUSE_PACE] = wants_sooner,
        [RGP_CAUSE_OUTSIDE] = swings,
        [RGP_CAUSE_FRICTION] = goes_on_and_on,
        [RGP_CAUSE_PLAY] = has_play,
        [RGP_CAUSE_COUNTS] = is_coarse,
        [RGP_CAUSE_NOISE] = d_moves,
        [RGP_CAUSE_P_MUCH] = wants_less_p,
        [RGP_CAUSE_P_LITTLE] = wants_more_p,
        [RGP_CAUSE_I_MUCH] = wants_less_i,
        [RGP_CAUSE_I_LITTLE] = never,
        [RGP_CAUSE_D_MISSING] = wants_more_d,
        [RGP_CAUSE_D_MUCH] = wants_less_d,
        [RGP_CAUSE_DEAD] = never,
    },
};

bool rgp_diagnosis_stays_off(const rgp_diagnosis *d)
{
    return fabs(d->left) > fmax(d->band, d->swing);
}

bool rgp_diagnosis_led(const rgp_diagnosis *d)
{
    return isfinite(d->period) && d->led > LED * d->swing;
}

/* A swing of the setpoint's tells nothing of the gains, nor of dead time: the causes from too much P on. */
void diagnosis_bears(const rgp_diagnosis *d, const rgp_loop_run *run, bool *may)
{
    const bool only_sign = d->falls && is_driven_off(d, run);
    for (int c = 0; c < RGP_CAUSES; c++) {
        may[c] = (!only_sign || c == RGP_CAUSE_SIGN) && has_to_be[d->falls][c](d, run);
    }
    for (int c = RGP_CAUSE_P_MUCH; !d->falls && rgp_diagnosis_led(d) && c < RGP_CAUSES; c++) {
        may[c] = false;
    }
}
