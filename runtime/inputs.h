/* The inputs of a recorded run: samples that are more than their number, commands, edges. A replay feeds them again. */
#ifndef RUNTIME_INPUTS_H
#define RUNTIME_INPUTS_H

#include "rigpulse/command.h"

#include <glib.h>
#include <jansson.h>

/* A sample that is not a new one of its tick, or whose number no float holds. */
typedef struct rgp_input_sample {
    uint32_t row;
    uint16_t sensor;
    bool same, missing;
    bool whole; /* `raw` is its number */
    int64_t age_us;
    int32_t raw;
} rgp_input_sample;

typedef enum rgp_input_kind { RGP_INPUT_COMMAND, RGP_INPUT_EDGE, RGP_INPUT_LOST, RGP_INPUT_GAP } rgp_input_kind;

/* A line of the events file that goes into the rig, or that says that something of it is missing. */
typedef struct rgp_input {
    rgp_input_kind kind;
    uint64_t tick;
    char *of;            /* the name of what it is for; "" for the whole rig */
    rgp_command command; /* of COMMAND; `which` is not known before `of` has been looked up */
    uint64_t time_us;    /* of EDGE */
    uint32_t number;     /* of EDGE 1 for a change to on; of LOST how many, of GAP how many ticks */
} rgp_input;

typedef struct rgp_inputs {
    GArray *sample; /* rgp_input_sample, by row */
    GArray *line;   /* rgp_input, by tick */
} rgp_inputs;

rgp_inputs *rgp_inputs_new(void);
void rgp_inputs_free(rgp_inputs *inputs);

/* "level: same; echo: 120": the column `samples` of a row, by the sensors of an image. False: it is not that. */
bool rgp_inputs_samples(rgp_inputs *inputs, const rgp_image_header *image, uint32_t row, const char *text);

/* A whole number of a sensor that its column's float does not hold. */
void rgp_inputs_whole(rgp_inputs *inputs, uint32_t row, uint16_t sensor, int32_t raw);

/* A line of the events file; one that is no input is passed over. */
void rgp_inputs_line(rgp_inputs *inputs, const json_t *line);

#endif
