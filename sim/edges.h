/* The changes of simulated switches, with the moments at which their mechanisms made them. */
#ifndef SIM_EDGES_H
#define SIM_EDGES_H

#include "rigpulse/port.h"

#define EDGES_ROOM 64u

/* Of one switch: what waits to be asked for. */
typedef struct edge_line {
    rgp_port_edge edge[EDGES_ROOM]; /* oldest first */
    uint32_t count, lost;
    uint32_t level; /* after the last of them */
    bool known;
} edge_line;

/* It now has this level, since `time_us`; the first one is no change. What there is no room for is counted. */
void edge_line_put(edge_line *line, uint32_t level, uint64_t time_us);

/* Moves up to `room` of those up to `until_us` out. */
void edge_line_take(edge_line *line, uint64_t until_us, rgp_port_edge *edge, uint16_t room, uint16_t *count,
                    uint32_t *lost);

#endif
