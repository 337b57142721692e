/* edges: what a switch, a condition or an event did since the last step, each change with its own time. It is what the
 * measuring blocks (gauge.h) take.
 *
 * A switch's changes come from the port, which knows their moments better than the tick does; a condition changes at
 * the step that finds it changed; an event is a change to true, with its moment, and none to false. */
#ifndef RIGPULSE_DETECT_EDGES_H
#define RIGPULSE_DETECT_EDGES_H

#include "rigpulse/linkage.h"
#include "rigpulse/port.h"
#include "rigpulse/reading.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_edges {
    rgp_reading now;           /* the state at this step, and how far it can be trusted */
    const rgp_port_edge *edge; /* oldest first */
    uint32_t count;            /* of `edge` */
    uint32_t lost;             /* that nobody had room for, before those that are here */
    uint64_t now_us;           /* of this step, on the clock of the edges */
} rgp_edges;

/* The memory that is needed to find the changes of a condition. */
typedef struct rgp_edges_memory {
    uint8_t known; /* 1: there was a usable input */
    uint8_t is;    /* 1: the last one was true */
} rgp_edges_memory;

/* The changes of a condition (`event` false) or of an event (true), into room for one. A first state is no change; nor
 * is one that a bad reading hides until it is over. dt in seconds. */
rgp_edges rgp_edges_find(rgp_edges_memory *memory, rgp_reading in, bool event, uint64_t now_us, float dt,
                         rgp_port_edge *room);

RGP_DECLARATIONS_END

#endif
