/* Events in words. One place for them: the live lines, the events of a recording, and whatever
 * explains later say the same. */
#ifndef EXPLAIN_DESCRIBE_H
#define EXPLAIN_DESCRIBE_H

#include "rigpulse/frame.h"

#include <glib.h>

/* A value of a slot with its unit, or its name ("low", "on"): four significant digits. */
void rgp_describe_value(const rgp_image_header *image, uint32_t slot, float value, GString *to);

/* The same for a column of such values: without the unit, and with as many digits in every row; a raw
 * reading as the whole number it is. */
void rgp_describe_cell(const rgp_image_header *image, uint32_t slot, float value, GString *to);

/* The same for a number in the unit of a slot ("" of none). */
void rgp_describe_number(double number, const char *unit, GString *to);

/* So many significant digits, and no power of ten where they are those of a whole number, which is shown wholly:
 * "0.54", "174". To be read within one expression. */
typedef struct rgp_digits_text {
    char text[32];
} rgp_digits_text;
rgp_digits_text rgp_digits(double number, int digits);

/* An estimate: three of them. */
void rgp_describe_estimate(double number, GString *to);

/* A length of time, as an estimate in the unit that suits it: "240 ms", "14.5 s", "21 min", "3.2 h". */
void rgp_describe_span(double seconds, GString *to);

/* The owner of an actuator: "rest", "line 14", "plain set", "hand", "stop". */
void rgp_describe_owner(const rgp_image_header *image, uint16_t owner, GString *to);

/* Why the rule's trigger was true in this frame: "depth 2.98 cm is below shallow 3 cm". */
void rgp_describe_why(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                      uint32_t rule, GString *to);

/* The actions of a rule: "pump 80 % for 2 s, then holdoff 10 s". */
void rgp_describe_actions(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                          uint32_t rule, GString *to);

/* The whole event as a sentence. */
void rgp_describe_event(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                        const rgp_event *event, GString *to);

/* Tells the thing that a waiting loop waits for: "waits: 7 K off, engages within 2 K"; with its error as it is. */
void rgp_describe_waiting(const rgp_image_header *image, uint32_t loop, float error, rgp_quality quality, GString *to);

/* The subject of a command: the name of a parameter, actuator, sensor or signal; "" where it is for the whole rig. */
const char *rgp_describe_command_subject(const rgp_image_header *image, const rgp_command *command);

#endif
