/* A recorded run, run again through the text that it was made with, so that all that led to what it did can be asked
 * for at each row. */
#ifndef ANALYSIS_EXPLANATION_H
#define ANALYSIS_EXPLANATION_H

#include "explain/why.h"
#include "runtime/recording.h"

typedef struct rgp_explanation rgp_explanation;

/* The recording must outlive it. NULL with *error when its rig's text cannot be run. */
rgp_explanation *rgp_explanation_new(const rgp_recording *from, GError **error);
void rgp_explanation_free(rgp_explanation *explanation);

/* The next row, good until the next call; NULL: there are no more. */
const rgp_why *rgp_explanation_next(rgp_explanation *explanation);

/* Any row, from the nearest place before it that has been kept on the way: the second question of a row takes at most a
 * sixty-fourth of the recording. NULL: there is no such row. */
const rgp_why *rgp_explanation_at(rgp_explanation *explanation, uint32_t row);

/* Goes on to a row, or to where a rule fired for that time, as near as a place is kept; the next row is that one or one
 * before it. */
void rgp_explanation_skip_to(rgp_explanation *explanation, uint32_t row);
void rgp_explanation_skip_to_firing(rgp_explanation *explanation, uint32_t rule, uint32_t number);

/* The number of places that are kept so far, those of earlier calls with them (places.h). */
uint32_t rgp_explanation_places(const rgp_explanation *explanation);

/* The number of the last row that was given. */
uint32_t rgp_explanation_row(const rgp_explanation *explanation);

/* The rig, with its operations traced. */
const rgp_rig *rgp_explanation_rig(const rgp_explanation *explanation);

/* As of rgp_replay_says(). */
const char *rgp_explanation_says(const rgp_explanation *explanation);

#endif
