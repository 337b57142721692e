/* rigpulse calibrate, in its parts: points are taken (by flags, from a recording, in a dialogue), made into settings,
 * and the settings are written into the rig file. */
#ifndef TOOL_CALIBRATE_CALIBRATE_H
#define TOOL_CALIBRATE_CALIBRATE_H

#include "tool/command.h"
#include "capture_session.h"

typedef struct calibrate_options {
    char *line, *unit, *points, *recording, *window, *rezero, *span, *output, *seed, *power;
    char **point, **trial;
    gboolean place, anyway, dry_run, undo, json, fast;
} calibrate_options;

/* A capture that was taken, or a pair that was typed off a sheet of paper. */
typedef struct calibrate_point {
    char *text;   /* the known value, or the condition, as it was stated */
    double known; /* in the unit of the signal */
    rgp_capture capture;
    guint from, to; /* ticks; equal for a pair from elsewhere */
    bool doubtful;  /* taken anyway */
} calibrate_point;

typedef struct calibration {
    const command *self;
    const calibrate_options *options;
    const char *path, *name;
    rgp_rig *file;         /* as it is on the disk */
    rgp_rig *template_rig; /* with the line that is to be written; NULL: it is there already */
    rgp_calibration what;
    capture_session_setup setup;
    capture_session *capture_session;
    double window; /* seconds */
    GArray *point; /* of calibrate_point */
    GString *said; /* the result in words, or as JSON */
    char *edited;  /* the new text; NULL: none was made */
} calibration;

static inline rgp_rig *calibrate_rig(const calibration *c)
{
    return c->template_rig ? c->template_rig : c->file;
}

/* The unit of what goes in: of a sum, times seconds. */
static inline const char *calibrate_in_unit(const calibration *c)
{
    return capture_session_intake(c->capture_session)->input_unit;
}

static inline bool calibrate_is_bands(const calibration *c)
{
    return c->what.bands > 0;
}

/* calibrate_points.c */

/* Reads a known value, or the name of a condition. False, and the reason in *why to be freed. */
bool calibrate_read_known(const calibration *c, const char *text, double *known, char **why);

/* Ticks until what goes in can be used, then for a window, and judges that. The point is added unless its capture has a
 * reason against it; then the reason is in *why, to be freed, and *refused, if wanted, holds the point. */
bool calibrate_capture(calibration *c, const char *text, double known, bool anyway, char **why);

/* The window that begins at a tick, of readings that are in already. */
bool calibrate_capture_at(calibration *c, const char *text, double known, guint from, bool anyway, char **why);

/* Everything that flags, a file of pairs or a recording's marks state. False when something has been refused. */
bool calibrate_take_points(calibration *c);
void calibrate_drop_point(calibration *c, guint index);

/* Brings the simulated mechanism there. False with *why. */
bool calibrate_place(calibration *c, const char *text, char **why);

/* calibrate_talk.c: the dialogue on standard input. False: left without a result. */
bool calibrate_talk(calibration *c);

/* calibrate_result.c */

/* The captured points, one line each. */
void calibrate_list(const calibration *c, GString *to);

/* Fits, rounds, edits, and tries the new text on what came in; c->said and c->edited are filled. False, and *why to be
 * freed, when the points make no calibration. */
bool calibrate_conclude(calibration *c, char **why);

#endif
