/* Inside the runtime: a recording behind the door, all of it at once, or played at its pace as if it ran. */
#ifndef RUNTIME_PLAYBACK_H
#define RUNTIME_PLAYBACK_H

#include "door.h"

rgp_door *playback_open(const rgp_door_setup *setup, GError **error);

#endif
