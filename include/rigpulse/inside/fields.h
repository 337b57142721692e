/* The states of every block that keeps one, field by field, once: the image lays them by lanes where four go side by
 * side (core/lanes/lanes.h), and a state has the same bytes on every machine, without a gap, so that a copy of an
 * engine's memory is held against another by its bytes. The compiler holds the lists against the blocks
 * (core/image/fields.c).
 *
 * #define rgp_NAME_fields(X, block, in) X(block, in, type, field) ...
 *
 * in: nothing, or the member of a larger state that these fields are in, `pid.`. type: that of its elements for an
 * array. */
#ifndef RIGPULSE_INSIDE_FIELDS_H
#define RIGPULSE_INSIDE_FIELDS_H

/* clang-format off */

/* ---- Conditioning ---- */

#define rgp_despike_fields(X, block, in) \
    X(block, in, uint8_t, filled) X(block, in, uint8_t, next) X(block, in, uint8_t, missed) \
    X(block, in, uint8_t, reserved) X(block, in, float, kept)

#define rgp_smooth_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, output) X(block, in, float, lost) X(block, in, float, dt) \
    X(block, in, float, time_constant) X(block, in, float, share) X(block, in, uint32_t, reserved)

#define rgp_envelope_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, output) X(block, in, float, lost) \
    X(block, in, uint32_t, known) X(block, in, uint32_t, reserved)

#define rgp_rms_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, square) X(block, in, float, lost) \
    X(block, in, uint32_t, known) X(block, in, uint32_t, reserved)

#define rgp_highest_fields(X, block, in) \
    X(block, in, uint64_t, in_us) X(block, in, uint64_t, gap_us) X(block, in, float, extreme) \
    X(block, in, float, output) X(block, in, uint32_t, at) X(block, in, uint32_t, known)

#define rgp_lowest_fields(X, block, in) \
    X(block, in, uint64_t, in_us) X(block, in, uint64_t, gap_us) X(block, in, float, extreme) \
    X(block, in, float, output) X(block, in, uint32_t, at) X(block, in, uint32_t, known)

#define rgp_average_fields(X, block, in) \
    X(block, in, uint8_t, filled) X(block, in, uint8_t, next) X(block, in, uint8_t, missed) \
    X(block, in, uint8_t, reserved) X(block, in, float, sum) X(block, in, float, kept)

#define rgp_slope_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, before) X(block, in, float, slope) X(block, in, float, lost) \
    X(block, in, uint32_t, known)

#define rgp_accumulate_fields(X, block, in) \
    X(block, in, float, sum) X(block, in, float, rest) X(block, in, float, rate) X(block, in, uint8_t, known) \
    X(block, in, rgp_quality, lost) X(block, in, uint8_t, reserved)

#define rgp_unwrap_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, last) X(block, in, int32_t, whole) \
    X(block, in, int32_t, turns) X(block, in, uint8_t, known) X(block, in, uint8_t, missed) \
    X(block, in, rgp_quality, gap) X(block, in, rgp_quality, lost)

#define rgp_hold_fields(X, block, in) \
    X(block, in, uint64_t, away_us) X(block, in, float, value) X(block, in, uint32_t, known)

#define rgp_zero_fields(X, block, in) \
    X(block, in, uint64_t, elapsed_us) X(block, in, uint32_t, phase) X(block, in, uint32_t, tries) \
    X(block, in, uint32_t, count) X(block, in, float, mean) X(block, in, float, squares) X(block, in, float, first) \
    X(block, in, uint32_t, first_count) X(block, in, float, offset) X(block, in, float, noise) \
    X(block, in, float, moved) X(block, in, float, error) X(block, in, uint32_t, news) X(block, in, int32_t, base) \
    X(block, in, uint32_t, reserved)

#define rgp_span_fields(X, block, in) \
    X(block, in, uint64_t, practised_us) X(block, in, float, low) X(block, in, float, high) \
    X(block, in, float, before) X(block, in, uint8_t, seen) X(block, in, uint8_t, known) \
    X(block, in, uint8_t, learned) X(block, in, uint8_t, news) X(block, in, float, width)

#define rgp_fuse_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, angle) X(block, in, float, lost) X(block, in, float, dt) \
    X(block, in, float, time_constant) X(block, in, float, share) X(block, in, uint32_t, known)

#define rgp_take_fields(X, block, in) \
    X(block, in, float, value) X(block, in, uint32_t, known)

/* ---- Detection ---- */

#define rgp_compare_fields(X, block, in) \
    X(block, in, uint8_t, is)

#define rgp_bands_fields(X, block, in) \
    X(block, in, uint8_t, known) X(block, in, uint8_t, band)

#define rgp_edge_fields(X, block, in) \
    X(block, in, uint8_t, known) X(block, in, uint8_t, is)

#define rgp_lasts_fields(X, block, in) \
    X(block, in, uint64_t, since_us) X(block, in, uint8_t, is_true) X(block, in, uint8_t, is) \
    X(block, in, uint8_t, reserved)

#define rgp_changed_fields(X, block, in) \
    X(block, in, float, last) X(block, in, uint32_t, known)

#define rgp_moved_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, baseline) X(block, in, float, lost) \
    X(block, in, uint8_t, known) X(block, in, uint8_t, is) X(block, in, uint8_t, reserved)

#define rgp_still_fields(X, block, in) \
    X(block, in, uint64_t, since_us) X(block, in, float, at) X(block, in, uint32_t, known)

#define rgp_turn_fields(X, block, in) \
    X(block, in, uint64_t, age_us) X(block, in, float, extreme) X(block, in, float, lowest) \
    X(block, in, float, before) X(block, in, float, after) X(block, in, float, to_extreme) \
    X(block, in, float, from_extreme) X(block, in, float, last) X(block, in, float, turned_at) \
    X(block, in, uint8_t, known) X(block, in, uint8_t, way) X(block, in, uint8_t, has_after) \
    X(block, in, uint8_t, reserved)

#define rgp_swing_fields(X, block, in) \
    X(block, in, rgp_turn_state, turn) X(block, in, float, at) X(block, in, uint32_t, turns)

#define rgp_gauge_fields(X, block, in) \
    X(block, in, rgp_edges_memory, memory) X(block, in, uint8_t, is) X(block, in, uint8_t, waits) \
    X(block, in, uint8_t, rises) X(block, in, uint8_t, mids) X(block, in, uint8_t, measured) \
    X(block, in, uint8_t, fell) X(block, in, uint8_t, began) X(block, in, uint8_t, doubtful) \
    X(block, in, uint8_t, reserved) X(block, in, uint32_t, seen) X(block, in, uint32_t, count) \
    X(block, in, uint32_t, lost) X(block, in, float, measure) X(block, in, uint64_t, waits_since_us) \
    X(block, in, uint64_t, rose_us) X(block, in, uint64_t, fell_us) X(block, in, uint64_t, mid_us) \
    X(block, in, uint64_t, interval_us) X(block, in, uint64_t, window_us) X(block, in, uint64_t, on_us) \
    X(block, in, uint64_t, looked_us)

#define rgp_lag_fields(X, block, in) \
    X(block, in, rgp_lag_gate, gate) X(block, in, uint64_t, mid_us) X(block, in, uint64_t, until_us) \
    X(block, in, float, measure) X(block, in, uint8_t, first) X(block, in, uint8_t, passing) \
    X(block, in, uint8_t, measured) X(block, in, uint8_t, reserved)

#define rgp_scan_fields(X, block, in) \
    X(block, in, float, value) X(block, in, float, place) X(block, in, uint32_t, kept) X(block, in, uint32_t, phase) \
    X(block, in, uint32_t, stride) X(block, in, float, begun) X(block, in, float, far) X(block, in, float, low) \
    X(block, in, float, high) X(block, in, float, result) X(block, in, uint32_t, passes) X(block, in, uint8_t, known) \
    X(block, in, uint8_t, found) X(block, in, uint8_t, partial) X(block, in, uint8_t, reserved)

#define rgp_once_fields(X, block, in) \
    X(block, in, uint32_t, done)

#define rgp_every_fields(X, block, in) \
    X(block, in, uint64_t, since_us) X(block, in, uint64_t, runs)

#define rgp_after_fields(X, block, in) \
    X(block, in, uint64_t, left_us) X(block, in, uint64_t, waits)

#define rgp_times_fields(X, block, in) \
    X(block, in, uint64_t, now_us) X(block, in, uint32_t, held) X(block, in, uint32_t, newest) \
    X(block, in, uint64_t, at_us)

#define rgp_absent_fields(X, block, in) \
    X(block, in, uint64_t, since_us) X(block, in, uint64_t, runs)

/* ---- Driving ---- */

#define rgp_approach_fields(X, block, in) \
    X(block, in, uint32_t, there)

/* ---- Regulation ---- */

#define rgp_predict_fields(X, block, in) \
    X(block, in, uint64_t, since_us) X(block, in, float, y) X(block, in, float, lost) X(block, in, float, first) \
    X(block, in, uint16_t, at) X(block, in, uint8_t, primed) X(block, in, uint8_t, reserved) \
    X(block, in, float, kept)

#define rgp_link_fields(X, block, in) \
    X(block, in, float, driven) X(block, in, uint8_t, news) X(block, in, uint8_t, phase) \
    X(block, in, uint8_t, reason) X(block, in, uint8_t, reserved)

#define rgp_loop_fields(X, block, in) \
    X(block, in, uint64_t, ready_us) X(block, in, uint64_t, away_us) X(block, in, uint64_t, saturated_us) \
    X(block, in, uint64_t, bad_us) X(block, in, float, target) X(block, in, float, output) X(block, in, float, bound) \
    X(block, in, uint8_t, phase) X(block, in, uint8_t, reason) X(block, in, uint8_t, begins) \
    X(block, in, uint8_t, reserved)

#define rgp_pid_fields(X, block, in) \
    X(block, in, uint64_t, gap_us) X(block, in, float, error) X(block, in, float, p) X(block, in, float, i) \
    X(block, in, float, d) X(block, in, float, unlimited) X(block, in, float, output) \
    X(block, in, uint32_t, saturated) X(block, in, float, weighted) X(block, in, float, slope) \
    X(block, in, float, lost) X(block, in, float, before) X(block, in, float, reference) \
    X(block, in, rgp_pid_gains, last) X(block, in, float, share_dt) X(block, in, float, share) \
    X(block, in, float, slack) X(block, in, uint8_t, primed) X(block, in, uint8_t, plain) \
    X(block, in, uint8_t, reserved)

#define rgp_onoff_fields(X, block, in) \
    X(block, in, uint64_t, since_us) X(block, in, float, error) X(block, in, float, output) X(block, in, uint8_t, is) \
    X(block, in, uint8_t, primed) X(block, in, uint8_t, reserved)

#define rgp_nudge_fields(X, block, in) \
    X(block, in, uint64_t, waited_us) X(block, in, float, error) X(block, in, float, output) \
    X(block, in, uint32_t, primed) X(block, in, uint32_t, reserved)

#define rgp_pid_loop_fields(X, block, in)  \
    rgp_link_fields(X, block, in link.) \
    rgp_loop_fields(X, block, in loop.) \
    rgp_pid_fields(X, block, in pid.)

#define rgp_onoff_loop_fields(X, block, in)  \
    rgp_link_fields(X, block, in link.) \
    rgp_loop_fields(X, block, in loop.) \
    rgp_onoff_fields(X, block, in onoff.)

#define rgp_nudge_loop_fields(X, block, in)  \
    rgp_link_fields(X, block, in link.) \
    rgp_loop_fields(X, block, in loop.) \
    rgp_nudge_fields(X, block, in nudge.)

/* clang-format on */

#endif
