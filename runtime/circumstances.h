/* The circumstances of a recorded run, out of its JSON file. */
#ifndef RUNTIME_CIRCUMSTANCES_H
#define RUNTIME_CIRCUMSTANCES_H

#include "recording.h"

/* The rig has been compiled. What the file lacks, as one of the first format does, is taken to be as usual. */
void rgp_recording_circumstances(rgp_recording *to, const json_t *summary);

#endif
