/* A rig on the test stand: only the hand drives, and the hook-up's later disturbances stay away. */
#ifndef TOOL_STAND_H
#define TOOL_STAND_H

#include "sim/sim.h"
#include "runtime/history.h"
#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

typedef struct stand {
    rp_engine engine;
    rp_sim *sim;
    rp_history *history; /* of the ticks since stand_note(); NULL: none are noted */
    uint64_t ticks, rows;
    void *memory;
    rp_frame_shape shape;
    rp_frame *frame;
} stand;

/* The rig must outlive it. False with an error; stand_end() is due in any case. */
bool stand_begin(stand *s, const rp_rig *rig, uint64_t seed, bool fast, GError **error);
void stand_end(stand *s);

/* Notes the ticks from here on, and forgets those before. */
void stand_note(stand *s);

/* Stops earlier when interrupted. */
void stand_tick_for(stand *s, double seconds);

/* Of a sensor: its column in the history, its name, and its unit, or NULL where it gives no numbers. */
uint32_t stand_sensor(const stand *s, uint32_t sensor);
const char *stand_sensor_name(const stand *s, uint32_t sensor);
const char *stand_sensor_unit(const stand *s, uint32_t sensor);
uint32_t stand_sensors(const stand *s);

#endif
