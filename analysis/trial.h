/* A trial as text, "kp 70, ki 0.7": what `rigpulse tune --try` takes. */
#ifndef ANALYSIS_TRIAL_H
#define ANALYSIS_TRIAL_H

#include "rigpulse/image.h"
#include "rigpulse/regulate/pid.h"

#include <glib.h>

typedef struct rgp_trial_names {
    const char *unit;    /* of differences of what is measured; "" for bare numbers */
    const char *gain[3]; /* what kp, ki and kd are called */
    float scale[3];      /* what each is in the controller's unit for one in that in which it is written */
} rgp_trial_names;

/* Of a loop of an image; they live as long as it does. */
rgp_trial_names rgp_trial_names_of(const rgp_image_header *image, uint32_t loop);

/* One more setting; `unit` with its blank, or "". */
void rgp_trial_put(GString *to, const char *name, double value, const char *unit);

/* One more gain, 0 to 2, of that value in the controller's unit. */
void rgp_trial_put_gain(GString *to, const rgp_trial_names *names, uint32_t gain, double value);

/* The dead band, in measured units. */
void rgp_trial_put_deadband(GString *to, const rgp_trial_names *names, double value);

/* Gains in the units in which they are written. */
rgp_pid_gains rgp_trial_written(const rgp_trial_names *names, const rgp_pid_gains *gains);

/* All gains that are not 0, so many times as great. */
void rgp_trial_put_all(GString *to, const rgp_trial_names *names, const rgp_pid_gains *gains, double times);

/* All gains that are not what they were, the filter among them. */
void rgp_trial_put_changed(GString *to, const rgp_trial_names *names, const rgp_pid_gains *was,
                           const rgp_pid_gains *gains);

/* Puts what such a text names into a controller's gains and dead band; false when it names something else besides, of a
 * 'predict' line. */
bool rgp_trial_take(const char *trial, const rgp_trial_names *names, rgp_pid_config *pid);

/* The same of gains alone: false when it names a dead band, too. */
bool rgp_trial_take_gains(const char *trial, const rgp_trial_names *names, rgp_pid_gains *gains);

#endif
