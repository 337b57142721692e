/* A rig on the test stand: only the hand drives, if nothing else is said, and the hook-up's later disturbances stay
 * away. */
#ifndef TOOL_STAND_H
#define TOOL_STAND_H

#include "runtime/door.h"

typedef struct stand {
    rgp_door *door;
    rgp_door_setup setup;
    const rgp_image_header *image;
    rgp_history *history; /* of the ticks since stand_note(); NULL: none are noted */
    uint64_t ticks, rows;
} stand;

typedef struct stand_setup {
    uint64_t seed;
    bool fast;
    bool loops; /* rules and loops drive, too */
} stand_setup;

/* The rig must outlive it, and it must stay where it is. False with an error; stand_end() is due in any case. */
bool stand_begin(stand *s, const rgp_rig *rig, const stand_setup *setup, GError **error);
void stand_end(stand *s);

/* Notes the ticks from here on, and forgets those before. */
void stand_note(stand *s);

/* By hand, from the next tick on; and given back. */
void stand_hand(stand *s, uint32_t actuator, double value);
void stand_release(stand *s, uint32_t actuator);

/* Another value of a parameter, from the next tick on. */
void stand_set(stand *s, uint32_t param, double value);

/* Stops earlier when interrupted. */
void stand_tick_for(stand *s, double seconds);

/* Of a sensor: its column in the history, its name, and its unit, or NULL where it gives no numbers. */
uint32_t stand_sensor(const stand *s, uint32_t sensor);
const char *stand_sensor_name(const stand *s, uint32_t sensor);
const char *stand_sensor_unit(const stand *s, uint32_t sensor);
uint32_t stand_sensors(const stand *s);

#endif
