/* A port in front of another one: readings, time and edges are those of the other port. It notes the samples that pass,
 * and on a dry run it keeps the actuators at rest, whatever is asked. */
#ifndef PORTS_FRONT_H
#define PORTS_FRONT_H

#include "rigpulse/engine.h"

typedef struct rgp_front {
    rgp_port port;
    const rgp_port *inner;
    const rgp_image_header *image;
    rgp_sample *sample; /* by sensor: the newest one; the caller's */
    bool *told;         /* by sensor: the port has told its edges; the caller's */
    uint64_t now_us;    /* as the port has told it last */
    bool dry;
} rgp_front;

/* The inner port, the image, the samples and `told` must outlive it. */
void rgp_front_begin(rgp_front *front, const rgp_port *inner, const rgp_image_header *image, rgp_sample *sample,
                     bool *told, bool dry);

#endif
