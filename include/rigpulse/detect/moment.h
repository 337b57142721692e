/* An event travels as a number: 0 for none, else 1 plus how long before the step it happened, counted in steps. So it
 * stays a truth for whoever only asks whether it happened, and keeps its moment between two steps for whoever measures.
 */
#ifndef RIGPULSE_DETECT_MOMENT_H
#define RIGPULSE_DETECT_MOMENT_H

/* `age` in seconds before the step, 0 or more; dt of the step in seconds, above 0. */
static inline float rp_moment(float age, float dt)
{
    return 1.0f + (age > 0.0f ? age / dt : 0.0f);
}

/* Seconds before the step. */
static inline float rp_moment_age(float moment, float dt)
{
    return moment > 1.0f ? (moment - 1.0f) * dt : 0.0f;
}

#endif
