/* Why something happened in a tick, or did not: the condition of a rule taken apart, who drives an actuator and what
 * has become of what was asked, what a loop does. As a tree, whose nodes are sentences without their ends.
 *
 * The rig has to be a traced one (rgp_rig_compile_traced()), and the trace has been told of every tick up to this one.
 */
#ifndef EXPLAIN_WHY_H
#define EXPLAIN_WHY_H

#include "trace.h"

#include "rigpulse/lang.h"

#include <glib.h>

/* FACT: neither true nor false, something that goes with what stands above it. */
typedef enum rgp_holds { RGP_HOLDS_FACT, RGP_HOLDS_YES, RGP_HOLDS_NO, RGP_HOLDS_UNKNOWN } rgp_holds;

typedef struct rgp_reason {
    rgp_holds holds;
    GString *says;
    uint64_t since_us; /* it has been so; UINT64_MAX: that is not known, or makes no sense of a moment */
    uint64_t last_us;  /* of what is not true: it last was; UINT64_MAX: never, or not asked */
    GPtrArray *part;   /* of rgp_reason */
} rgp_reason;

/* The tick that is asked about. */
typedef struct rgp_why {
    const rgp_rig *rig;
    const rgp_engine *engine; /* as the tick has left it */
    const rgp_frame_layout *layout;
    const rgp_frame *frame;
    const rgp_trace *trace;
} rgp_why;

/* Each is the caller's, to be given back with rgp_reason_free(). */
rgp_reason *rgp_why_rule(const rgp_why *why, uint32_t rule);
rgp_reason *rgp_why_actuator(const rgp_why *why, uint32_t actuator);
rgp_reason *rgp_why_loop(const rgp_why *why, uint32_t loop);

/* Of a named value, by its slot: what it is, what it is made of, and of names the borders that it lies between. */
rgp_reason *rgp_why_value(const rgp_why *why, uint32_t slot);

/* The distance of a rule from firing in this tick. */
typedef struct rgp_lack {
    uint32_t conditions; /* that are not true and would have to be */
    uint16_t slot;       /* of the one that is not, where it is one; else RGP_REF_NONE */
    float amount;        /* that it lacks, in `unit`; INFINITY: it is true or it is not, there is no almost */
    const char *unit;    /* "s" of a time */
    bool came;           /* the event that it is for came in this tick */
} rgp_lack;
rgp_lack rgp_why_lack(const rgp_why *why, uint32_t rule);

/* The condition of a slot as it is written in the rig's text. To be freed. */
char *rgp_why_text(const rgp_why *why, uint16_t slot);

rgp_reason *rgp_reason_new(rgp_holds holds, const char *format, ...) __attribute__((format(printf, 2, 3)));
void rgp_reason_free(rgp_reason *reason);

/* Takes the part. */
rgp_reason *rgp_reason_add(rgp_reason *to, rgp_reason *part);

/* For a person: a line for each node, indented by its depth, with "yes", "no" or "?" before what can be true. */
void rgp_reason_print(const rgp_reason *reason, GString *to);

#endif
