/* Inside the figures of a recording: which channel stands in which panel, with which borders, over which range. */
#ifndef ANALYSIS_FIGURES_PANELS_H
#define ANALYSIS_FIGURES_PANELS_H

#include "runtime/recording.h"

#define NAMES_MOST 6u

typedef struct panel_border {
    char *label;
    float *value; /* by row, from the first one that is drawn on */
} panel_border;

typedef struct panel {
    const char *unit; /* "" for states */
    bool states;
    GArray *slot;   /* of uint32_t */
    GArray *border; /* of panel_border */
    GPtrArray *band_name;
    double low, high;
} panel;

typedef struct drawing {
    const rgp_recording *r;
    uint32_t first, end; /* rows that are drawn: up to, and not with, `end` */
    char **names;        /* of what is drawn; NULL: all */
    float *param_value;  /* of one row */
    GPtrArray *panel;
    GString *to;
} drawing;

uint32_t panels_parts_of(const rgp_image_header *image, uint32_t slot);
uint32_t panels_lane_height(const rgp_image_header *image, uint32_t slot);
float panels_lane_step(const rgp_image_header *image, uint32_t slot);
uint32_t panels_lane_of(const rgp_image_header *image, const panel *p, guint k);
void panels_place_slots(drawing *d);
void panels_place_borders(drawing *d);
void panels_find_range(const drawing *d, panel *p);

#endif
