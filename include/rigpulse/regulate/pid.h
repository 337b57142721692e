/* pid (PID controller): a controller with a proportional, an integral and a derivative term, in parallel form:
 *
 *   error      = setpoint - measured, within the dead band 0, beyond it the distance from its edge
 *   P          = kp * (error - setpoint_softness * (setpoint - the first setpoint))
 *   I          = the sum of ki * error * dt
 *   D          = kd * the slope of (slope_weight * setpoint - measured), behind a low pass of time constant `filter`
 *   unlimited  = P + I + D + feed_forward;  output = unlimited, kept within low and high
 *
 * A config of zeroes with gains and limits is a sound one: all of a change of the setpoint goes into P, none into D, no
 * filter, no dead band. So is a state of zeroes: it is what rgp_pid_reset() makes.
 *
 * `reverse` turns the sign of the error, for what falls when it is driven. The integral does not wind up: while the
 * output is beyond a limit, or what was driven fell short of it (`shortfall`) by more than the actuator's `resolution`,
 * it waits in that direction (conditional integration), and a step of it that would go beyond a limit ends there; or
 * with a `tracking_time` above 0 it is drawn back with that time constant (Fertik and Ross, 1967). It is summed with
 * compensation (Kahan, 1965). A change of gains is noticed and makes no step, since the integral takes it up; that
 * needs a ki; with ki = 0 there is no integral, I is 0. Behind a change of any other setting call rgp_pid_retune().
 *
 * Every term is in the state, to be looked at. Setpoint weights: Astrom and Hagglund, "PID Controllers", 1995; the
 * softness is one minus theirs. */
#ifndef RIGPULSE_REGULATE_PID_H
#define RIGPULSE_REGULATE_PID_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_pid_gains {
    float kp;     /* output per measured unit; 0 or more */
    float ki;     /* output per measured unit and second; 0 or more */
    float kd;     /* output per measured unit, times seconds; 0 or more */
    float filter; /* seconds; 0: the slope as it is */
} rgp_pid_gains;

/* The settings: the caller's, and only read. */
typedef struct rgp_pid_config {
    rgp_pid_gains gain;      /* the four that are tuned */
    float setpoint_softness; /* 0 to 1: the share of a change of the setpoint that is kept from P */
    float slope_weight;      /* 0 to 1: the share of it that goes into D; 0: the derivative of what is measured alone */
    float tracking_time;     /* seconds; 0: the integral waits */
    float deadband;          /* measured units; 0 or more */
    float resolution; /* output units; 0 or more: the step of a coarse actuator, within which it drives as asked */
    float low, high;  /* of the output; low < high */
    uint32_t reverse; /* 1: a greater output makes what is measured fall */
} rgp_pid_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_pid_state {
    uint64_t gap_us;         /* since the last step, of steps that could not be made */
    float error;             /* the terms of the last step: measured units, then output units */
    float p, i, d;           /* output units */
    float unlimited, output; /* the sum of the terms and the feed-forward; the same within its limits */
    uint32_t saturated;      /* what is driven falls short of what is asked, or the integral was cut at a limit */

    float weighted;      /* what kp was multiplied by */
    float slope;         /* what kd was multiplied by */
    float lost;          /* what the sum of I has not held yet */
    float before;        /* what the slope is of, at the last step */
    float reference;     /* the first setpoint */
    rgp_pid_gains last;  /* those of the last step */
    float share_dt;      /* what `share` was computed for; 0: it has to be found anew */
    float share;         /* of the way to a new slope that one dt takes */
    float slack;         /* what is driven may differ by so much from what is asked: rounding, or the resolution */
    uint8_t primed;      /* 1: it has stepped */
    uint8_t plain;       /* no dead band, weights of 1 and 0, not reversed */
    uint8_t reserved[2]; /* 0 */
} rgp_pid_state;

/* The inputs besides the settings. */
typedef struct rgp_pid_input {
    rgp_reading setpoint, measured; /* in one unit */
    float feed_forward;             /* output units: added to the terms */
    float shortfall;                /* output units: the last output less what was really driven; 0: as asked */
} rgp_pid_input;

/* RGP_E_CONFIG when a setting is not finite or outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_pid_check(const rgp_pid_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_pid_fault(const rgp_pid_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_pid_reset(rgp_pid_state *state);

/* A setting besides the gains has changed: the next step takes that up. */
static inline void rgp_pid_retune(rgp_pid_state *state);

/* The terms of the ideal (standard) form, output = gain * (error + sum of error / integral_time + derivative_time *
 * slope): kp = gain, ki = gain / integral_time, kd = gain * derivative_time. An integral time of 0 means none. Seconds.
 */
void rgp_pid_from_ideal(rgp_pid_config *config, float gain, float integral_time, float derivative_time);

/* And back. 0 for an integral time that there is not; all 0 when kp is 0. */
void rgp_pid_to_ideal(const rgp_pid_config *config, float *gain, float *integral_time, float *derivative_time);

/* One step: the output, with the worst quality of what went in. On a bad reading, and with dt = 0, nothing is stepped
 * and the last output stands; the slope then goes on with all the time that has passed, the integral does not, since
 * nobody has seen the error meanwhile. dt in seconds.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_pid_step(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                       float dt);

/* Instead of a step, while somebody else drives: the integral is what makes the output go on from what is `driven`, in
 * output units, without a step when the controller is let drive again. */
static inline rgp_reading rgp_pid_follow(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                         float driven, float dt);

/* Instead of a step or of following, between two measurements: the output stands as the last one has left it, or goes
 * along with what is `driven` while somebody else drives (`follows`). What is not new is not bad: the next step takes
 * the whole time. */
static inline rgp_reading rgp_pid_stand(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                        float driven, bool follows);

RGP_DECLARATIONS_END

#include "rigpulse/inside/regulate/pid.h"

#endif
