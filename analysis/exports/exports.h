/* A recording in formats that other tools read: IEEE 1364 VCD, SQLite, JSON, WAV. */
#ifndef ANALYSIS_EXPORTS_EXPORTS_H
#define ANALYSIS_EXPORTS_EXPORTS_H

#include "runtime/recording.h"

#include <stdio.h>

/* An export that is asked for, and the remarks that it leaves. */
typedef struct rgp_export {
    const rgp_recording *recording;
    const char *path;   /* that it is written to, as a whole */
    const char *column; /* the one that goes into a WAV; else NULL */
    GString *says;      /* becomes lines: names that were changed, cells that could not be told */
} rgp_export;

typedef struct rgp_export_kind {
    const char *ending; /* ".vcd" */
    const char *help;
    bool one_column; /* of a recording's columns one alone */
    bool (*write)(const rgp_export *ask, GError **error);
} rgp_export_kind;

/* Ends with a row without an ending. */
extern const rgp_export_kind rgp_export_kinds[];

/* The kind of a path's ending; NULL: there is none. */
const rgp_export_kind *rgp_export_kind_of(const char *path);

/* ---- for the formats ------------------------------------------------------------------------------- */

typedef enum rgp_column_kind { RGP_COLUMN_NUMBER, RGP_COLUMN_SWITCH, RGP_COLUMN_NAMES } rgp_column_kind;

typedef struct rgp_export_column {
    uint32_t slot, column; /* of the image; of the history */
    rgp_column_kind kind;
    const char *name, *unit; /* the recording's */
    char *plain;             /* letters, digits and underscores, no two alike */
} rgp_export_column;

/* The columns that the recording has, in its order: parameters, sensors, actuators, signals. To be freed by
 * g_array_unref(). */
GArray *rgp_export_columns(const rgp_recording *recording);

/* The word of a switch or of names at a row; NULL: not to be used. */
const char *rgp_export_word(const rgp_recording *recording, const rgp_export_column *column, uint32_t row);

/* Says that a name became another one; nothing where they are the same. */
void rgp_export_renamed(const rgp_export *ask, const char *from, const char *to);

/* A file that replaces `path` when it has been closed without an error: written beside it. NULL with *error. */
FILE *rgp_export_open(const char *path, GError **error);
bool rgp_export_close(FILE *file, const char *path, GError **error);

bool rgp_export_vcd(const rgp_export *ask, GError **error);
bool rgp_export_sqlite(const rgp_export *ask, GError **error);
bool rgp_export_json(const rgp_export *ask, GError **error);
bool rgp_export_wav(const rgp_export *ask, GError **error);

#endif
