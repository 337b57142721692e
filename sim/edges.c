/* Edges of simulated switches, kept with their own times until they are asked for. */
#include "edges.h"

#include <string.h>

void edge_line_put(edge_line *line, uint32_t level, uint64_t time_us)
{
    if (line->known && line->level != level) {
        if (line->count < EDGES_ROOM) {
            line->edge[line->count++] = (rgp_port_edge){time_us, level};
        } else {
            line->lost++;
        }
    }
    line->known = true;
    line->level = level;
}

void edge_line_take(edge_line *line, uint64_t until_us, rgp_port_edge *edge, uint16_t room, uint16_t *count,
                    uint32_t *lost)
{
    uint32_t n = 0;
    while (n < line->count && n < room && line->edge[n].time_us <= until_us) {
        edge[n] = line->edge[n];
        n++;
    }
    line->count -= n;
    memmove(line->edge, line->edge + n, line->count * sizeof *line->edge);
    *count = (uint16_t)n;
    *lost = line->lost;
    line->lost = 0;
}
