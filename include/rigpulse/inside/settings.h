/* The settings of every block and their limits, once. From its list a block's rgp_NAME_fault() is made, the image of an
 * operation knows which settings a parameter may change, and the compiler and `rigpulse words` have the limits by which
 * they judge a rig's text and which they tell. What two settings have to be to each other stands in the block's fault.
 *
 * #define rgp_NAME_settings(X, block, in) X(block, in, type, field, live, LIMIT, low, high, what) ...
 *
 * in: nothing, or the member of a larger config that these settings are in, `pid.`. live: 1 when a parameter may change
 * it. LIMIT: one of those below, between its ends. what: what an error says before the limit, such as the unit. The
 * order is that of the config, and together they are all of it (core/image/settings.c). */
#ifndef RIGPULSE_INSIDE_SETTINGS_H
#define RIGPULSE_INSIDE_SETTINGS_H

#include "rigpulse/numeric.h"
#include "rigpulse/status.h"

/* clang-format off */

/* ---- limits: what is asked of a value v, and how an error tells it ---- */

#define RGP_UNLESS(holds, words) !(holds) ? RGP_WORDS(words) :

/* A finite number: any, above an end, from an end up, not 0. */
#define RGP_NUMBER_OR(type, v, low, high, said, from, to) RGP_UNLESS(rgp_finite(v), said "a number")
#define RGP_ABOVE_OR(type, v, low, high, said, from, to)  RGP_UNLESS(rgp_finite(v) && (v) > (type)(low), said "above " from)
#define RGP_FROM_OR(type, v, low, high, said, from, to)   RGP_UNLESS(rgp_finite(v) && (v) >= (type)(low), said from " or more")
#define RGP_NOT_0_OR(type, v, low, high, said, from, to)  RGP_UNLESS(rgp_finite(v) && (v) != (type)0, said "not 0")

/* Between two ends: without the lower one, with both, without 0, odd. */
#define RGP_OVER_UPTO_OR(type, v, low, high, said, from, to) \
    RGP_UNLESS((v) > (type)(low) && (v) <= (type)(high), said "above " from ", at most " to)
#define RGP_FROM_TO_OR(type, v, low, high, said, from, to) \
    RGP_UNLESS((v) >= (type)(low) && (v) <= (type)(high), said from " to " to)
#define RGP_FROM_TO_NOT_0_OR(type, v, low, high, said, from, to) \
    RGP_UNLESS((v) >= (type)(low) && (v) <= (type)(high) && (v) != (type)0, said from " to " to ", not 0")
#define RGP_ODD_OR(type, v, low, high, said, from, to) \
    RGP_UNLESS((v) >= (type)(low) && (v) <= (type)(high) && (v) % 2 == 1, said "odd, " from " to " to)

/* Whole numbers without a sign: up to an end; one of named ones, which follow each other and which `what` names; 0. */
#define RGP_UPTO_OR(type, v, low, high, said, from, to)   RGP_UNLESS((v) <= (type)(high), said from " to " to)
#define RGP_ONE_OF_OR(type, v, low, high, said, from, to) RGP_UNLESS((v) - (type)(low) <= (type)(high) - (type)(low), said)
#define RGP_ZERO_OR(type, v, low, high, said, from, to)   RGP_UNLESS((v) == 0, said "0")

/* Whatever it holds, and a list, which the block looks at itself. */
#define RGP_ANY_OR(type, v, low, high, said, from, to)
#define RGP_LIST_OR(type, v, low, high, said, from, to)

/* The first fault of the settings that `c` points to, in words; NULL: there is none. */
#define RGP_FAULT_OR(block, in, type, field, live, LIMIT, low, high, what) \
    RGP_##LIMIT##_OR(type, c->in field, low, high, #field ": " what, #low, #high)
#define RGP_FAULT_OF(block) (rgp_##block##_settings(RGP_FAULT_OR, block, ) NULL)

/* ---- Conditioning ---- */

#define rgp_despike_settings(X, block, in) \
    X(block, in, uint32_t, window, 0, ODD, 3, RGP_DESPIKE_WINDOW_MAX, "readings, ")

#define rgp_smooth_settings(X, block, in) \
    X(block, in, float, time_constant, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_envelope_settings(X, block, in) \
    X(block, in, float, rise, 1, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, fall, 1, FROM_TO, 0, 1e6, "seconds, ")

#define rgp_rms_settings(X, block, in) \
    X(block, in, float, time_constant, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_magnitude_settings(X, block, in) \
    X(block, in, uint32_t, reserved, 0, ZERO, 0, 0, "")

#define rgp_root_settings(X, block, in) \
    X(block, in, uint32_t, reserved, 0, ZERO, 0, 0, "")

#define rgp_highest_settings(X, block, in) \
    X(block, in, float, time, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_lowest_settings(X, block, in) \
    X(block, in, float, time, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_average_settings(X, block, in) \
    X(block, in, uint32_t, window, 0, FROM_TO, 2, RGP_AVERAGE_WINDOW_MAX, "readings, ")

#define rgp_table_settings(X, block, in) \
    X(block, in, uint32_t, count, 0, FROM_TO, 2, RGP_TABLE_POINTS_MAX, "points, ") \
    X(block, in, uint32_t, beyond, 0, ONE_OF, RGP_TABLE_CLAMPED, RGP_TABLE_STRICT, "RGP_TABLE_CLAMPED, _EXTENDED or _STRICT") \
    X(block, in, rgp_table_point, point, 0, LIST, 0, 0, "")

#define rgp_line_settings(X, block, in) \
    X(block, in, float, gain, 0, NOT_0, 0, 0, "") \
    X(block, in, float, offset, 1, NUMBER, 0, 0, "") \
    X(block, in, float, low, 0, NUMBER, 0, 0, "") \
    X(block, in, float, high, 0, NUMBER, 0, 0, "")

#define rgp_power_settings(X, block, in) \
    X(block, in, float, at_one, 0, NUMBER, 0, 0, "") \
    X(block, in, float, one, 0, ABOVE, 0, 0, "") \
    X(block, in, float, exponent, 0, FROM_TO_NOT_0, -20, 20, "")

#define rgp_divider_settings(X, block, in) \
    X(block, in, float, fixed, 0, ABOVE, 0, 0, "") \
    X(block, in, float, full, 0, ABOVE, 0, 0, "counts, ") \
    X(block, in, float, reference, 0, ABOVE, 0, 0, "volts, ") \
    X(block, in, float, supply, 0, ABOVE, 0, 0, "volts, ") \
    X(block, in, uint32_t, side, 0, ONE_OF, RGP_DIVIDER_FIXED_ABOVE, RGP_DIVIDER_FIXED_BELOW, "RGP_DIVIDER_FIXED_ABOVE or RGP_DIVIDER_FIXED_BELOW")

#define rgp_beta_settings(X, block, in) \
    X(block, in, float, beta, 0, FROM_TO, 100, 20000, "kelvin, ") \
    X(block, in, float, at, 0, ABOVE, 0, 0, "") \
    X(block, in, float, celsius, 0, FROM_TO, -273, 1000, "")

#define rgp_steinhart_settings(X, block, in) \
    X(block, in, float, a, 0, FROM_TO, -1, 1, "") \
    X(block, in, float, b, 0, FROM_TO_NOT_0, -1, 1, "") \
    X(block, in, float, c, 0, FROM_TO, -1, 1, "") \
    X(block, in, float, ohms, 0, ABOVE, 0, 0, "")

#define rgp_echo_settings(X, block, in) \
    X(block, in, float, seconds, 0, ABOVE, 0, 0, "") \
    X(block, in, float, metre, 0, ABOVE, 0, 0, "") \
    X(block, in, float, celsius, 1, FROM_TO, -100, 200, "") \
    X(block, in, float, near, 0, FROM, 0, 0, "") \
    X(block, in, float, far, 0, ABOVE, 0, 0, "")

#define rgp_slope_settings(X, block, in) \
    X(block, in, float, time_constant, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_accumulate_settings(X, block, in) \
    X(block, in, float, gain, 0, NOT_0, 0, 0, "")

#define rgp_unwrap_settings(X, block, in) \
    X(block, in, float, turn, 0, ABOVE, 0, 0, "") \
    X(block, in, float, fastest, 0, FROM, 0, 0, "") \
    X(block, in, uint32_t, anyway, 0, UPTO, 0, 1, "")

#define rgp_wrap_settings(X, block, in) \
    X(block, in, float, turn, 0, ABOVE, 0, 0, "") \
    X(block, in, float, low, 0, NUMBER, 0, 0, "")

#define rgp_deadband_settings(X, block, in) \
    X(block, in, float, width, 1, FROM, 0, 0, "")

#define rgp_clamp_settings(X, block, in) \
    X(block, in, float, low, 1, NUMBER, 0, 0, "") \
    X(block, in, float, high, 1, NUMBER, 0, 0, "")

#define rgp_hold_settings(X, block, in) \
    X(block, in, float, time, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_zero_settings(X, block, in) \
    X(block, in, float, window, 0, OVER_UPTO, 0, 1e6, "seconds, ") \
    X(block, in, float, spread, 0, ABOVE, 0, 0, "") \
    X(block, in, float, drift, 0, ABOVE, 0, 0, "") \
    X(block, in, float, warmup, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, uint32_t, tries, 0, FROM_TO, 1, 1000, "")

#define rgp_span_settings(X, block, in) \
    X(block, in, float, time, 0, OVER_UPTO, 0, 1e6, "seconds, ") \
    X(block, in, float, least_span, 0, ABOVE, 0, 0, "") \
    X(block, in, uint32_t, falling, 0, UPTO, 0, 1, "")

#define rgp_tilt_settings(X, block, in) \
    X(block, in, uint32_t, which, 0, ONE_OF, RGP_TILT_ROLL, RGP_TILT_PITCH, "RGP_TILT_ROLL or RGP_TILT_PITCH")

#define rgp_fuse_settings(X, block, in) \
    X(block, in, float, time_constant, 1, OVER_UPTO, 0, 1e6, "seconds, ") \
    X(block, in, float, gain, 0, NOT_0, 0, 0, "")

#define rgp_take_settings(X, block, in) \
    X(block, in, uint32_t, reserved, 0, ZERO, 0, 0, "")

/* ---- Detection ---- */

#define rgp_compare_settings(X, block, in) \
    X(block, in, float, limit, 1, NUMBER, 0, 0, "") \
    X(block, in, float, margin, 1, FROM, 0, 0, "") \
    X(block, in, uint32_t, side, 0, ONE_OF, RGP_COMPARE_BELOW, RGP_COMPARE_ABOVE, "RGP_COMPARE_BELOW or RGP_COMPARE_ABOVE")

#define rgp_bands_settings(X, block, in) \
    X(block, in, uint16_t, borders, 0, FROM_TO, 1, RGP_BANDS_BORDERS_MAX, "") \
    X(block, in, uint16_t, above, 0, ANY, 0, 0, "") \
    X(block, in, float, margin, 1, FROM, 0, 0, "") \
    X(block, in, float, border, 1, LIST, 0, 0, "")

#define rgp_edge_settings(X, block, in) \
    X(block, in, uint32_t, which, 0, ONE_OF, RGP_EDGE_RISE, RGP_EDGE_EITHER, "RGP_EDGE_RISE, RGP_EDGE_FALL or RGP_EDGE_EITHER")

#define rgp_lasts_settings(X, block, in) \
    X(block, in, float, time, 1, OVER_UPTO, 0, RGP_LASTS_TIME_MAX, "seconds, ")

#define rgp_changed_settings(X, block, in) \
    X(block, in, uint32_t, reserved, 0, ZERO, 0, 0, "")

#define rgp_equals_settings(X, block, in) \
    X(block, in, float, number, 0, NUMBER, 0, 0, "")

#define rgp_known_settings(X, block, in) \
    X(block, in, uint32_t, reserved, 0, ZERO, 0, 0, "")

#define rgp_moved_settings(X, block, in) \
    X(block, in, float, amount, 1, ABOVE, 0, 0, "") \
    X(block, in, float, margin, 1, FROM, 0, 0, "") \
    X(block, in, float, time_constant, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_still_settings(X, block, in) \
    X(block, in, float, time, 1, OVER_UPTO, 0, RGP_STILL_TIME_MAX, "seconds, ") \
    X(block, in, float, within, 1, FROM, 0, 0, "")

#define rgp_turn_settings(X, block, in) \
    X(block, in, float, least, 1, ABOVE, 0, 0, "") \
    X(block, in, uint32_t, which, 0, ONE_OF, RGP_TURN_UP, RGP_TURN_EITHER, "RGP_TURN_UP, RGP_TURN_DOWN or RGP_TURN_EITHER")

#define rgp_swing_settings(X, block, in) \
    X(block, in, float, least, 1, ABOVE, 0, 0, "") \
    X(block, in, uint32_t, what, 0, ONE_OF, RGP_SWING_REACH, RGP_SWING_TURNED, \
      "RGP_SWING_REACH, RGP_SWING_LEFT or RGP_SWING_TURNED")

#define rgp_gauge_settings(X, block, in) \
    X(block, in, uint32_t, what, 0, ONE_OF, 0, RGP_GAUGE_WHATS - 1, "one of RGP_GAUGE_...") \
    X(block, in, uint32_t, every, 0, FROM_TO, 1, 1000, "") \
    X(block, in, float, least, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, window, 0, OVER_UPTO, 0, 1e6, "seconds, ") \
    X(block, in, uint32_t, event, 0, UPTO, 0, 1, "")

#define rgp_lag_settings(X, block, in) \
    X(block, in, float, within, 0, OVER_UPTO, 0, 1e6, "seconds, ") \
    X(block, in, float, least, 0, FROM_TO, 0, 1e6, "seconds, ")

#define rgp_scan_settings(X, block, in) \
    X(block, in, uint32_t, strongest, 0, UPTO, 0, 1, "") \
    X(block, in, uint32_t, give, 0, ONE_OF, 0, RGP_SCAN_VALUE, "one of RGP_SCAN_...") \
    X(block, in, float, within, 0, FROM, 0, 0, "") \
    X(block, in, uint32_t, skip, 0, UPTO, 0, 100, "")

#define rgp_once_settings(X, block, in) \
    X(block, in, uint32_t, reserved, 0, ZERO, 0, 0, "")

#define rgp_every_settings(X, block, in) \
    X(block, in, float, period, 1, OVER_UPTO, 0, RGP_CLOCKWORK_TIME_MAX, "seconds, ")

#define rgp_after_settings(X, block, in) \
    X(block, in, float, time, 1, FROM_TO, 0, RGP_CLOCKWORK_TIME_MAX, "seconds, ")

#define rgp_times_settings(X, block, in) \
    X(block, in, uint32_t, count, 0, FROM_TO, 2, RGP_TIMES_MAX, "") \
    X(block, in, float, within, 1, OVER_UPTO, 0, RGP_CLOCKWORK_TIME_MAX, "seconds, ")

#define rgp_absent_settings(X, block, in) \
    X(block, in, float, time, 1, OVER_UPTO, 0, RGP_CLOCKWORK_TIME_MAX, "seconds, ")

/* ---- Driving ---- */

#define rgp_approach_settings(X, block, in) \
    X(block, in, float, slowing, 1, ABOVE, 0, 0, "") \
    X(block, in, float, within, 1, FROM, 0, 0, "") \
    X(block, in, float, turn, 0, FROM, 0, 0, "")

/* ---- Regulation ---- */

#define rgp_predict_settings(X, block, in) \
    X(block, in, float, gain, 1, NOT_0, 0, 0, "") \
    X(block, in, float, lag, 1, OVER_UPTO, 0, 1e6, "seconds, ") \
    X(block, in, float, dead, 1, OVER_UPTO, 0, 1e6, "seconds, ")

#define rgp_loop_settings(X, block, in) \
    X(block, in, float, trim, 1, NUMBER, 0, 0, "") \
    X(block, in, float, bias, 1, NUMBER, 0, 0, "") \
    X(block, in, float, ramp, 1, FROM, 0, 0, "a second, ") \
    X(block, in, float, within, 0, FROM, 0, 0, "") \
    X(block, in, float, delay, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, beyond, 0, FROM, 0, 0, "") \
    X(block, in, float, beyond_for, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, saturated_for, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, hold, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, uint32_t, again, 0, UPTO, 0, 1, "")

#define rgp_pid_settings(X, block, in) \
    X(block, in, float, gain.kp, 1, FROM, 0, 0, "") \
    X(block, in, float, gain.ki, 1, FROM, 0, 0, "") \
    X(block, in, float, gain.kd, 1, FROM, 0, 0, "") \
    X(block, in, float, gain.filter, 1, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, setpoint_softness, 1, FROM_TO, 0, 1, "") \
    X(block, in, float, slope_weight, 0, FROM_TO, 0, 1, "") \
    X(block, in, float, tracking_time, 0, FROM_TO, 0, 1e6, "seconds, ") \
    X(block, in, float, deadband, 1, FROM, 0, 0, "") \
    X(block, in, float, resolution, 0, FROM, 0, 0, "") \
    X(block, in, float, low, 0, NUMBER, 0, 0, "") \
    X(block, in, float, high, 0, NUMBER, 0, 0, "") \
    X(block, in, uint32_t, reverse, 0, UPTO, 0, 1, "")

#define rgp_onoff_settings(X, block, in) \
    X(block, in, float, margin, 1, FROM, 0, 0, "") \
    X(block, in, float, least_on, 0, FROM_TO, 0, RGP_ONOFF_TIME_MAX, "seconds, ") \
    X(block, in, float, least_off, 0, FROM_TO, 0, RGP_ONOFF_TIME_MAX, "seconds, ") \
    X(block, in, float, low, 0, NUMBER, 0, 0, "") \
    X(block, in, float, high, 0, NUMBER, 0, 0, "") \
    X(block, in, uint32_t, reverse, 0, UPTO, 0, 1, "")

#define rgp_nudge_settings(X, block, in) \
    X(block, in, float, step, 1, ABOVE, 0, 0, "") \
    X(block, in, float, pace, 1, OVER_UPTO, 0, RGP_NUDGE_PACE_MAX, "seconds, ") \
    X(block, in, float, within, 1, FROM, 0, 0, "") \
    X(block, in, float, low, 0, NUMBER, 0, 0, "") \
    X(block, in, float, high, 0, NUMBER, 0, 0, "") \
    X(block, in, uint32_t, reverse, 0, UPTO, 0, 1, "")

#define rgp_pid_loop_settings(X, block, in) \
    rgp_loop_settings(X, block, loop.)      \
    rgp_pid_settings(X, block, pid.)

#define rgp_onoff_loop_settings(X, block, in) \
    rgp_loop_settings(X, block, loop.)        \
    rgp_onoff_settings(X, block, onoff.)

#define rgp_nudge_loop_settings(X, block, in) \
    rgp_loop_settings(X, block, loop.)        \
    rgp_nudge_settings(X, block, nudge.)

/* clang-format on */

#endif
