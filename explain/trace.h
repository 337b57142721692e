/* The past of a run as far as explanations need it: since when each value has been true or not, when it last was, who
 * has driven what since when, and when each rule fired. It is fed frame by frame, and takes the same memory however
 * long the run is. */
#ifndef EXPLAIN_TRACE_H
#define EXPLAIN_TRACE_H

#include "rigpulse/frame.h"

#include <stddef.h>

typedef enum rgp_truth { RGP_TRUTH_NONE, RGP_TRUTH_FALSE, RGP_TRUTH_TRUE, RGP_TRUTH_UNKNOWN } rgp_truth;

/* Times are those of ticks, in microseconds; UINT64_MAX: not yet. */
typedef struct rgp_trace_slot {
    uint64_t since_us; /* it has been as it is */
    uint64_t true_us;  /* it last was true */
    rgp_truth is;      /* NONE: there has been no tick */
} rgp_trace_slot;

typedef struct rgp_trace_rule {
    uint64_t fired_us; /* the last time */
    uint32_t fired, dropped;
} rgp_trace_rule;

typedef struct rgp_trace_actuator {
    uint64_t since_us; /* it has been driven by this owner */
    rgp_event relief;  /* what has brought it to rest last: spent, tired or stalled; time_us UINT64_MAX: nothing yet */
    uint16_t owner;
} rgp_trace_actuator;

struct rgp_decoded;

typedef struct rgp_trace {
    const rgp_image_header *image;
    struct rgp_decoded *step; /* by slot: the operation that writes it; `out` is another slot where none does */
    rgp_trace_slot *slot;
    rgp_trace_rule *rule;
    rgp_trace_actuator *actuator;
    uint64_t *new_us;  /* by sensor: its newest sample */
    rgp_event *loop;   /* by loop: the last event of its phase; time_us UINT64_MAX: none yet */
    rgp_event stop;    /* the last stop or resumption; likewise */
    uint64_t begin_us; /* of the first tick */
    bool any;          /* there has been one */
} rgp_trace;

rgp_trace *rgp_trace_new(const rgp_image_header *image);
void rgp_trace_free(rgp_trace *trace);

/* A copy of what it knows, and that put back into a trace of the same image. */
rgp_trace *rgp_trace_copy(const rgp_trace *trace);
void rgp_trace_put_back(rgp_trace *trace, const rgp_trace *copy);

/* The same as bytes, of which there are so many, for a trace of the same image of the same build. */
size_t rgp_trace_size(const rgp_trace *trace);
void rgp_trace_save(const rgp_trace *trace, uint8_t *to);
void rgp_trace_load(rgp_trace *trace, const uint8_t *from);

/* The next tick. */
void rgp_trace_frame(rgp_trace *trace, const rgp_frame_layout *layout, const rgp_frame *frame);

#endif
