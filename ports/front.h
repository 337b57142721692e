/* A port in front of another one: readings, time and edges are those of the other port. It notes the samples that pass,
 * and on a dry run it keeps the actuators at rest, whatever is asked. */
#ifndef PORTS_FRONT_H
#define PORTS_FRONT_H

#include "rigpulse/engine.h"

typedef struct rp_front {
    rp_port port;
    const rp_port *inner;
    const rp_image_header *image;
    rp_sample *sample; /* by sensor: the newest one; the caller's */
    bool dry;
} rp_front;

/* The inner port, the image and the samples must outlive it. */
void rp_front_begin(rp_front *front, const rp_port *inner, const rp_image_header *image, rp_sample *sample, bool dry);

#endif
