/* A loop diagnosed by a stretch of its run: signs, and how likely each of the known causes is with them.
 *
 * Signs are numbers without a unit. The chances come out of them by multinomial logistic regression (Cox 1958, with a
 * ridge: le Cessie and van Houwelingen 1992) whose weights were learnt from simulated loops with one thing wrong each:
 * docs/evidence.md has how often it is right. Nothing is looked for that the stretch cannot bear: see
 * rgp_diagnosis.unfit. */
#ifndef ANALYSIS_DIAGNOSIS_H
#define ANALYSIS_DIAGNOSIS_H

#include "margins.h"
#include "process.h"
#include "response.h"

#include "rigpulse/regulate/pid.h"
#include "rigpulse/regulate/predict.h"

/* X(name, word): in the order in which one looks, since an earlier one explains a later one. */
#define RGP_CAUSE_LIST(X)             \
    X(HEALTHY, "healthy")             \
    X(SIGN, "the wrong way")          \
    X(WEAK, "too weak")               \
    X(PACE, "too slow a pace")        \
    X(OUTSIDE, "swings from outside") \
    X(FRICTION, "friction")           \
    X(PLAY, "play")                   \
    X(COUNTS, "too coarse a reading") \
    X(NOISE, "noise on the output")   \
    X(P_MUCH, "too much P")           \
    X(P_LITTLE, "too little P")       \
    X(I_MUCH, "too much I")           \
    X(I_LITTLE, "too little I")       \
    X(D_MISSING, "D missing")         \
    X(D_MUCH, "too much D")           \
    X(DEAD, "dead time")

#define RGP_ALL_BUT_ALL 0.985 /* explained of what moved: a model to build all on */

#define RGP_SENSITIVE   2.5 /* a loop that is more sensitive is near swinging; half as much is usual */

#define RGP_GROW_MOST   3.0 /* of the sign `grow`: it may be more, too */

#define RGP_CUT         0.03 /* of the sign `cut`: from there on it comes to a limit in each swing */

typedef enum rgp_cause {
#define RGP_CAUSE_NAME(name, word) RGP_CAUSE_##name,
    RGP_CAUSE_LIST(RGP_CAUSE_NAME)
#undef RGP_CAUSE_NAME
        RGP_CAUSES
} rgp_cause;

extern const char *const rgp_cause_words[RGP_CAUSES];

/* X(field, what it is): each of a stretch; 0 where there is nothing to tell it by. */
#define RGP_SIGN_LIST(X)                                                                                       \
    X(limited, "share of the time at a limit with an error beyond its band")                                   \
    X(pinned, "the same, of the last quarter")                                                                 \
    X(cut, "share of the second half at a limit, whatever the error")                                          \
    X(both, "share of the limited time at the limit that is the rarer one, twice")                             \
    X(against, "model: it answers the wrong way, by standard errors of its gain, at most 8")                   \
    X(swing, "autocorrelation of the error of the second half at its first maximum")                           \
    X(turn, "the same at its first minimum")                                                                   \
    X(whole_swing, "the first maximum over all of the stretch")                                                \
    X(whole_turn, "and its first minimum")                                                                     \
    X(regular, "mean over three spreads of the intervals of its zero crossings (Thornhill et al. 2003), to 3") \
    X(sustained, "logarithm: spread of the error in the last quarter over that of the greatest quarter")       \
    X(steady, "logarithm: share of itself by which the height of the swing changes in a period, -7 to 0")      \
    X(slow_swing, "logarithm: steps in a period")                                                              \
    X(lag_of_i, "quarter turns by which the integral lags behind P at that period")                            \
    X(lead_of_d, "quarter turns by which the derivative leads")                                                \
    X(third_of_y, "third harmonic over first of what is measured")                                             \
    X(third_of_u, "third harmonic over first of the output")                                                   \
    X(rests, "share of a period in which what is measured stands still")                                       \
    X(jumps, "greatest movement in a twelfth of a period, of the whole swing")                                 \
    X(odd, "how odd the cross-correlation of output and measured is over a period, -1 to 1 (Horch 1999)")      \
    X(beside, "model: logarithm of the period over that at which this loop would swing on, -2 to 2")           \
    X(signal, "logarithm: spread of what is measured over the noise of a reading")                             \
    X(counts, "logarithm: swing in the last quarter over the step of a reading, -1 to 3")                      \
    X(off, "logarithm: the error that is left at the end in bands, at least 0")                                \
    X(one_side, "mean error over mean size of the error, beyond the band")                                     \
    X(idle, "idle index (Hagglund 1999): share of steps in which output and error go on alike, -1 to 1")       \
    X(restless, "logarithm: way of the output from step to step over its spread")                              \
    X(hissing, "correlation of a movement of the output with the next one")                                    \
    X(of_d, "share of the output's movement that the derivative makes, 0 to 1")                                \
    X(explained, "model: share of what moved that it explains")                                                \
    X(sine, "model: share of what moved that a sine of one height explains")                                   \
    X(pushed, "model: share of what moved that a wave from outside explains")                                  \
    X(late, "model: dead time over dead time and lags")                                                        \
    X(delayed, "model: the same above a third, or below, by as much as it explains, -1 to 1")                  \
    X(second, "model: lesser lag over dead time and lesser lag")                                               \
    X(integral, "model: an integral")                                                                          \
    X(sensitivity, "model: logarithm of the sensitivity of this loop, to 2.5")                                 \
    X(grow, "model: logarithm of the factor by which the gains may grow, -2 to 3")                             \
    X(delay, "model: logarithm of steps by which it may be later, -2 to 5")                                    \
    X(paced, "model: by how much `grow` would be more at a quarter of the step, 0 to 2")                       \
    X(kp_off, "model: logarithm of kp over that of the rule (Skogestad 2003), -4 to 4")                        \
    X(ki_off, "model: the same of ki, -6 to 4")                                                                \
    X(kd_off, "model: derivative time over the lesser lag, to 3")                                              \
    X(rate, "model: logarithm of a step of the loop over dead time and lesser lag, -4 to 2")                   \
    X(misses, "model: by how much `grow` would be more if the 'predict' line were the model, 0 to 2")          \
    X(predicted, "model: it has such a line")                                                                  \
    X(bare, "model: `second`, by as much as the derivative leads by less than 30 degrees")                     \
    X(alone, "swing: by how much less a mechanism alone leaves of it, as a logarithm, 0 to 4")                 \
    X(by_play, "swing: how much less than that a mechanism behind a play leaves")                              \
    X(by_friction, "swing: the same of one behind friction")                                                   \
    X(by_wave, "swing: the same of one with a swing from outside")                                             \
    X(play, "swing: that play, of the swing of the output")                                                    \
    X(sticks, "swing: that friction, of the swing of the output")                                              \
    X(falls, "it falls without its loop, as a model has it: its sensitivity as a logarithm, at least 0.1")     \
    X(less_p, "falls: logarithm of how many times less sensitive less P makes it, to 3")                       \
    X(more_p, "falls: the same of more P")                                                                     \
    X(less_i, "falls: of less I, or none")                                                                     \
    X(more_d, "falls: of more D")                                                                              \
    X(less_d, "falls: of less D")                                                                              \
    X(sooner, "falls: of a quarter of the step")

typedef struct rgp_signs {
#define RGP_SIGN_FIELD(field, says) double field;
    RGP_SIGN_LIST(RGP_SIGN_FIELD)
#undef RGP_SIGN_FIELD
} rgp_signs;

#define RGP_SIGN_ONE(field, says) +1u
enum { RGP_SIGNS = 0u RGP_SIGN_LIST(RGP_SIGN_ONE) };
#undef RGP_SIGN_ONE

/* A stretch; rows in which the loop stands are not looked at. */
typedef struct rgp_loop_run {
    const rgp_response_row *row;
    size_t rows;
    const rgp_pid_config *pid;         /* as it was all the time */
    double least;                      /* measured units: what moves by less is next to nothing; 0: that is not known */
    const rgp_predict_config *predict; /* the 'predict' line that the controller acts on; NULL: there is none */
    bool stands; /* it is known not to fall without its loop: that, which takes long, is not looked for */
} rgp_loop_run;

typedef struct rgp_diagnosis {
    const char *unfit; /* why nothing can be told of it; NULL: it can */
    double step;       /* seconds from one step of the loop to the next, on average */
    double length;     /* seconds */
    rgp_signs sign;
    double chance[RGP_CAUSES]; /* they add up to 1 */
    rgp_cause first, second;   /* the likeliest two */
    rgp_process model;         /* at a glance, where sign.explained is above 0 */
    double explained;          /* as sign.explained; 0 where the model takes a swing from outside for the loop's own */
    bool stands;               /* it was looked for whether it falls without its loop, and it is not to be seen */
    bool falls;                /* the model is one of what falls without its loop, and no sign is of a model */
    rgp_margins margins;       /* of this loop, where it falls */
    double model_begin;        /* seconds, in the time of the rows: of its first row, from which its loads are timed */
    double period;             /* seconds, of what swings; NAN: nothing does */
    double noise;              /* measured units: standard deviation of one reading's */
    double band;               /* measured units: the error that counts as none */
    double jitter;             /* of the travel of the output: spread of its way from step to step */
    double beyond;             /* share of the time with an error beyond the band */
    double swing;              /* measured units: of the last quarter, from the middle to a turn */
    double led;                /* measured units: by how much the setpoint swings with it, from the middle to a turn */
    double left;               /* measured units: the error at the end, its median */
    double grew;               /* measured units: the size of the error, from the beginning to the end */
    double holds, lean;        /* what it drives in the mean to stand still, and the error then; 0: nothing of note */
    bool leaves;               /* in the last quarter the error has grown by more than its band */
    bool comes;                /* at the pace of the last quarter it is within its band in another such stretch */
    bool obeyed;               /* at a limit it first came nearer: it is driven the right way */
    bool to_and_fro;           /* the error has been beyond the band on one side, the other and the one again */
} rgp_diagnosis;

void rgp_diagnose(const rgp_loop_run *run, rgp_diagnosis *to);

/* The swing goes on at the same height, and no limit keeps it there: something from outside does, or a play or
 * friction, since a swing that a loop makes itself grows or shrinks. */
bool rgp_diagnosis_kept_up(const rgp_diagnosis *diagnosis);

/* An error is left at the end: more than its band, and no part of a swing. */
bool rgp_diagnosis_stays_off(const rgp_diagnosis *diagnosis);

/* The setpoint swings as well, and not by steps: what moves the setpoint moves the loop, or both swing together. */
bool rgp_diagnosis_led(const rgp_diagnosis *diagnosis);

/* P alone stands still somewhere, whatever load there is, if there is enough of it: this one goes off to the end. */
bool rgp_diagnosis_let_go(const rgp_diagnosis *diagnosis, const rgp_loop_run *run);

/* It has an integral, whose time is longer than half of the stretch. */
bool rgp_diagnosis_idle_i(const rgp_diagnosis *diagnosis, const rgp_loop_run *run);

/* Two runs of a loop with other gains that swing at one period, neither by far more, by no limit: what swings them is
 * not the loop. */
bool rgp_diagnosis_same_swing(const rgp_diagnosis *a, const rgp_pid_gains *of_a, const rgp_diagnosis *b,
                              const rgp_pid_gains *of_b);

/* Two runs of a loop with other gains, of which one swings far less: it is the loop that swings. */
bool rgp_diagnosis_own_swing(const rgp_diagnosis *a, const rgp_pid_gains *of_a, const rgp_diagnosis *b,
                             const rgp_pid_gains *of_b);

/* As if it had been certain: all else is out of the question. */
void rgp_diagnosis_settle(rgp_diagnosis *diagnosis, rgp_cause cause);

/* Other chances, as of several stretches together in each of which something is the matter: healthy comes second then,
 * at best. */
void rgp_diagnosis_weigh(rgp_diagnosis *diagnosis, const double *chance);

/* One is known not to be it: the others share its chance. */
void rgp_diagnosis_leave_out(rgp_diagnosis *diagnosis, rgp_cause cause);

/* "sure" from 90 %, "likely" from 60, "possible" from 30; NULL below. */
const char *rgp_diagnosis_word(double chance);

#endif
