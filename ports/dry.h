/* A port on which nothing is driven: readings, time and edges are those of another port, and whatever is asked, its
 * actuators are kept at rest. For a dry run. */
#ifndef PORTS_DRY_H
#define PORTS_DRY_H

#include "rigpulse/engine.h"

typedef struct rp_dry {
    rp_port port;
    const rp_port *inner;
    const rp_image_header *image;
} rp_dry;

/* The inner port and the image must outlive it. */
void rp_dry_begin(rp_dry *dry, const rp_port *inner, const rp_image_header *image);

#endif
