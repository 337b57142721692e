/* The devices of a rig that is hooked up both to 'serial' and to 'sim', played by the simulated mechanisms behind
 * pseudo-terminals: who opens those finds what the real devices would print. */
#ifndef RUNTIME_WIRE_DEMO_H
#define RUNTIME_WIRE_DEMO_H

#include "rigpulse/lang.h"

#include <glib.h>

typedef struct rgp_wire_demo rgp_wire_demo;

/* NULL with *error: the rig has not both hook-ups, or something is at a device's path already. The rig must outlive it.
 */
rgp_wire_demo *rgp_wire_demo_new(rgp_rig *rig, uint64_t seed, GError **error);
void rgp_wire_demo_free(rgp_wire_demo *demo);

/* The paths of its devices: 0, 1, ... until it returns NULL. */
const char *rgp_wire_demo_path(const rgp_wire_demo *demo, uint32_t device);

/* Plays for so long by the clock, or until a person interrupts. `told`: called when what an actuator is told has
 * changed. */
void rgp_wire_demo_play(rgp_wire_demo *demo, double seconds,
                        void (*told)(void *self, double time, uint16_t actuator, float value), void *self);

#endif
