/* A recorded run again, through a rig's present text: the recorded samples, edges and commands go into an engine of it,
 * row by row. Of the same text, and with the arithmetic of the same number (RGP_BITS), every value comes out the same,
 * bit for bit; once something else is driven than then, the readings no longer answer what is driven. */
#ifndef RUNTIME_REPLAY_H
#define RUNTIME_REPLAY_H

#include "recording.h"

typedef struct rgp_replay rgp_replay;

/* Rig and recording must outlive it. `set`: NAME=VALUE for parameters, over what the recording begins with; NULL at the
 * end, or NULL. NULL with *error when that is wrong. */
rgp_replay *rgp_replay_new(const rgp_rig *rig, const rgp_recording *from, char **set, GError **error);
void rgp_replay_free(rgp_replay *replay);

/* The next row as a frame, which is good until the next call; NULL: there are no more. */
const rgp_frame *rgp_replay_next(rgp_replay *replay);
const rgp_frame_layout *rgp_replay_layout(const rgp_replay *replay);

/* The engine, as the last row has left it; to be asked, not to be changed. */
const rgp_engine *rgp_replay_engine(const rgp_replay *replay);

/* All that changes while it goes on, to come back to; good for replays of the same rig and recording, and of the same
 * beginning. What has been said of it, and which events have been told in short, are not in it. */
typedef struct rgp_replay_place rgp_replay_place;
rgp_replay_place *rgp_replay_place_of(const rgp_replay *replay);
void rgp_replay_go_to(rgp_replay *replay, const rgp_replay_place *place);
void rgp_replay_place_free(rgp_replay_place *place);

/* A place as bytes, of which there are so many, for a replay of the same rig and recording by the same build. */
size_t rgp_replay_place_size(const rgp_replay *replay);
void rgp_replay_place_save(const rgp_replay *replay, const rgp_replay_place *place, uint8_t *to);
rgp_replay_place *rgp_replay_place_load(const rgp_replay *replay, const uint8_t *from);

/* From here on every event is told, where else those that come again and again are told in short. */
void rgp_replay_tell_all(rgp_replay *replay);

/* The first row from which on it cannot be exact, since ticks or inputs of the run are missing; the number of rows:
 * none. */
uint32_t rgp_replay_exact(const rgp_replay *replay);

/* Remarks on the replay, a sentence a line: sensors that the recording does not have, commands for what is not in
 * the rig, ...; "" for nothing. Complete at the end. */
const char *rgp_replay_says(const rgp_replay *replay);

/* The circumstances of the recorded run, for a recording of the replay. */
struct rgp_recorder_run;
void rgp_replay_run(const rgp_replay *replay, struct rgp_recorder_run *run);

#endif
