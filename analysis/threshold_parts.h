/* Shared by the files that find a threshold. */
#ifndef ANALYSIS_THRESHOLD_PARTS_H
#define ANALYSIS_THRESHOLD_PARTS_H

#include "threshold.h"

/* A rig of its own, to be freed. */
rgp_rig *threshold_copy(const rgp_rig *rig);

/* The rig with one more statement; NULL when the language does not take it. Frees what it was. */
rgp_rig *threshold_with(rgp_rig *rig, const char *statement);

/* Values that are looked at, as signals "judged_0", "judged_1", ... of a rig that is made for it. */
typedef struct value_rig {
    rgp_rig *rig;
    GPtrArray *value, *name; /* expressions; names of the signals */
} value_rig;
value_rig threshold_values(const rgp_rig *rig);
void threshold_clear_values(value_rig *values);

/* One that the language does not take, as a root mean square of what has no size, is left out. */
void threshold_add_value(value_rig *values, const char *value);

/* Shares idle time and events out by how long idle time remembers; false with *error when there is too little of it. */
bool threshold_split(rgp_threshold_study *study, bool above, GError **error);

/* A value that is to be given a threshold. */
typedef struct choosing {
    const rgp_threshold_study *study;
    const rgp_series *series;
    guint name;
    bool above;
    guint stride; /* of the widths that are tried */
    rgp_trigger_range range;
} choosing;

/* Its scores, and what is chosen by them. */
rgp_finding threshold_choose(const choosing *c, rgp_trigger_widths *widths, rgp_idle_level *idle);

/* True when events lie above idle time rather than below it. */
bool threshold_lies_above(const rgp_threshold_study *study, const rgp_series *series, guint name);

/* Values that other stages would make of it, each with its threshold; the best few of those that cost less. */
bool threshold_try_remedies(rgp_threshold_study *study, const rgp_threshold_request *request, GError **error);

/* All findings at once, by the engine. */
bool threshold_judge(rgp_threshold_study *study, const rgp_threshold_request *request, GError **error);

/* Finds the doubts about the one that was chosen. */
void threshold_doubt(rgp_threshold_study *study, const rgp_threshold_request *request);

#endif
