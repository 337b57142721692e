/* Measured numbers of a rig file: which they are, what they are measured with, and new ones in their place.
 *
 * An edit is a new text in which the bytes of the numbers are others and every other byte is the same: comments,
 * spacing, order and line ends stay. Nothing here touches a file. Everything that is returned belongs to the rig and
 * lives as long as it does; the rig must have been compiled without errors. */
#ifndef RIGPULSE_EDIT_H
#define RIGPULSE_EDIT_H

#include "rigpulse/lang.h"
#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* A number in the source, or the place where one can be put in. */
typedef struct rgp_place {
    uint32_t start, end;        /* bytes of the source: the number without its unit; equal: nothing stands there yet */
    const char *before, *after; /* what goes around a number that is put in; "" when one stands there */
    const char *unit;           /* that it is written in; "" for none */
    double gain, offset;        /* as written = number * gain + offset, the number being in the unit it is used in */
    double value;               /* that stands there, in the unit it is used in */
    bool written;               /* one stands there */
    bool open;                  /* it may be changed at all: it is a number, or a parameter that starts as one */
} rgp_place;

#define RGP_CALIBRATION_PLACES_MAX 40 /* numbers of one stage */
#define RGP_CALIBRATION_BANDS_MAX  16 /* that look at what it makes */

/* The stage of a signal, or the bands, that is measured. */
typedef struct rgp_calibration {
    const char *word;       /* the stage whose settings are measured ("table"); "bands" of bands */
    const char *owner;      /* whose line they stand in: the signal asked for, or one that it is made of */
    uint32_t line;          /* of the rig file */
    const char *sensor;     /* at the head of what goes in */
    const char *input;      /* an expression for what goes into the stage; of bands: what they look at */
    const char *input_unit; /* its unit; "" for none */
    const char *unit;       /* in which known values are stated: that of the signal asked for */
    double gain, offset;    /* of a stage: its result = known value * gain + offset */
    bool summed;            /* 'accumulate' stands behind the stage: a known value is the sum of its results */

    /* Of a stage: its settings, in the order in which they are listed; of a table: in and out of each point in turn;
     * of bands: the borders from the lowest, then the margin. */
    rgp_place place[RGP_CALIBRATION_PLACES_MAX];
    uint32_t places;    /* of `place` */
    rgp_place range[2]; /* the ends of what it is known for, of a stage that can say it */
    bool ranged;
    const char *band[RGP_CALIBRATION_BANDS_MAX + 1]; /* from the lowest; NULL behind them */
    uint32_t bands;
    uint32_t end; /* of a table: the byte behind its last point */
} rgp_calibration;

/* The measured stage in the signal or bands `name`. False when nothing is: then *why says what it is instead, and what
 * can be calibrated in this rig. */
bool rgp_rig_calibration(rgp_rig *rig, const char *name, rgp_calibration *found, const char **why);

/* The same for a line that is still to be written: `line` is an expression as it would stand behind "signal NAME =",
 * with one stage that is to be measured written without its settings ("level | despike 5 | table"), or as it would
 * stand behind "bands NAME =", without borders ("light: thick, misty, clear"). `unit`: of known values; not used of
 * bands. `made` is a rig, its own to be freed, of the same file with the line in place and numbers in it that mean
 * nothing yet; *found is in it. NULL, and the reason in *why (which belongs to `rig`), when that cannot be. */
rgp_rig *rgp_rig_line_template(rgp_rig *rig, const char *name, const char *line, const char *unit,
                               const rgp_catalog *catalog, rgp_calibration *found, const char **why);

/* The stages that can be measured, as a list in words. */
const char *rgp_calibrated_stages(void);

/* The source with other numbers in `count` places; numbers in the unit they are used in, written with up to nine
 * significant digits. A number that stands there already is left as it is written. */
const char *rgp_edit_places(rgp_rig *rig, const rgp_place *const *place, const double *number, uint32_t count);

/* The source with other points in a table: 2 to 16, in the units they are used in, the inputs rising. */
const char *rgp_edit_points(rgp_rig *rig, const rgp_calibration *table, const double *in, const double *out,
                            uint32_t count);

/* A limit that a value is held against, in a rule or between bands, and what goes with it. */
typedef struct rgp_threshold {
    const char *value; /* the expression that is held against it, as it is written: "noise | rms 200 ms" */
    const char *unit;  /* of limit and margin; "" for none */
    const char *what;  /* "line 14", "the border of low in line 9": where it stands */
    uint32_t line;     /* of the rig file */
    bool above;        /* it is true above the limit; else below it */
    double low, high;  /* that the limit may be, where it is a parameter; else infinite */

    /* In the unit, and in seconds; of one that is not written the value that holds then. A width is the time that the
     * value has to stay beyond the limit. One that cannot stand there is not open. */
    rgp_place limit, margin, width, holdoff;
    uint32_t goes_start, goes_end; /* the word 'goes', which a width takes the place of; equal: it is not there */
} rgp_threshold;

#define RGP_THRESHOLDS_MAX 16

/* Those that hold the value of that name, those whose limit is the parameter of that name, those of the band of that
 * name, and those of the rule that begins in that line ("14"), in the order of the text; returns how many. */
uint32_t rgp_rig_thresholds(rgp_rig *rig, const char *name, rgp_threshold to[RGP_THRESHOLDS_MAX]);

/* One of a numeric value that is held against none yet, without places; false when there is no such value. */
bool rgp_rig_threshold_template(rgp_rig *rig, const char *name, rgp_threshold *to);

/* The source with other numbers in a threshold; a width and a holdoff of 0 are not written where none stands. */
typedef struct rgp_threshold_numbers {
    double limit, margin; /* in its unit */
    double width_s, holdoff_s;
} rgp_threshold_numbers;
const char *rgp_edit_threshold(rgp_rig *rig, const rgp_threshold *where, const rgp_threshold_numbers *numbers);

/* The place of a parameter's initial value; false when there is no such parameter. */
bool rgp_rig_param_place(rgp_rig *rig, const char *name, rgp_place *place);

#define RGP_LOOP_SETTINGS_MAX 16 /* of one loop */

/* A setting of a loop that is no gain. */
typedef struct rgp_loop_setting {
    const char *name; /* as it is written: "filter"; of a line that is no method's, with that line: "engage within" */
    const char *unit; /* that it is used in; "" for none */
    double low, high; /* that it can be */
    rgp_place place;  /* its value is the one that holds where none is written */
} rgp_loop_setting;

/* Those of the loop `name`, written or not, into `to`; returns how many. One that is not written and whose line needs
 * more than it is left out; so is one that follows a parameter which does not start as a number. */
uint32_t rgp_rig_loop_settings(rgp_rig *rig, const char *name, rgp_loop_setting to[RGP_LOOP_SETTINGS_MAX]);

/* The place of a mechanism's setting, written or not, both by their numbers in the hook-up that counts and in its
 * kind's list. False where it is no number, or would have to stand behind another setting that is not written. */
bool rgp_rig_mechanism_place(rgp_rig *rig, uint32_t mechanism, uint32_t setting, rgp_place *place);

/* The place of the least power of an actuator in its unit, written or not; false when there is no such actuator. */
bool rgp_rig_least_place(rgp_rig *rig, const char *name, rgp_place *place);

/* The unit of what an actuator is said to give ("portions"); NULL when its line says nothing of that. */
const char *rgp_rig_portion_unit(rgp_rig *rig, const char *name);

/* The source with what an actuator gives: one `unit` in so many seconds, and so many before the first; to four
 * digits, and to the millisecond. A unit that stands there already stays. NULL when there is no such actuator. */
const char *rgp_edit_portion(rgp_rig *rig, const char *name, const char *unit, double seconds_each, double lead);

/* The source with one more statement, behind the last one of its sort or of those that usually stand before it. */
const char *rgp_edit_add(rgp_rig *rig, const char *statement);

RGP_DECLARATIONS_END

#endif
