/* The simulated port: a rig's channels connected to mechanisms, as the rig's hook-up says.
 *
 * Its clock is what sleep_until() was asked for, always; pacing only delays the wall clock. Same rig, same
 * seed, same calls: same readings. */
#ifndef SIM_SIM_H
#define SIM_SIM_H

#include "rigpulse/lang.h"
#include "ports/clock.h"
#include "rigpulse/port.h"

#include <glib.h>

typedef struct rgp_sim rgp_sim;

/* The words of a hook-up; for rgp_rig_compile(). */
const rgp_catalog *rgp_sim_catalog(void);

/* The rig must have an image and a hook-up for "sim" and outlive the port. NULL with *error set when it
 * has not, or when a file that a sensor plays cannot be read. */
rgp_sim *rgp_sim_new(const rgp_rig *rig, uint64_t seed, bool paced, GError **error);
void rgp_sim_free(rgp_sim *sim);

const rgp_port *rgp_sim_port(rgp_sim *sim);

/* Remarks on the hook-up before it runs, a line each, to be freed; NULL: nothing. */
char *rgp_sim_says(const rgp_sim *sim);

/* The standard deviation of a sensor's noise in the recording that it plays, in counts; 0: none, or it plays none. */
double rgp_sim_noise(const rgp_sim *sim, uint32_t sensor);

/* Only when paced. */
rgp_lateness rgp_sim_lateness(const rgp_sim *sim);

/* Between sleeps: a paced clock goes so many times as fast as the wall's from now on. */
void rgp_sim_pace(rgp_sim *sim, double times);

/* Between sleeps: what has passed since the last one is no lateness; the next tick is due at once. */
void rgp_sim_catch_up(rgp_sim *sim);

/* The truth that no sensor tells: an output of a mechanism, by its place in the hook-up. */
double rgp_sim_truth(const rgp_sim *sim, uint32_t mechanism, uint32_t output);

/* The reading of a sensor of its mechanism now without noise, faults and rounding, in counts; NAN: it sees none. */
double rgp_sim_counts(const rgp_sim *sim, uint32_t sensor);

/* The unit in which the mechanism that a sensor sees can be placed by hand; NULL: it cannot, or the sensor sees none.
 */
const char *rgp_sim_hand_unit(const rgp_sim *sim, uint32_t sensor);

/* The reason why it cannot be placed; NULL where it can. */
const char *rgp_sim_hand_why(const rgp_sim *sim, uint32_t sensor);

/* From the beginning: of the disturbances that the hook-up states, those that come later than at 0 s do not come by
 * themselves, but when they are asked for. */
void rgp_sim_wait_for_word(rgp_sim *sim);

/* Between sleeps: one of the hook-up's disturbances happens now. */
void rgp_sim_disturb(rgp_sim *sim, uint32_t disturbance);

/* Between sleeps: a hand brings the mechanism that the sensor sees to a value in that unit, and holds it; nothing
 * happens where it sees none. */
void rgp_sim_place(rgp_sim *sim, uint32_t sensor, double to);

/* The seconds that the hand takes from where it found the mechanism to where it was last asked to bring it. */
double rgp_sim_placing(const rgp_sim *sim, uint32_t sensor);

/* Between sleeps: the hand that holds what the sensor sees lets go, if there is one. */
void rgp_sim_let_go(rgp_sim *sim, uint32_t sensor);

#endif
