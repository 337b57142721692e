/* The simulated port: a rig's channels connected to mechanisms, as the rig's hook-up says.
 *
 * Its clock is what sleep_until() was asked for, always; pacing only delays the wall clock. Same rig, same
 * seed, same calls: same readings. */
#ifndef SIM_SIM_H
#define SIM_SIM_H

#include "rigpulse/lang.h"
#include "rigpulse/port.h"

#include <glib.h>

typedef struct rp_sim rp_sim;

/* The words of a hook-up; for rp_rig_compile(). */
const rp_catalog *rp_sim_catalog(void);

/* The lateness of sleeps, in microseconds; only when paced. */
typedef struct rp_lateness {
    uint64_t sleeps;
    uint64_t p50, p99, worst;
} rp_lateness;

/* The rig must have an image and a hook-up for "sim" and outlive the port. NULL with *error set when it
 * has not, or when a file that a sensor plays cannot be read. */
rp_sim *rp_sim_new(const rp_rig *rig, uint64_t seed, bool paced, GError **error);
void rp_sim_free(rp_sim *sim);

const rp_port *rp_sim_port(rp_sim *sim);

/* Remarks on the hook-up before it runs, a line each, to be freed; NULL: nothing. */
char *rp_sim_says(const rp_sim *sim);

/* The standard deviation of a sensor's noise in the recording that it plays, in counts; 0: none, or it plays none. */
double rp_sim_noise(const rp_sim *sim, uint32_t sensor);
rp_lateness rp_sim_lateness(const rp_sim *sim);

/* Between sleeps: a paced clock goes so many times as fast as the wall's from now on. */
void rp_sim_pace(rp_sim *sim, double times);

/* Between sleeps: what has passed since the last one is no lateness; the next tick is due at once. */
void rp_sim_catch_up(rp_sim *sim);

/* The truth that no sensor tells: an output of a mechanism, by its place in the hook-up. */
double rp_sim_truth(const rp_sim *sim, uint32_t mechanism, uint32_t output);

/* The unit in which the mechanism that a sensor sees can be placed by hand; NULL: it cannot, or the sensor sees none.
 */
const char *rp_sim_hand_unit(const rp_sim *sim, uint32_t sensor);

/* The reason why it cannot be placed; NULL where it can. */
const char *rp_sim_hand_why(const rp_sim *sim, uint32_t sensor);

/* From the beginning: of the disturbances that the hook-up states, those that come later than at 0 s do not come by
 * themselves, but when they are asked for. */
void rp_sim_wait_for_word(rp_sim *sim);

/* Between sleeps: one of the hook-up's disturbances happens now. */
void rp_sim_disturb(rp_sim *sim, uint32_t disturbance);

/* Between sleeps: a hand brings the mechanism that the sensor sees to a value in that unit, and holds it; nothing
 * happens where it sees none. */
void rp_sim_place(rp_sim *sim, uint32_t sensor, double to);

/* The seconds that the hand takes from where it found the mechanism to where it was last asked to bring it. */
double rp_sim_placing(const rp_sim *sim, uint32_t sensor);

/* Between sleeps: the hand that holds what the sensor sees lets go, if there is one. */
void rp_sim_let_go(rp_sim *sim, uint32_t sensor);

#endif
